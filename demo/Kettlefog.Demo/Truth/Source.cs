namespace Kettlefog.Demo.Truth;

/// <summary>Where a record comes from, which is how its values are written.</summary>
internal enum Source
{
    /// <summary>A clerk typed it.</summary>
    Clerk,

    /// <summary>Its owner typed it into a form.</summary>
    Form,

    /// <summary>An old system that knew capital letters only.</summary>
    Capitals,

    /// <summary>A file that was read in the wrong encoding.</summary>
    WrongEncoding,

    /// <summary>A scanner read it.</summary>
    Scanner,

    /// <summary>A list of payments: one line for the name, no phone, no mailbox.</summary>
    Payment,
}

/// <summary>Writes values as sources do.</summary>
internal static class Sources
{
    /// <summary>The share of each source among the records.</summary>
    public static IReadOnlyList<(double Share, Source Source)> All { get; } =
    [
        (0.48, Source.Clerk),
        (0.24, Source.Form),
        (0.13, Source.Capitals),
        (0.07, Source.WrongEncoding),
        (0.05, Source.Scanner),
        (0.03, Source.Payment),
    ];

    /// <summary>A text as it comes from a source.</summary>
    public static string? Write(this Source source, string? text, Slips slips) =>
        text is null
            ? null
            : source switch
            {
                Source.Form => slips.Chance(0.25) ? text.ToLowerInvariant() : text,
                Source.Capitals => Slips.WithoutAccents(text).ToUpperInvariant(),
                Source.WrongEncoding => slips.Misread(text),
                Source.Scanner => slips.Chance(0.12) ? slips.Scanned(text) : text,
                Source.Payment => Slips.WithoutAccents(text),
                _ => slips.Chance(0.02) ? slips.Misread(text) : text,
            };

    /// <summary>A phone number as it comes from a source; people abroad are reached by their calling code.</summary>
    public static string Write(this Source source, Phone phone, Slips slips)
    {
        var (habit, area, line) = phone;
        var abroad = habit.Calling != "44" && slips.Chance(0.6);
        var form =
            source == Source.Capitals ? 3
            : abroad ? slips.Pick([1, 1, 2, 4])
            : slips.Pick([0, 0, 0, 1, 3, 4, 5]);
        return form switch
        {
            0 => $"{habit.Trunk}{area} {line}",
            1 => $"+{habit.Calling} {area} {line}",
            2 => $"00{habit.Calling}{area}{line}",
            3 => $"{habit.Trunk}{area}{line}",
            4 => habit.Trunk.Length > 0
                ? $"+{habit.Calling} ({habit.Trunk}){area} {line}"
                : $"+{habit.Calling} {area}-{line}",
            _ => $"({habit.Trunk}{area}) {line[..3]}-{line[3..]}",
        };
    }

    /// <summary>The country as it comes from a source: often not at all.</summary>
    public static string? Write(this Source source, Habit habit, Slips slips) =>
        slips.Chance(source is Source.Form or Source.Payment ? 0.5 : 0.3) ? null
        : slips.Chance(0.55) ? habit.Code
        : slips.Pick(habit.Names);
}
