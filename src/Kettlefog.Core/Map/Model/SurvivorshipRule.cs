namespace Kettlefog.Core.Map.Model;

/// <summary>How the surviving value is chosen. All rules except <see cref="Master"/> ignore blank values.</summary>
public enum SurvivorshipRule
{
    /// <summary>The master's value, blank or not.</summary>
    Master,

    /// <summary>The master's value unless blank, otherwise that of the first duplicate that has one.</summary>
    MasterUnlessBlank,

    /// <summary>The value of the record that was changed last.</summary>
    Newest,

    /// <summary>The value of the record that was created first.</summary>
    Oldest,

    /// <summary>The longest text, in characters.</summary>
    Longest,

    /// <summary>The value that most records have.</summary>
    MostCommon,

    /// <summary>The largest number, or the latest date.</summary>
    Largest,

    /// <summary>The smallest number, or the earliest date.</summary>
    Smallest,

    /// <summary>The value of the record with the most trusted source, by the record type's order.</summary>
    SourceOrder,

    /// <summary>The sum of all numbers, in exact decimals.</summary>
    Total,

    /// <summary>All members of sets, each once: of texts with a separator, or of JSON arrays.</summary>
    Union,

    /// <summary>All texts, one below the other, each with its origin.</summary>
    Append,
}
