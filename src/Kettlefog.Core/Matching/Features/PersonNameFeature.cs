using System.Numerics;
using Kettlefog.Core.Matching.Blocking;
using Kettlefog.Core.Matching.Evidence;
using Kettlefog.Core.Matching.Records;
using Kettlefog.Core.Text;

namespace Kettlefog.Core.Matching.Features;

/// <summary>The columns of the parts of a person's name.</summary>
/// <param name="Full">Whole names.</param>
/// <param name="Given">Given names.</param>
/// <param name="Middle">Middle names.</param>
/// <param name="Family">Family names.</param>
/// <param name="Suffix">Generational suffixes.</param>
internal sealed record PersonNameColumns(int[] Full, int[] Given, int[] Middle, int[] Family, int[] Suffix);

/// <summary>
/// A person's name: given name, middle names, family name and generational suffix, in any order, with initials,
/// nicknames, particles and double names.
/// </summary>
/// <param name="columns">The columns of the parts.</param>
/// <param name="nicknames">Finds the groups of names that are forms of one name.</param>
/// <param name="kinds">Evidence about given name, middle names, family name and suffix, in this order.</param>
internal sealed class PersonNameFeature(PersonNameColumns columns, Nicknames nicknames, EvidenceKind[] kinds) : Feature
{
    private const int Given = 0,
        Middle = 1,
        Family = 2;

    // A slice: suffix, number of given, middle and family names, then for each its token and its letters.
    private const int Head = 4,
        Stride = 2;

    /// <summary>Beside the letters: the name has nicknames, or is one.</summary>
    private const int HasNicknames = 1 << 30;

    /// <summary>Longer words are no names that a scanner misread.</summary>
    private const int MaxWord = 40;

    private static readonly HashSet<string> Titles =
    [
        "mr",
        "mrs",
        "ms",
        "miss",
        "mx",
        "dr",
        "prof",
        "professor",
        "rev",
        "sir",
        "dame",
        "lady",
        "lord",
        "herr",
        "frau",
        "monsieur",
        "madame",
        "mme",
        "mlle",
        "senor",
        "senora",
        "signor",
        "signora",
        "capt",
        "captain",
        "col",
        "major",
        "hon",
        "ing",
        "dipl",
        "esq",
        "phd",
        "md",
        "obe",
        "mbe",
        "cbe",
        "dds",
        "cpa",
        "msc",
        "bsc",
        "ma",
        "ba",
        "mba",
    ];

    private static readonly HashSet<string> Particles =
    [
        "van",
        "von",
        "vom",
        "zu",
        "zum",
        "zur",
        "de",
        "der",
        "den",
        "del",
        "della",
        "di",
        "da",
        "dos",
        "das",
        "do",
        "du",
        "des",
        "la",
        "le",
        "les",
        "el",
        "al",
        "bin",
        "ibn",
        "ben",
        "bint",
        "af",
        "av",
        "ter",
        "ten",
        "te",
        "het",
        "op",
        "y",
        "e",
        "st",
        "saint",
        "mac",
        "nic",
        "ni",
        "o",
        "بن",
        "ابن",
        "بنت",
    ];

    private static readonly Dictionary<string, int> Suffixes = new()
    {
        ["jr"] = 2,
        ["jnr"] = 2,
        ["junior"] = 2,
        ["ii"] = 2,
        ["2nd"] = 2,
        ["fils"] = 2,
        ["sr"] = 1,
        ["snr"] = 1,
        ["senior"] = 1,
        ["1st"] = 1,
        ["pere"] = 1,
        ["iii"] = 3,
        ["3rd"] = 3,
        ["iv"] = 4,
        ["4th"] = 4,
    };

    private readonly TokenTable _names = new();

    public override IReadOnlyList<EvidenceKind> Evidence => kinds;

    public override void Prepare(IReadOnlyList<string?> row, WordBuffer words, List<int> into)
    {
        var name = new Parts();
        foreach (var column in columns.Given)
            name.Given.AddRange(Read(row[column], words, ref name.Suffix));
        foreach (var column in columns.Middle)
            name.Middle.AddRange(Read(row[column], words, ref name.Suffix));
        foreach (var column in columns.Family)
            name.Family.AddRange(Read(row[column], words, ref name.Suffix));
        foreach (var column in columns.Suffix)
        {
            if (row[column] is { Length: > 0 } suffix)
                Read("x " + suffix, words, ref name.Suffix);
        }

        if (name.Given.Count == 0 && name.Family.Count == 0)
        {
            foreach (var column in columns.Full)
            {
                if (row[column] is { Length: > 0 } full && ReadFull(full, words, name))
                    break;
            }
        }
        else if (name.Given.Count == 0 && name.Family.Count > 1)
        {
            ReadWholeFromFamily(row, words, name);
        }

        // Who has no given name goes by another.
        if (name.Given.Count == 0 && name.Middle.Count > 0)
        {
            name.Given.Add(name.Middle[0]);
            name.Middle.RemoveAt(0);
        }

        if (name.Given.Count > 1)
        {
            name.Middle.InsertRange(0, name.Given[1..]);
            name.Given.RemoveRange(1, name.Given.Count - 1);
        }

        if (name.Given.Count + name.Middle.Count + name.Family.Count == 0)
            return;
        into.AddRange([name.Suffix, name.Given.Count, name.Middle.Count, name.Family.Count]);
        foreach (var id in name.Given.Concat(name.Middle).Concat(name.Family))
        {
            var token = _names[id];
            into.AddRange([id, token.Mask | (nicknames.Knows(token) ? HasNicknames : 0)]);
        }
    }

    public override void Count(ReadOnlySpan<int> slice, int records)
    {
        for (var at = Head; at < slice.Length; at += Stride)
            _names[slice[at]].Add(records);
    }

    public override void Compare(ReadOnlySpan<int> a, ReadOnlySpan<int> b, Span<Finding> into)
    {
        into[..4].Fill(Finding.None);
        if (a.IsEmpty || b.IsEmpty)
            return;
        var given = WithMiddle(a, b, WithMiddle(b, a, Best(Names(a, Given), Names(b, Given))));
        var family = CompareFamily(a, b);
        if (given.Relation >= WordRelation.Faint && family.Relation >= WordRelation.Faint)
        {
            var crossed = Best(Names(a, Given), Names(b, Family));
            var back = Best(Names(a, Family), Names(b, Given));

            // Each in the other's place, or one there and the other changed as well.
            if (
                crossed.Relation <= WordRelation.Initial
                && back.Relation <= WordRelation.Initial
                && Math.Min((int)crossed.Relation, (int)back.Relation) <= (int)WordRelation.Misspelt
            )
                (given, family) = crossed.IsRarer(back) ? (back, crossed) : (crossed, back);
            else if (crossed.Relation <= WordRelation.Variant)
                (given, family) = OneInPlaceOfOther(Names(a, Given), crossed, back, family);
            else if (back.Relation <= WordRelation.Variant)
                (given, family) = OneInPlaceOfOther(Names(b, Given), back, crossed, family);
        }

        var byMiddle = false;
        if (given.Relation == WordRelation.Different)
        {
            // Some go by their middle name.
            var other = Best(Names(a, Given), Names(b, Middle));
            var own = Best(Names(a, Middle), Names(b, Given));
            var best = own.Or(other);
            if (best.Relation <= WordRelation.Misspelt)
            {
                given = best;
                byMiddle = true;
            }
        }

        into[Given] = GivenFinding(given, byMiddle);

        // Relatives are to be told apart: of others there is no need to look.
        if (into[Given].Level == DifferentGiven && family.Relation < WordRelation.Different && AreOfTwoSexes(a, b))
            into[Given] = new Finding(DifferentGiven + 1);
        into[Family - 1] = family.ToFinding();
        if (!byMiddle && a[1 + Middle] > 0 && b[1 + Middle] > 0)
            into[2] = CompareMiddle(Names(a, Middle), Names(b, Middle));
        if (a[0] != 0 || b[0] != 0)
            into[3] = new Finding(
                a[0] == b[0] ? 0
                : a[0] == 0 || b[0] == 0 ? 1
                : 2
            );
    }

    public override void AddParts(ReadOnlySpan<int> slice, KeyParts parts)
    {
        for (var at = Head; at < slice.Length; at += Stride)
        {
            var token = _names[slice[at]];
            if (token.Text.Length > 1 || token.IsOfOtherScript)
                parts.AddWeak(KeySlot.Name, nicknames.SoundOf(token));
            foreach (var sound in token.OtherSounds)
                parts.AddWeak(KeySlot.Name, sound);
        }
    }

    public override ulong NameOf(ReadOnlySpan<int> slice)
    {
        // Given names distinguish the members of a household; nicknames and typing errors mostly keep their first
        // letter.
        if (slice.IsEmpty)
            return 0;
        var family = Names(slice, Family);
        var given = Names(slice, Given);
        var letter = given.IsEmpty ? '?' : _names[given[0]].Text[0];
        return (family.IsEmpty ? 1 : _names[family[0]].Sound) ^ letter;
    }

    /// <summary>
    /// What stands as the given name of one record and as the family name of the other is either: it is the given name
    /// if it is known as one, and otherwise the family name, of which relatives have the same.
    /// </summary>
    /// <param name="given">The given names of the record in which it stands there.</param>
    /// <param name="agreement">How it agrees.</param>
    /// <param name="rest">How the other two names agree.</param>
    /// <param name="family">How the family names agree.</param>
    private (NameRelation Given, NameRelation Family) OneInPlaceOfOther(
        ReadOnlySpan<int> given,
        NameRelation agreement,
        NameRelation rest,
        NameRelation family
    )
    {
        var token = _names[given[0]];
        var isGiven =
            WordLists.Women.Contains(token.Text) || WordLists.Men.Contains(token.Text) || nicknames.Knows(token);
        return isGiven ? (agreement, family) : (rest, agreement);
    }

    /// <summary>
    /// The levels of a given name are those of a word, with the middle name's between initial and faint.
    /// </summary>
    private static Finding GivenFinding(NameRelation given, bool byMiddle)
    {
        if (given.Missing)
            return Finding.None;
        var level = byMiddle
            ? (int)WordRelation.Initial + 1
            : (int)given.Relation + (given.Relation > WordRelation.Initial ? 1 : 0);
        return new Finding(level, given.Rarity);
    }

    private const int DifferentGiven = (int)WordRelation.Different + 1;

    /// <summary>True if one goes by a woman's name and the other by a man's.</summary>
    private bool AreOfTwoSexes(ReadOnlySpan<int> a, ReadOnlySpan<int> b) =>
        Math.Abs(SexOf(Names(a, Given)) - SexOf(Names(b, Given))) == 2;

    /// <summary>1 if all of some names are women's, -1 if all are men's, and otherwise 0.</summary>
    private int SexOf(ReadOnlySpan<int> names)
    {
        var sex = Sex.Unknown;
        for (var at = 0; at < names.Length; at += Stride)
        {
            var each = _names[names[at]].Sex;
            if (each == Sex.Unknown || (at > 0 && each != sex))
                return 0;
            sex = each;
        }

        return sex switch
        {
            Sex.Woman => 1,
            Sex.Man => -1,
            _ => 0,
        };
    }

    private static ReadOnlySpan<int> Names(ReadOnlySpan<int> slice, int part) =>
        part switch
        {
            Given => slice.Slice(Head, Stride * slice[1]),
            Middle => slice.Slice(Head + (Stride * slice[1]), Stride * slice[2]),
            _ => slice[(Head + (Stride * (slice[1] + slice[2])))..],
        };

    private NameRelation Best(ReadOnlySpan<int> a, ReadOnlySpan<int> b, bool isFamily = false)
    {
        if (a.IsEmpty || b.IsEmpty)
            return new NameRelation(WordRelation.Different, 0, true);
        var best = new NameRelation(WordRelation.Different, 0);
        var isUnread = false;
        for (var i = 0; i < a.Length; i += Stride)
        {
            for (var j = 0; j < b.Length; j += Stride)
            {
                if (a[i] == b[j])
                {
                    best = best.Or(new NameRelation(WordRelation.Same, Rarity(_names[a[i]], OwnName)));
                    continue;
                }

                var bothNicknames = (a[i + 1] & b[j + 1] & HasNicknames) != 0;
                var oneNickname = ((a[i + 1] | b[j + 1]) & HasNicknames) != 0;
                if (
                    !bothNicknames
                    && !(oneNickname && IsOneLetter(a[i + 1], b[j + 1]))
                    && !WordRelations.MayBeSimilar(a[i + 1] & ~HasNicknames, b[j + 1] & ~HasNicknames)
                )
                    continue;
                var (left, right) = (_names[a[i]], _names[b[j]]);
                if (WordRelations.AreOfTwoScripts(left, right))
                {
                    var read = ReadOf(left, right, right.Reading);
                    isUnread |= read.Missing;
                    best = best.Or(read);
                    continue;
                }

                var relation = WordRelations.Of(left, right, initials: true);
                if (relation >= WordRelation.Misspelt && bothNicknames && nicknames.Share(left, right))
                    relation = WordRelation.Variant;
                if (
                    relation is WordRelation.Misspelt or WordRelation.Faint
                    && !isFamily
                    && Sexes.Differ(left.Text, right.Text)
                )
                    relation = WordRelation.Different;
                if (relation == WordRelation.Different && !isFamily && nicknames.HaveInitial(left, right))
                    relation = WordRelation.Initial;
                if (relation <= best.Relation)
                    best = best.Or(
                        new NameRelation(
                            relation,
                            relation == WordRelation.Different ? 0 : Rarity(left, right, OwnName)
                        )
                    );
            }
        }

        return best with
        {
            Missing = isUnread && best.Relation == WordRelation.Different,
        };
    }

    /// <summary>How a name agrees with the reading of another in another script.</summary>
    private NameRelation ReadOf(Token name, Token other, Reading reading) =>
        Readings.Relation(name.Reading, reading) switch
        {
            null => new NameRelation(WordRelation.Different, 0, Missing: true),
            WordRelation.Different => new NameRelation(WordRelation.Different, 0),
            WordRelation.Variant => new NameRelation(
                WordRelation.Same,
                Math.Max(0, Rarity(name, other, OwnName) - BitsOfReading)
            ),
            { } relation => new NameRelation(relation, Rarity(name, other, OwnName)),
        };

    /// <summary>About four names of one script have the same reading in another.</summary>
    private const float BitsOfReading = 2;

    /// <summary>
    /// A given name in one word and the same in two: Minsu and Min-su, or in a script in which it is one.
    /// </summary>
    private NameRelation WithMiddle(ReadOnlySpan<int> one, ReadOnlySpan<int> two, NameRelation given)
    {
        var whole = Names(one, Given);
        var first = Names(two, Given);
        var second = Names(two, Middle);
        if (
            given.Relation <= WordRelation.Variant && !given.Missing
            || whole.Length != Stride
            || first.Length != Stride
            || second.IsEmpty
        )
            return given;
        var (name, start, end) = (_names[whole[0]], _names[first[0]], _names[second[0]]);
        if (WordRelations.AreOfTwoScripts(name, start))
        {
            var read = ReadOf(name, start, Reading.Of(start.Text + end.Text));
            return read.Missing ? given
                : given.Missing ? read
                : given.Or(read);
        }

        return
            name.Text.Length == start.Text.Length + end.Text.Length
            && end.Text.Length > 1
            && name.Text.StartsWith(start.Text, StringComparison.Ordinal)
            && name.Text.EndsWith(end.Text, StringComparison.Ordinal)
            ? new NameRelation(WordRelation.Variant, Rarity(name, OwnName))
            : given;
    }

    /// <summary>True if one of two words has one letter only.</summary>
    private static bool IsOneLetter(int maskA, int maskB) =>
        BitOperations.IsPow2(maskA & ~HasNicknames) || BitOperations.IsPow2(maskB & ~HasNicknames);

    private NameRelation CompareFamily(ReadOnlySpan<int> a, ReadOnlySpan<int> b)
    {
        var x = Names(a, Family);
        var y = Names(b, Family);
        var best = Best(x, y, isFamily: true);
        if (best.Missing)
            return best;

        // One half of a double name is often left out: "part" takes the level that nicknames have for given names.
        if (best.Relation == WordRelation.Variant)
            best = best with { Relation = WordRelation.Different };
        if (best.Relation <= WordRelation.Misspelt && x.Length != y.Length)
            return best with { Relation = WordRelation.Variant };
        return best;
    }

    private Finding CompareMiddle(ReadOnlySpan<int> a, ReadOnlySpan<int> b)
    {
        var best = Best(a, b);
        return best.Relation switch
        {
            WordRelation.Same or WordRelation.Variant or WordRelation.Misspelt => new Finding(0, best.Rarity),
            WordRelation.Initial => new Finding(1),
            _ => new Finding(2),
        };
    }

    /// <summary>A bank or an old list has the whole name in one field, and that is the family name's.</summary>
    private void ReadWholeFromFamily(IReadOnlyList<string?> row, WordBuffer words, Parts name)
    {
        foreach (var column in columns.Family)
        {
            var whole = new Parts { Suffix = name.Suffix };
            if (
                row[column] is { Length: > 0 } full
                && HasParts(full)
                && ReadFull(full, words, whole)
                && whole.Given.Count > 0
            )
            {
                name.Family.Clear();
                name.Family.AddRange(whole.Family);
                name.Given.AddRange(whole.Given);
                return;
            }
        }
    }

    /// <summary>True for more than one word between spaces, particles aside: a name with a hyphen is one.</summary>
    private static bool HasParts(string name) =>
        name.Split([' ', ','], StringSplitOptions.RemoveEmptyEntries)
            .Count(word => !Particles.Contains(PlainLetters.Of(word))) > 1;

    /// <summary>Reads the words of one part; a suffix among them is taken out.</summary>
    private List<int> Read(string? text, WordBuffer words, ref int suffix)
    {
        var names = new List<int>(3);
        if (string.IsNullOrWhiteSpace(text) || Junk.IsJunk(text))
            return names;
        words.Split(Annotations.WithoutThem(text), FullStops.Part);
        Span<char> letters = stackalloc char[MaxWord];
        for (var at = 0; at < words.Count; at++)
        {
            var word = words[at];
            if (at > 0 && SuffixOf(word) is > 0 and var rank)
                suffix = rank;
            else if (word.ContainsAnyInRange('0', '9'))
            {
                if (word.Length <= MaxWord && AsLetters(word, letters))
                    names.Add(_names.Intern(letters[..word.Length]).Id);
            }
            else if (word is "عبد" && at + 1 < words.Count)
                names.Add(_names.Intern($"{word}{words[++at]}").Id);
            else if (!IsIn(Titles, word) || words.Count == 1)
                names.Add(_names.Intern(word).Id);
        }

        // Particles are often omitted: a name is compared without them, unless there is nothing else.
        if (names.Exists(id => !Particles.Contains(_names[id].Text)))
            names.RemoveAll(id => Particles.Contains(_names[id].Text));
        return names;
    }

    /// <summary>
    /// Writes letters for the digits that a scanner reads in their place; false if there are no letters.
    /// </summary>
    private static bool AsLetters(ReadOnlySpan<char> word, Span<char> into)
    {
        for (var at = 0; at < word.Length; at++)
            into[at] = word[at] switch
            {
                '0' => 'o',
                '1' => 'l',
                '5' => 's',
                '8' => 'b',
                '6' => 'g',
                '2' => 'z',
                var letter => letter,
            };
        return word.ContainsAnyInRange('a', 'z');
    }

    private bool ReadFull(string full, WordBuffer words, Parts name)
    {
        if (Junk.IsJunk(full))
            return false;
        full = Annotations.WithoutThem(full);
        if (Scripts.HasNoSpaces(Scripts.Of(full)))
            return ReadFamilyFirst(full, words, name);
        var comma = full.IndexOf(',', StringComparison.Ordinal);
        if (comma > 0 && comma < full.Length - 1)
        {
            var suffix = 0;
            var after = Read("x " + full[(comma + 1)..], words, ref suffix);
            if (after.Count > 1)
            {
                // "Berg, Anna": the part before the comma is the family name.
                name.Suffix = suffix;
                name.Family.AddRange(Read(full[..comma], words, ref name.Suffix));
                name.Given.AddRange(after[1..]);
                return true;
            }
        }

        var hyphen = LastNameStart(full);
        var last = Read(full[hyphen..], words, ref name.Suffix);
        var names = Read(full, words, ref name.Suffix);
        if (names.Count == 0)
            return false;

        // A double name with a hyphen is one family name.
        var family = Math.Clamp(last.Count, 1, names.Count == 1 ? 1 : names.Count - 1);
        if (hyphen == 0 || !full.AsSpan(hyphen).Contains('-'))
            family = 1;
        name.Family.AddRange(names[^family..]);
        name.Given.AddRange(names[..^family]);
        return true;
    }

    /// <summary>
    /// Reads a name of China, Japan or Korea in its own script: the family name, and behind it, mostly without a space,
    /// the given name. Where no list has the family name, it is the first character.
    /// </summary>
    private bool ReadFamilyFirst(string full, WordBuffer words, Parts name)
    {
        words.Split(full, FullStops.Part);
        if (words.Count == 0)
            return false;
        var first = words[0];
        var length = first.Length;
        if (words.Count == 1 && length > 1 && Scripts.Of(first) != Script.Kana)
        {
            length = Math.Min(3, length - 1);
            while (length > 1 && !Reading.IsListed(first[..length]))
                length--;
        }

        name.Family.Add(_names.Intern(first[..length]).Id);
        if (length < first.Length)
            name.Given.Add(_names.Intern(first[length..]).Id);
        for (var at = 1; at < words.Count; at++)
            name.Given.Add(_names.Intern(words[at]).Id);
        return true;
    }

    private static int LastNameStart(string full)
    {
        var end = full.AsSpan().TrimEnd();
        return Math.Max(0, end.LastIndexOf(' ') + 1);
    }

    private static int SuffixOf(ReadOnlySpan<char> word) =>
        Suffixes.GetAlternateLookup<ReadOnlySpan<char>>().TryGetValue(word, out var rank) ? rank : 0;

    private static bool IsIn(HashSet<string> set, ReadOnlySpan<char> word) =>
        set.GetAlternateLookup<ReadOnlySpan<char>>().Contains(word);

    private sealed class Parts
    {
        public int Suffix;

        public List<int> Given { get; } = new(2);

        public List<int> Middle { get; } = [];

        public List<int> Family { get; } = new(2);
    }

    private readonly record struct NameRelation(WordRelation Relation, float Rarity, bool Missing = false)
    {
        /// <summary>
        /// True for the name that is more likely the family name: of swapped names it is not known which is
        /// which.
        /// </summary>
        public bool IsRarer(NameRelation other) =>
            Rarity != other.Rarity ? Rarity > other.Rarity : Relation > other.Relation;

        /// <summary>The nearer of two; of two as near, the rarer, so that the order of names does not matter.</summary>
        public NameRelation Or(NameRelation other) =>
            other.Relation < Relation || (other.Relation == Relation && other.Rarity > Rarity) ? other : this;

        public Finding ToFinding() => Missing ? Finding.None : new Finding((int)Relation, Rarity);
    }
}
