using Kettlefog.Core.Matching.Blocking;
using Kettlefog.Core.Matching.Evidence;
using Kettlefog.Core.Matching.Records;
using Kettlefog.Core.Text;
using Kettlefog.Core.Text.Similarity;

namespace Kettlefog.Core.Matching.Features;

/// <summary>Which columns hold the parts of an address; -1 or empty for none.</summary>
internal sealed record AddressColumns(int[] Street, int Number, int Unit, int Postcode, int City, int Region);

/// <summary>An address: the line with street, number and unit, and the place with postcode and town.</summary>
/// <param name="columns">The columns of the parts.</param>
/// <param name="kinds">Evidence about the line and about the place, in this order.</param>
internal sealed class AddressFeature(AddressColumns columns, EvidenceKind[] kinds) : Feature
{
    // A slice: these, then for each word of the street its token and letters; 0 where there is nothing, otherwise the
    // token plus one.
    private const int Building = 0,
        Number = 1,
        Unit = 2,
        Kind = 3,
        Postcode = 4,
        Town = 5,
        PostcodeLetters = 6,
        TownLetters = 7,
        Head = 8,
        Stride = 2;

    /// <summary>Up to this level of the line's evidence both are in one building.</summary>
    private const int SameBuilding = 2;

    /// <summary>The level of the place's evidence for different towns.</summary>
    private const int Elsewhere = 2;

    private readonly TokenTable _buildings = new();
    private readonly TokenTable _words = new();
    private readonly TokenTable _places = new();

    public override IReadOnlyList<EvidenceKind> Evidence => kinds;

    public override void Prepare(IReadOnlyList<string?> row, WordBuffer words, List<int> into)
    {
        var parts = new StreetParts();
        var postcode = Compact(columns.Postcode, row, words);
        var town = TownOf(row, words);
        foreach (var column in columns.Street)
        {
            if (row[column] is { Length: > 0 } line && !Junk.IsJunk(line))
                StreetReader.Read(WithoutPlace(line, ref postcode, ref town, words), words, parts);
        }

        if (columns.Number >= 0 && StreetReader.Number(row[columns.Number], words) is { Length: > 0 } number)
            (parts.Number, parts.Unit) = (
                number,
                parts.Unit.Length > 0 ? parts.Unit
                : parts.Number == number ? ""
                : parts.Number
            );
        if (columns.Unit >= 0 && StreetReader.Number(row[columns.Unit], words) is { Length: > 0 } unit)
            parts.Unit = unit;
        if (parts.Street.Count == 0 && postcode.Length == 0 && town.Length == 0)
            return;
        var street = string.Join(' ', parts.Street.Take(6).Order(StringComparer.Ordinal));
        var building =
            parts.Street.Count == 0
                ? 0
                : 1 + _buildings.Intern($"{parts.Number}|{street}|{(town.Length > 0 ? town : postcode)}").Id;
        into.AddRange([
            building,
            Id(_words, parts.Number),
            Id(_words, parts.Unit),
            Id(_words, parts.Kind),
            Id(_places, postcode),
            Id(_places, town),
            LetterMask.Of(postcode),
            LetterMask.Of(town),
        ]);
        foreach (var word in parts.Street.Take(6).Select(word => _words.Intern(word)))
            into.AddRange([word.Id, word.Mask]);
    }

    public override void Count(ReadOnlySpan<int> slice, int records)
    {
        if (slice.IsEmpty)
            return;
        if (slice[Building] > 0)
            _buildings[slice[Building] - 1].Add(records);
        if (slice[Postcode] > 0)
            _places[slice[Postcode] - 1].Add(records);
        if (slice[Town] > 0)
            _places[slice[Town] - 1].Add(records);
        for (var word = Head; word < slice.Length; word += Stride)
            _words[slice[word]].Add(records);
    }

    public override void Compare(ReadOnlySpan<int> a, ReadOnlySpan<int> b, Span<Finding> into)
    {
        into[0] = Finding.None;
        into[1] = Finding.None;
        if (a.IsEmpty || b.IsEmpty)
            return;
        into[1] = ComparePlace(a, b);

        // Another town means another address: the same difference is not counted twice.
        if (a[Building] == 0 || b[Building] == 0 || into[1].Level == Elsewhere)
            return;
        into[0] = CompareLine(a, b);

        // The place is part of the line's frequency: the same building is not also evidence of the same town.
        if (into[0].Level <= SameBuilding)
            into[1] = Finding.None;
    }

    public override void AddParts(ReadOnlySpan<int> slice, KeyParts parts)
    {
        if (slice.IsEmpty)
            return;
        if (slice[Building] > 0)
        {
            // The rarest word of the street with the house number: kinds, order and further words may differ.
            var rarest = Rarest(slice[Head..]);
            var number = slice[Number] > 0 ? Digits(_words[slice[Number] - 1].Text) : 0;
            parts.AddWeak(KeySlot.Building, rarest.Sound + number);
        }

        if (slice[Postcode] > 0)
            parts.AddWeak(KeySlot.Postcode, _places[slice[Postcode] - 1].Hash);
        if (slice[Town] > 0)
            parts.AddWeak(KeySlot.Town, _places[slice[Town] - 1].Sound);
    }

    public override void Shared(ReadOnlySpan<int> slice, List<Token> into)
    {
        if (!slice.IsEmpty && slice[Building] > 0)
            into.Add(_buildings[slice[Building] - 1]);
    }

    private Finding CompareLine(ReadOnlySpan<int> a, ReadOnlySpan<int> b)
    {
        var unitDiffers = a[Unit] != b[Unit] && a[Unit] > 0 && b[Unit] > 0;
        if (a[Building] == b[Building] && a[Number] > 0 && a[Kind] == b[Kind])
            return new Finding(unitDiffers ? 2 : 0, Rarity(_buildings[a[Building] - 1]));
        if (AreOfTwoScripts(a[Head..], b[Head..]))
            return Finding.None;
        var street = CompareStreet(a[Head..], b[Head..]);
        if (street.Relation == WordRelation.Different)
            return new Finding(4);
        var (left, right) = (_buildings[a[Building] - 1], _buildings[b[Building] - 1]);
        var rarity = Rarity(left, right);
        var number = CompareNumber(a[Number], b[Number]);
        if (number == WordRelation.Different)
            return new Finding(3, street.Rarity);
        if (unitDiffers || number == WordRelation.Variant)
            return new Finding(2, rarity);
        if (a[Number] == 0 || b[Number] == 0)
            return new Finding(1, Math.Min(rarity, street.Rarity));
        if (number == WordRelation.Misspelt)
            return street.Relation == WordRelation.Same ? new Finding(1, street.Rarity) : new Finding(3, street.Rarity);
        var kindDiffers = a[Kind] != b[Kind] && a[Kind] > 0 && b[Kind] > 0;
        return new Finding(street.Relation == WordRelation.Same && !kindDiffers ? 0 : 1, rarity);
    }

    /// <summary>True for streets of two scripts, of which one may be the translation of the other.</summary>
    private bool AreOfTwoScripts(ReadOnlySpan<int> a, ReadOnlySpan<int> b) =>
        (LetterMask.HasOthers(MaskOf(a)) || LetterMask.HasOthers(MaskOf(b)))
        && WordRelations.AreOfTwoScripts(_words[a[0]], _words[b[0]]);

    private (WordRelation Relation, float Rarity) CompareStreet(ReadOnlySpan<int> a, ReadOnlySpan<int> b)
    {
        // Which word is the best for another depends on the side one looks from: what both sides see counts.
        var (sameA, metA, rarityA) = MetIn(a, b);
        var (sameB, metB, rarityB) = MetIn(b, a);
        var (same, met, rarity) = (Math.Min(sameA, sameB), Math.Min(metA, metB), Math.Min(rarityA, rarityB));
        var (fewest, most) = (Math.Min(a.Length, b.Length) / Stride, Math.Max(a.Length, b.Length) / Stride);
        if (same == most)
            return (WordRelation.Same, rarity);
        if (met > 0 && (met == fewest || met * 3 >= most * 2))
            return (WordRelation.Misspelt, rarity);
        return
            a.Length != b.Length
            && LetterMask.Difference(MaskOf(a), MaskOf(b)) <= 2
            && DamerauLevenshtein.Distance(Joined(a), Joined(b), 1) <= 1
            ? (WordRelation.Misspelt, Rarity(2))
            : (WordRelation.Different, 0);
    }

    /// <summary>
    /// The number of words of one street found in another: the same ones, and misspelt or shortened ones.
    /// </summary>
    private (int Same, int Met, float Rarity) MetIn(ReadOnlySpan<int> a, ReadOnlySpan<int> b)
    {
        int same = 0,
            met = 0;
        float rarest = 0;
        for (var i = 0; i < a.Length; i += Stride)
        {
            var best = WordRelation.Different;
            float rarity = 0;
            for (var j = 0; j < b.Length && best != WordRelation.Same; j += Stride)
            {
                if (a[i] != b[j] && !WordRelations.MayBeSimilar(a[i + 1], b[j + 1]))
                    continue;
                var (left, right) = (_words[a[i]], _words[b[j]]);
                var relation = WordRelations.Of(left, right, initials: false);
                if (relation >= WordRelation.Faint && WordRelations.IsShortened(left.Text, right.Text))
                    relation = WordRelation.Misspelt;
                if (relation < best)
                    (best, rarity) = (relation, Rarity(left, right));
            }

            same += best == WordRelation.Same ? 1 : 0;
            met += best <= WordRelation.Misspelt ? 1 : 0;
            if (best <= WordRelation.Misspelt)
                rarest = Math.Max(rarest, rarity);
        }

        return (same, met, rarest);
    }

    private WordRelation CompareNumber(int a, int b)
    {
        if (a == b || a == 0 || b == 0)
            return WordRelation.Same;
        var (x, y) = (_words[a - 1].Text, _words[b - 1].Text);
        if (Digits(x) == Digits(y))
            return WordRelation.Variant;
        return x.Length == y.Length && x.Length > 1 && IsSwap(x, y) ? WordRelation.Misspelt : WordRelation.Different;
    }

    private Finding ComparePlace(ReadOnlySpan<int> a, ReadOnlySpan<int> b)
    {
        var postcodes = a[Postcode] > 0 && b[Postcode] > 0;
        if (postcodes && a[Postcode] == b[Postcode])
            return new Finding(0, Rarity(_places[a[Postcode] - 1]));
        var near =
            postcodes
            && LetterMask.Difference(a[PostcodeLetters], b[PostcodeLetters]) <= 2
            && DamerauLevenshtein.Distance(_places[a[Postcode] - 1].Text, _places[b[Postcode] - 1].Text, 1) <= 1;
        if (a[Town] > 0 && b[Town] > 0)
        {
            if (a[Town] != b[Town] && !near && !WordRelations.MayBeSimilar(a[TownLetters], b[TownLetters]))
                return new Finding(2);
            var (left, right) = (_places[a[Town] - 1], _places[b[Town] - 1]);
            var read = WordRelations.AreOfTwoScripts(left, right)
                ? Readings.Relation(left.Reading, right.Reading)
                : WordRelation.Different;
            if (read is null && !near)
                return postcodes ? new Finding(2) : Finding.None;
            var same =
                a[Town] == b[Town]
                || read <= WordRelation.Misspelt
                || WordRelations.IsMisspelling(left, right)
                || left.Text.Contains(right.Text, StringComparison.Ordinal)
                || right.Text.Contains(left.Text, StringComparison.Ordinal);
            if (same)
                return new Finding(!postcodes && a[Town] == b[Town] ? 0 : 1, Rarity(left, right));
            return near ? new Finding(1, Rarity(left, right)) : new Finding(2);
        }

        if (!postcodes)
            return Finding.None;
        return near ? new Finding(1, Rarity(_places[a[Postcode] - 1], _places[b[Postcode] - 1])) : new Finding(2);
    }

    private Token Rarest(ReadOnlySpan<int> words)
    {
        var rarest = _words[words[0]];
        for (var at = Stride; at < words.Length; at += Stride)
        {
            var token = _words[words[at]];
            if (token.Count < rarest.Count || (token.Count == rarest.Count && token.Hash < rarest.Hash))
                rarest = token;
        }

        return rarest;
    }

    private string Joined(ReadOnlySpan<int> words)
    {
        var joined = "";
        for (var at = 0; at < words.Length; at += Stride)
            joined += _words[words[at]].Text;
        return joined;
    }

    private static int MaskOf(ReadOnlySpan<int> words)
    {
        var mask = 0;
        for (var at = 0; at < words.Length; at += Stride)
            mask |= words[at + 1];
        return mask;
    }

    /// <summary>
    /// The street of a one-line address. Its town and postcode are used if no column has them, or if the columns say
    /// the same; otherwise the line stays whole.
    /// </summary>
    private static string WithoutPlace(string line, ref string postcode, ref string town, WordBuffer words)
    {
        var hasNoSpaces = Scripts.HasNoSpaces(Scripts.Of(line));
        if (line.AsSpan().IndexOfAny(",;\n，、") < 0 && !hasNoSpaces)
            return line;
        var parsed = AddressLine.Read(line);
        var (ownPostcode, ownTown) = (Compact(parsed.Postcode, words), Compact(parsed.Town, words));
        if (ownTown.Length == 0 && ownPostcode.Length == 0)
            return hasNoSpaces ? parsed.Street : line;
        var isElsewhere = (town.Length > 0 && town != ownTown) || (postcode.Length > 0 && postcode != ownPostcode);
        if (isElsewhere)
            return line;
        (postcode, town) = (ownPostcode, ownTown);
        return parsed.Street;
    }

    private string TownOf(IReadOnlyList<string?> row, WordBuffer words)
    {
        var town = Compact(columns.City, row, words);
        return town.Length > 0 ? town : Compact(columns.Region, row, words);
    }

    private static string Compact(int column, IReadOnlyList<string?> row, WordBuffer words)
    {
        return column < 0 ? "" : Compact(row[column], words);
    }

    private static string Compact(string? text, WordBuffer words)
    {
        if (string.IsNullOrEmpty(text) || Junk.IsJunk(text))
            return "";
        words.Split(text, FullStops.JoinLetters);
        var compact = "";
        for (var at = 0; at < words.Count; at++)
            compact += words[at].ToString();
        return compact;
    }

    private static int Id(TokenTable table, string text) => text.Length == 0 ? 0 : table.Intern(text).Id + 1;

    private static ulong Digits(string text)
    {
        ulong digits = 0;
        foreach (var letter in text)
        {
            if (char.IsAsciiDigit(letter))
                digits = (digits * 10) + (ulong)(letter - '0');
        }

        return digits;
    }

    private static bool IsSwap(string a, string b)
    {
        var distance = DamerauLevenshtein.Distance(a, b, 1);
        return distance <= 1 && a.Length > 2 || a.Order().SequenceEqual(b.Order());
    }
}
