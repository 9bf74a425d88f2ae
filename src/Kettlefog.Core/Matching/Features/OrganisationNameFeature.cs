using Kettlefog.Core.Matching.Blocking;
using Kettlefog.Core.Matching.Evidence;
using Kettlefog.Core.Matching.Records;
using Kettlefog.Core.Text;
using Kettlefog.Core.Text.Similarity;

namespace Kettlefog.Core.Matching.Features;

/// <summary>
/// An organisation's names: words in any order, abbreviations and acronyms, rare words weighing more, and the legal
/// form compared separately. Of several names (legal, trading) the best agreement counts.
/// </summary>
/// <param name="columns">The columns of the names.</param>
/// <param name="towns">The columns of the towns.</param>
/// <param name="kinds">
/// Evidence about the name and about the legal form, in this order; the name alone for the organisation that a person
/// belongs to, of whom it is no name.
/// </param>
internal sealed class OrganisationNameFeature(int[] columns, int[] towns, EvidenceKind[] kinds) : Feature
{
    private bool IsOfPerson => kinds.Length == 1;

    // A name within a slice: its length, legal form, whole text, its letters, initials, then for each word its token
    // and letters.
    private const int Form = 1,
        Whole = 2,
        Letters = 3,
        Initials = 4,
        Head = 5,
        Stride = 2;

    /// <summary>Beside the letters: the word distinguishes places, branches or numbers of a group.</summary>
    private const int NamesPlace = 1 << 30;
    private const int MaxWords = 10;
    private const int MaxLegalFormWords = 5;

    /// <summary>Names that share less rarity than this, in bits, count as different.</summary>
    private const float MinCommonWords = 3;

    /// <summary>
    /// Words less rare than this, in bits, are not looked up, unless a name has no rarer one. Among few records the
    /// words that tell names apart are less rare, and few are compared anyway.
    /// </summary>
    private float MinRarity => Math.Min(6, MathF.Log2(Population) / 2);

    private static readonly HashSet<string> Fillers =
    [
        "the",
        "and",
        "of",
        "for",
        "a",
        "an",
        "de",
        "la",
        "le",
        "les",
        "du",
        "des",
        "der",
        "die",
        "das",
        "und",
        "et",
        "i",
        "y",
        "e",
        "og",
        "och",
        "شركة",
        "شركه",
        "חברת",
    ];

    private readonly TokenTable _words = new();
    private readonly TokenTable _wholes = new();

    public override IReadOnlyList<EvidenceKind> Evidence => kinds;

    public override void Prepare(IReadOnlyList<string?> row, WordBuffer words, List<int> into)
    {
        foreach (var column in columns)
        {
            if (row[column] is not { Length: > 0 } text || Junk.IsJunk(text))
                continue;
            foreach (var name in NamesIn(Annotations.WithoutThem(text)))
            {
                words.Split(name, FullStops.JoinLetters);
                if (words.Count > 0)
                    AddName(words, towns.Length > 0 ? TownOf(row) : "", into);
            }
        }
    }

    /// <summary>A name and the trading name behind it: <c>Gannet Ltd t/a Quay Stores</c>.</summary>
    private static string[] NamesIn(string text)
    {
        foreach (var mark in TradingMarks)
        {
            var at = text.IndexOf(mark, StringComparison.OrdinalIgnoreCase);
            if (at > 0 && at + mark.Length < text.Length)
                return [text[..at], text[(at + mark.Length)..]];
        }

        return [text];
    }

    private static readonly string[] TradingMarks =
    [
        " t/a ",
        " trading as ",
        " d/b/a ",
        " dba ",
        " doing business as ",
        " o/a ",
        " h/o ",
        " handelend onder ",
        " nom commercial ",
    ];

    /// <summary>The words of the record's own town, joined; a name that ends in it says nothing new.</summary>
    private string TownOf(IReadOnlyList<string?> row)
    {
        foreach (var column in towns)
        {
            if (row[column] is { Length: > 2 } town && !Junk.IsJunk(town))
                return string.Concat(PlainLetters.Of(MendedText.Of(town)).Where(char.IsLetterOrDigit));
        }

        return "";
    }

    public override void Count(ReadOnlySpan<int> slice, int records)
    {
        for (var at = 0; at < slice.Length; at += slice[at])
        {
            _wholes[slice[at + Whole]].Add(records);
            for (var word = at + Head; word < at + slice[at]; word += Stride)
                _words[slice[word]].Add(records);
        }
    }

    public override void Compare(ReadOnlySpan<int> a, ReadOnlySpan<int> b, Span<Finding> into)
    {
        into[..kinds.Length].Fill(Finding.None);
        for (var i = 0; i < a.Length; i += a[i])
        {
            for (var j = 0; j < b.Length; j += b[j])
            {
                var finding = CompareNames(a.Slice(i, a[i]), b.Slice(j, b[j]));
                if (finding.Level < 0)
                    continue;
                if (
                    into[0].Level < 0
                    || finding.Level < into[0].Level
                    || (finding.Level == into[0].Level && finding.Rarity > into[0].Rarity)
                )
                    into[0] = finding;
            }
        }

        if (
            !IsOfPerson
            && !a.IsEmpty
            && !b.IsEmpty
            && a[Form] > 0
            && b[Form] > 0
            && into[0].Level is >= 0 and < 6
            && !AreOfTwoScripts(a, b)
        )
            into[1] = new Finding(a[Form] == b[Form] || SameFamily(a[Form], b[Form]) ? 0 : 1);
    }

    public override void AddParts(ReadOnlySpan<int> slice, KeyParts parts)
    {
        for (var at = 0; at < slice.Length; at += slice[at])
        {
            var name = slice.Slice(at, slice[at]);
            if (IsOfPerson)
            {
                parts.AddWeak(KeySlot.Value, _wholes[name[Whole]].Hash);
                continue;
            }

            parts.AddStrong(KeySlot.Name, _wholes[name[Whole]].Hash);
            var rarest = new List<Token>(MaxWords);
            for (var word = Head; word < name.Length; word += Stride)
                rarest.Add(_words[name[word]]);
            rarest.Sort((x, y) => x.Count != y.Count ? x.Count.CompareTo(y.Count) : x.Hash.CompareTo(y.Hash));
            for (var place = 0; place < Math.Min(3, rarest.Count); place++)
            {
                // A word that every tenth organisation has makes no blocking key.
                var token = rarest[place];
                if (place > 0 && Rarity(token.Count) < MinRarity)
                    break;
                parts.AddWeak(KeySlot.Name, token.Sound);
                foreach (var sound in token.OtherSounds)
                    parts.AddWeak(KeySlot.Name, sound);
                if (place == 2 || token.Text.Length < 6)
                    continue;
                var half = token.Text.Length / 2;
                parts.AddWeak(KeySlot.Piece, Hashing.Of(token.Text.AsSpan(0, half), 1));
                parts.AddWeak(KeySlot.Piece, Hashing.Of(token.Text.AsSpan(half), 2));
            }

            if (rarest.Count > 0 && rarest[0].Count < 100)
                parts.AddStrong(KeySlot.Piece, rarest[0].Hash);
            if (name[Initials] > 0)
                parts.AddWeak(KeySlot.Value, _wholes[name[Initials] - 1].Hash);
            else if (name.Length == Head + Stride && _words[name[Head]].Text.Length <= 6)
                parts.AddWeak(KeySlot.Value, _wholes[name[Whole]].Hash);
        }
    }

    public override void Settle() => _words.Settle(Rarity);

    public override ulong NameOf(ReadOnlySpan<int> slice)
    {
        if (slice.IsEmpty)
            return 0;
        Token? rarest = null;
        for (var word = Head; word < slice[0]; word += Stride)
        {
            var token = _words[slice[word]];
            if (
                rarest is null
                || token.Count < rarest.Count
                || (token.Count == rarest.Count && token.Hash < rarest.Hash)
            )
                rarest = token;
        }

        return rarest is null ? 0 : KeyParts.Mix(rarest.Sound);
    }

    private void AddName(WordBuffer words, string town, List<int> into)
    {
        var attached = TakeAttachedForms(words);
        var (first, last, form) = TakeForm(words, words.Count);
        if (form == 0)
            form = attached;
        var shortened = WithoutPart(words, first, last, town);
        if (shortened < last)
        {
            // "Gannet Ltd, Accounts Dept": the form stands before what was left out.
            last = shortened;
            if (form == 0)
                (first, last, form) = TakeForm(words, last);
        }

        var start = into.Count;
        into.AddRange([0, form, 0, 0, 0]);
        var whole = "";
        var initials = "";
        for (var at = first; at < last && into.Count - start - Head < MaxWords * Stride; at++)
        {
            var word = words[at];
            var text = word.ToString();
            if (Fillers.Contains(text) && last - first > 1)
                continue;
            initials += text[0];
            if (WordLists.OrganisationWords.TryGetValue(text, out var full))
                text = full;
            whole += text;
            AddWord(_words.Intern(text), start + Head, into);
        }

        if (into.Count == start + Head)
        {
            for (var at = 0; at < words.Count; at++)
            {
                whole += words[at].ToString();
                AddWord(_words.Intern(words[at]), start + Head, into);
            }
        }

        into[start] = into.Count - start;
        var token = _wholes.Intern(whole);
        into[start + Whole] = token.Id;
        into[start + Letters] = token.Mask;
        if (initials.Length is >= 2 and <= 6)
            into[start + Initials] = _wholes.Intern(initials).Id + 1;
    }

    private static void AddWord(Token word, int first, List<int> into)
    {
        for (var at = first; at < into.Count; at += Stride)
        {
            if (into[at] == word.Id)
                return;
        }

        if (into.Count - first < MaxWords * Stride)
            into.AddRange([word.Id, word.Mask | (IsPlaceWord(word) ? NamesPlace : 0)]);
    }

    /// <summary>
    /// The end of a name before its own town, its department or its main office: they are about the address, and not
    /// about the organisation.
    /// </summary>
    private static int WithoutPart(WordBuffer words, int first, int last, string town)
    {
        for (var isShorter = true; isShorter; )
        {
            isShorter = false;
            if (last - first > 1 && town.Length > 0 && EndsInTown(words, first, last, town) is > 0 and var ofTown)
            {
                last -= ofTown;
                isShorter = true;
            }

            if (last - first > 2 && Units.Contains(words[last - 1].ToString()))
            {
                if (Functions.Contains(words[last - 2].ToString()))
                {
                    last -= 2;
                    isShorter = true;
                }
            }
        }

        return last;
    }

    private static int EndsInTown(WordBuffer words, int first, int last, string town)
    {
        var length = 0;
        for (var at = last - 1; at > first && length < town.Length; at--)
        {
            length += words[at].Length;
            if (length <= town.Length && !town.AsSpan(town.Length - length, words[at].Length).SequenceEqual(words[at]))
                return 0;
            if (length == town.Length)
                return last - at;
        }

        return 0;
    }

    /// <summary>What a part of an organisation is called.</summary>
    private static readonly HashSet<string> Units = ["dept", "department", "office", "team", "desk", "payable"];

    /// <summary>What it does.</summary>
    private static readonly HashSet<string> Functions =
    [
        "account",
        "accounts",
        "accounting",
        "sales",
        "purchasing",
        "purchase",
        "procurement",
        "finance",
        "payroll",
        "billing",
        "invoice",
        "invoices",
        "marketing",
        "personnel",
        "hr",
        "it",
        "orders",
        "head",
        "main",
        "central",
        "registered",
    ];

    /// <summary>
    /// Cuts off the legal forms that are written in one word with the name, as scripts without spaces do: before the
    /// first word, and behind the last.
    /// </summary>
    private static int TakeAttachedForms(WordBuffer words)
    {
        var form = 0;
        foreach (var (spelling, number) in AttachedForms)
        {
            var last = words.Count - 1;
            if (last < 0)
                break;
            if (words[0].Length > spelling.Length && words[0].StartsWith(spelling, StringComparison.Ordinal))
            {
                words.Cut(0, spelling.Length, 0);
                form = number;
            }

            if (words[last].Length > spelling.Length && words[last].EndsWith(spelling, StringComparison.Ordinal))
            {
                words.Cut(last, 0, spelling.Length);
                form = number;
            }
        }

        return form;
    }

    /// <summary>Finds the legal form behind or before the name; never the whole name.</summary>
    private static (int First, int Last, int Form) TakeForm(WordBuffer words, int end)
    {
        int first = 0,
            last = end,
            form = 0;
        for (var length = Math.Min(MaxLegalFormWords, end - 1); length > 0; length--)
        {
            if (FormOf(words, end - length, length) is > 0 and var behind)
            {
                last = end - length;

                // "and Co Ltd", "& Co. KG".
                while (last > 1 && words[last - 1] is "and" or "co")
                    last--;
                form = behind;
                break;
            }
        }

        if (form == 0 && end > 1)
        {
            for (var length = Math.Min(MaxLegalFormWords, end - 1); length > 0 && form == 0; length--)
            {
                if (
                    (length > 1 || words[0].Length > 2 || TwoLetterFormsInFront.Contains(words[0].ToString()))
                    && FormOf(words, 0, length) is > 0 and var before
                )
                    (first, form) = (length, before);
            }
        }

        if (form == 0 && end > 1 && MisspeltForm(words[end - 1]) is > 0 and var misspelt)
            (last, form) = (end - 1, misspelt);
        while (last - first > 1 && words[last - 1] is "co" or "company" or "and")
            last--;
        return (first, last, form);
    }

    /// <summary>Two-letter forms that may precede a name; any other two letters may be a word or initials.</summary>
    private static readonly HashSet<string> TwoLetterFormsInFront =
    [
        "ab",
        "oy",
        "pt",
        "ip",
        "ag",
        "kg",
        "bv",
        "nv",
        "as",
        "sa",
        "kk",
    ];

    /// <summary>A form of at least six letters with one typing error, or two neighbours that changed places.</summary>
    private static int MisspeltForm(ReadOnlySpan<char> word)
    {
        if (word.Length < 6 || word.ContainsAnyInRange('0', '9'))
            return 0;
        foreach (var (spelling, number) in LongForms)
        {
            if (
                Math.Abs(spelling.Length - word.Length) <= 1
                && spelling[0] == word[0]
                && DamerauLevenshtein.Distance(spelling, word, 1) <= 1
            )
                return number;
        }

        return 0;
    }

    private static int FormOf(WordBuffer words, int from, int count)
    {
        Span<char> joined = stackalloc char[80];
        var length = 0;
        for (var at = from; at < from + count; at++)
        {
            var word = words[at];
            if (length + word.Length + 1 > joined.Length)
                return 0;
            if (length > 0)
                joined[length++] = ' ';
            word.CopyTo(joined[length..]);
            length += word.Length;
        }

        return FormNumbers.GetAlternateLookup<ReadOnlySpan<char>>().TryGetValue(joined[..length], out var form)
            ? form
            : 0;
    }

    private static bool SameFamily(int a, int b) => FormFamilies[a] == FormFamilies[b];

    private Finding CompareNames(ReadOnlySpan<int> a, ReadOnlySpan<int> b)
    {
        if (a[Whole] == b[Whole])
            return new Finding(0, RarityOf(a));
        if (AreOfTwoScripts(a, b))
            return CompareReadings(a, b);
        if (a[Initials] == b[Whole] + 1 || b[Initials] == a[Whole] + 1)
            return new Finding(2);
        Span<bool> taken = stackalloc bool[MaxWords];
        float matched = 0,
            leftA = 0,
            leftB = 0;
        int misspelt = 0,
            extraA = 0,
            extraB = 0;
        var differsInPlace = false;
        var x = a[Head..];
        var y = b[Head..];
        for (var word = 0; word < x.Length; word += Stride)
        {
            var at = Find(x.Slice(word, Stride), y, taken, out var same);
            var weight = Weight(x[word]);
            if (at < 0)
            {
                leftA += weight;
                extraA++;
                differsInPlace |= (x[word + 1] & NamesPlace) != 0;
                continue;
            }

            taken[at / Stride] = true;
            matched += same ? weight : Math.Min(weight, Weight(y[at]));
            misspelt += same ? 0 : 1;
        }

        for (var word = 0; word < y.Length; word += Stride)
        {
            if (taken[word / Stride])
                continue;
            leftB += Weight(y[word]);
            extraB++;
            differsInPlace |= (y[word + 1] & NamesPlace) != 0;
        }

        // Most names that blocking brings together have nothing in common but a common word.
        var mayBeTypingError = LetterMask.Difference(a[Letters], b[Letters]) <= 4;
        if (matched < MinCommonWords && extraA + extraB > 0 && !mayBeTypingError)
            return new Finding(6);
        var (wholeA, wholeB) = (_wholes[a[Whole]], _wholes[b[Whole]]);
        var rarity = Math.Min(matched, Math.Max(RarityOf(a), RarityOf(b)));
        if (extraA == 0 && extraB == 0)
            return new Finding(misspelt == 0 ? 0 : 1, rarity);
        if (mayBeTypingError && IsTypingError(wholeA.Text, wholeB.Text) && !differsInPlace)
            return new Finding(1, Math.Min(Rarity(Math.Max(wholeA.Count, wholeB.Count)), 16));
        var ratio = matched <= 0 ? 0 : 2 * matched / ((2 * matched) + leftA + leftB);
        if (matched < MinCommonWords)
            return new Finding(6);
        if (differsInPlace)
            return new Finding(4, Math.Min(matched, 16));
        if (extraA == 0 || extraB == 0)
            return new Finding(3, Math.Min(matched, 16));
        return ratio >= 0.5 ? new Finding(5, Math.Min(matched, 16)) : new Finding(6);
    }

    private bool AreOfTwoScripts(ReadOnlySpan<int> a, ReadOnlySpan<int> b) =>
        (LetterMask.HasOthers(a[Letters]) || LetterMask.HasOthers(b[Letters]))
        && WordRelations.AreOfTwoScripts(_wholes[a[Whole]], _wholes[b[Whole]]);

    /// <summary>
    /// Compares names of two scripts. A name that does not read like the other may be its translation, so that nothing
    /// is known of it.
    /// </summary>
    private Finding CompareReadings(ReadOnlySpan<int> a, ReadOnlySpan<int> b) =>
        Readings.Relation(_wholes[a[Whole]].Reading, _wholes[b[Whole]].Reading) <= WordRelation.Misspelt
            ? new Finding(1, Math.Min(Math.Min(RarityOf(a), RarityOf(b)), 16))
            : Finding.None;

    /// <summary>The place of the word among others that is the same, a misspelling, or an abbreviation of it.</summary>
    private int Find(ReadOnlySpan<int> word, ReadOnlySpan<int> others, Span<bool> taken, out bool same)
    {
        same = true;
        for (var at = 0; at < others.Length; at += Stride)
        {
            if (!taken[at / Stride] && others[at] == word[0])
                return at;
        }

        same = false;
        for (var at = 0; at < others.Length; at += Stride)
        {
            var (left, right) = (word[1] & ~NamesPlace, others[at + 1] & ~NamesPlace);
            if (
                !taken[at / Stride]
                && WordRelations.MayBeSimilar(left, right)
                && IsVariant(_words[word[0]], _words[others[at]])
            )
                return at;
        }

        return -1;
    }

    private static bool IsVariant(Token a, Token b)
    {
        if (WordRelations.IsMisspelling(a, b))
            return !(IsPlaceWord(a) && IsPlaceWord(b));
        var (shorter, longer) = a.Text.Length < b.Text.Length ? (a.Text, b.Text) : (b.Text, a.Text);
        if (shorter.Length < 3 || shorter[0] != longer[0] || char.IsAsciiDigit(shorter[0]))
            return false;
        return WordRelations.IsShortened(shorter, longer) || (shorter.Length <= 4 && IsContraction(shorter, longer));
    }

    /// <summary>
    /// True if the letters of the short word occur in the long one in this order, its consonants among them: "mfg",
    /// "svcs".
    /// </summary>
    private static bool IsContraction(string shorter, string longer)
    {
        if (shorter.AsSpan().ContainsAny("aeiou"))
            return false;
        var at = 0;
        foreach (var letter in longer)
        {
            if (at < shorter.Length && letter == shorter[at])
                at++;
        }

        return at == shorter.Length;
    }

    private static bool IsTypingError(string a, string b)
    {
        var shorter = Math.Min(a.Length, b.Length);
        var maxEdits =
            shorter >= 12 ? 2
            : shorter >= 6 ? 1
            : 0;
        return maxEdits > 0
            && DamerauLevenshtein.Distance(a, b, maxEdits) <= maxEdits
            && !a.AsSpan().ContainsAnyInRange('0', '9');
    }

    private static bool IsPlaceWord(Token word) =>
        WordLists.PlaceWords.Contains(word.Text) || word.Text.All(char.IsAsciiDigit);

    /// <summary>
    /// How rarely a name is met by chance. Of one that few records have it is not known from their number, which may be
    /// one entity's: a name of several words is as rare as its words together, of which each says less than it would by
    /// itself, because words of names go together.
    /// </summary>
    private float RarityOf(ReadOnlySpan<int> name)
    {
        var whole = _wholes[name[Whole]];
        var rarity = Rarity(whole, OwnName);
        if (whole.Count > MostOfOne || name.Length <= Head + Stride)
            return rarity;
        float words = 0;
        for (var word = Head; word < name.Length; word += Stride)
            words += Weight(name[word]);
        return Math.Max(rarity, Math.Min(words * ShareOfWord, MaxRarity));
    }

    /// <summary>A name that more records have belongs to several entities.</summary>
    private const int MostOfOne = 8;

    private const float ShareOfWord = 0.7f,
        MaxRarity = 20;

    private float Weight(int word) =>
        _words.Rarities is { } rarities && word < rarities.Length
            ? Math.Clamp(rarities[word], 0.5f, 14)
            : Math.Clamp(Rarity(_words[word].Count), 0.5f, 14);

    private static readonly Dictionary<string, int> FormNumbers = NumberForms();
    private static readonly (string Spelling, int Number)[] LongForms =
    [
        .. FormNumbers
            .Where(form => form.Key.Length >= 7 && !form.Key.Contains(' ', StringComparison.Ordinal))
            .Select(form => (form.Key, form.Value)),
    ];

    /// <summary>Forms of scripts that have no spaces, the longest first.</summary>
    private static readonly (string Spelling, int Number)[] AttachedForms =
    [
        .. FormNumbers
            .Where(form =>
                form.Key.Length > 1
                && !form.Key.Contains(' ', StringComparison.Ordinal)
                && Scripts.Of(form.Key) is not (Script.Latin or Script.Abjad)
            )
            .OrderByDescending(form => form.Key.Length)
            .ThenBy(form => form.Key, StringComparer.Ordinal)
            .Select(form => (form.Key, form.Value)),
    ];
    private static readonly string[] FormFamilies =
    [
        "",
        .. WordLists
            .LegalForms.Values.Distinct()
            .Select(form => form[(form.IndexOf(' ', StringComparison.Ordinal) + 1)..]),
    ];

    private static Dictionary<string, int> NumberForms()
    {
        var forms = WordLists
            .LegalForms.Values.Distinct()
            .Select((form, index) => (form, index))
            .ToDictionary(pair => pair.form, pair => pair.index + 1);
        return WordLists.LegalForms.ToDictionary(pair => pair.Key, pair => forms[pair.Value]);
    }
}
