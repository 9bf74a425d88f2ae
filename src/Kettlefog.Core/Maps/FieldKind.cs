namespace Kettlefog.Core.Maps;

/// <summary>What a field's value means: decides how it is shown, typed in, checked and compared.</summary>
public enum FieldKind
{
    /// <summary>Short text.</summary>
    Text,

    /// <summary>Text of several lines.</summary>
    LongText,

    /// <summary>A person's name.</summary>
    PersonName,

    /// <summary>An organisation's name.</summary>
    OrganisationName,

    /// <summary>An e-mail address.</summary>
    Email,

    /// <summary>A phone number.</summary>
    Phone,

    /// <summary>Street and house number.</summary>
    Street,

    /// <summary>City or town.</summary>
    City,

    /// <summary>Postcode.</summary>
    Postcode,

    /// <summary>A country: two letters of ISO 3166-1.</summary>
    Country,

    /// <summary>A calendar date: ISO 8601, as in 2026-03-09.</summary>
    Date,

    /// <summary>A point in time: ISO 8601, as in 2026-03-09T14:30:00Z.</summary>
    Timestamp,

    /// <summary>An amount of money.</summary>
    Money,

    /// <summary>A currency: three letters of ISO 4217.</summary>
    Currency,

    /// <summary>A number that counts or measures.</summary>
    Number,

    /// <summary>A whole number.</summary>
    Integer,

    /// <summary>A code from the operational system's own list.</summary>
    Code,

    /// <summary>Yes or no: 1 or 0.</summary>
    Flag,

    /// <summary>A tax number.</summary>
    TaxNumber,

    /// <summary>A bank account number.</summary>
    BankAccount,

    /// <summary>A web address.</summary>
    Url,
}
