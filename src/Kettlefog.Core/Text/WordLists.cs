namespace Kettlefog.Core.Text;

/// <summary>The built-in word lists: one file each, beside this one.</summary>
internal static class WordLists
{
    /// <summary>Spellings of words in organisation names, each with its normal form.</summary>
    public static IReadOnlyDictionary<string, string> OrganisationWords { get; } = Spellings("organisation-words.txt");

    /// <summary>Spellings of words in addresses, each with its normal form.</summary>
    public static IReadOnlyDictionary<string, string> StreetWords { get; } = Spellings("street-words.txt");

    /// <summary>Words that distinguish branches or parts of an organisation.</summary>
    public static IReadOnlySet<string> PlaceWords { get; } = Set("place-words.txt");

    /// <summary>Local parts of shared mailboxes.</summary>
    public static IReadOnlySet<string> SharedMailboxes { get; } = Set("shared-mailboxes.txt");

    /// <summary>Public mail providers, whose addresses are no evidence of an employer.</summary>
    public static IReadOnlySet<string> PublicMailHosts { get; } = Set("public-mail.txt");

    /// <summary>Groups of given names that are forms of one name.</summary>
    public static IReadOnlyList<string[]> Nicknames { get; } =
    [.. Lines("nicknames.txt").Select(line => line.Split(' ', StringSplitOptions.RemoveEmptyEntries))];

    /// <summary>Given names of women.</summary>
    public static IReadOnlySet<string> Women { get; } = Set("given-names-women.txt");

    /// <summary>Given names of men.</summary>
    public static IReadOnlySet<string> Men { get; } = Set("given-names-men.txt");

    /// <summary>
    /// Spellings of legal forms, each with country and form, as in <c>GB limited</c>; the first country that has it.
    /// </summary>
    public static IReadOnlyDictionary<string, string> LegalForms { get; } = ReadLegalForms();

    /// <summary>Placeholders that people type for unknown values.</summary>
    public static HashSet<string> JunkValues { get; } = Set("junk-values.txt");

    private static Dictionary<string, string> ReadLegalForms()
    {
        var forms = new Dictionary<string, string>();
        foreach (var line in Lines("legal-forms.txt"))
        {
            var colon = line.IndexOf(':', StringComparison.Ordinal);
            foreach (
                var spelling in line[(colon + 1)..]
                    .Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
            )
                forms.TryAdd(PlainLetters.Of(spelling), line[..colon]);
        }

        return forms;
    }

    private static Dictionary<string, string> Spellings(string file)
    {
        var spellings = new Dictionary<string, string>();
        foreach (var line in Lines(file))
        {
            var colon = line.IndexOf(':', StringComparison.Ordinal);
            foreach (var spelling in line[(colon + 1)..].Split(' ', StringSplitOptions.RemoveEmptyEntries))
                spellings.TryAdd(spelling, line[..colon]);
        }

        return spellings;
    }

    /// <summary>The lines of a list in which each has a name, a colon, and what belongs to it between commas.</summary>
    public static IEnumerable<(string Name, string[] Listed)> Listed(string file) =>
        Lines(file)
            .Select(line => line.Split(':', 2))
            .Select(parts =>
                (
                    parts[0].Trim(),
                    parts[1].Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
                )
            );

    public static HashSet<string> Set(string file) =>
        [.. Lines(file).SelectMany(line => line.Split(' ', StringSplitOptions.RemoveEmptyEntries))];

    private static IEnumerable<string> Lines(string file)
    {
        using var stream = typeof(WordLists).Assembly.GetManifestResourceStream(file)!;
        using var reader = new StreamReader(stream);
        while (reader.ReadLine() is { } line)
        {
            if (line.Length > 0 && line[0] != '#')
                yield return line;
        }
    }
}
