namespace Kettlefog.Core.Map.Model;

/// <summary>The meaning of a field's values, which decides how they are shown, entered, checked and compared.</summary>
public enum FieldKind
{
    /// <summary>Short text.</summary>
    Text,

    /// <summary>Text of several lines.</summary>
    LongText,

    /// <summary>A person's whole name.</summary>
    PersonName,

    /// <summary>A person's given name.</summary>
    GivenName,

    /// <summary>A person's middle names, or their initials.</summary>
    MiddleName,

    /// <summary>A person's family name.</summary>
    FamilyName,

    /// <summary>A generational suffix: Jr, Sr, III.</summary>
    NameSuffix,

    /// <summary>A household's name, as in "The Tilling family" or "Mr and Mrs Tilling".</summary>
    HouseholdName,

    /// <summary>An organisation's name.</summary>
    OrganisationName,

    /// <summary>An e-mail address.</summary>
    Email,

    /// <summary>A phone number.</summary>
    Phone,

    /// <summary>Street and house number, with the unit if there is one.</summary>
    Street,

    /// <summary>A house number in a field of its own.</summary>
    HouseNumber,

    /// <summary>A flat, unit or suite in a field of its own.</summary>
    Unit,

    /// <summary>City or town.</summary>
    City,

    /// <summary>County, state or region.</summary>
    Region,

    /// <summary>Postcode.</summary>
    Postcode,

    /// <summary>A country: two letters of ISO 3166-1.</summary>
    Country,

    /// <summary>A calendar date: ISO 8601, as in 2026-03-09.</summary>
    Date,

    /// <summary>A person's date of birth: ISO 8601.</summary>
    BirthDate,

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

    /// <summary>Another identifying number: a registration, a national or membership number, a hull number.</summary>
    Identifier,

    /// <summary>A bank account number.</summary>
    BankAccount,

    /// <summary>A web address.</summary>
    Url,
}
