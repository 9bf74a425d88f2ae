using Kettlefog.Core.Text;

namespace Kettlefog.Core.Matching.Features;

/// <summary>Compares words of two scripts by the ways in which they are read.</summary>
internal static class Readings
{
    /// <summary>How two words are related; null if their scripts do not tell.</summary>
    /// <param name="a">The reading of one word.</param>
    /// <param name="b">That of the other, in another script.</param>
    public static WordRelation? Relation(Reading a, Reading b)
    {
        if (a.Spellings.Count == 0 || b.Spellings.Count == 0)
            return null;
        var best = WordRelation.Different;
        if ((a.Script == Script.Abjad || b.Script == Script.Abjad) && a.BeginsWithVowel != b.BeginsWithVowel)
            return best;
        foreach (var x in a.Spellings)
        {
            foreach (var y in b.Spellings)
            {
                var relation = OmitsVowels(a.Script)
                    ? OmitsVowels(b.Script)
                        ? OfSounds(x, y, a.Script, b.Script)
                        : WithoutVowels(x, y, a.Script)
                    : OmitsVowels(b.Script)
                        ? WithoutVowels(y, x, b.Script)
                        : OfSounds(x, y, a.Script, b.Script);
                if (relation < best)
                    best = relation;
            }
        }

        if (best < WordRelation.Different)
            return best;

        // A character of Chinese has readings that no list has, above all in names of Japan.
        if (a.Script == Script.Han || b.Script == Script.Han)
            return Reading.IsPinyin((a.Script == Script.Han ? b : a).Spellings[0].Letters) ? best : null;
        return best;
    }

    private static bool OmitsVowels(Script script) => script is Script.Abjad or Script.Abugida;

    private static WordRelation OfSounds(Spoken x, Spoken y, Script a, Script b)
    {
        var (left, right) = (Merged(x.Sounds, a, b), Merged(y.Sounds, a, b));
        if (left == right)
            return WordRelation.Variant;
        var (consonants, others) = (ConsonantsOf(left), ConsonantsOf(right));
        return consonants.Length >= 2 && consonants == others ? WordRelation.Misspelt : WordRelation.Different;
    }

    /// <summary>
    /// Compares a word whose script leaves vowels out with one that has them: consonants agree, and between two of them
    /// a written vowel is of the same kind, and one that is left out is a short one.
    /// </summary>
    private static WordRelation WithoutVowels(Spoken written, Spoken full, Script script)
    {
        var (x, y) = (UnitsOf(written, script), UnitsOf(full, script));
        if (x.Count != y.Count)
            return WordRelation.Different;
        var differ = 0;
        for (var at = 0; at < x.Count; at++)
        {
            if (x[at].Consonant != y[at].Consonant)
                return WordRelation.Different;
            if (at < x.Count - 1 && !MayBe(x[at].Vowels, y[at].Vowels, script))
                differ++;
        }

        return differ switch
        {
            0 => WordRelation.Variant,
            1 when x.Count >= 4 => WordRelation.Faint,
            _ => WordRelation.Different,
        };
    }

    /// <summary>
    /// The consonants. A vowel at the beginning of a word is written in any script, as a letter without sound; an h at
    /// its end stands for one.
    /// </summary>
    private static List<(char Consonant, string Vowels)> UnitsOf(Spoken spoken, Script script)
    {
        var units = spoken
            .Units.Where(unit => unit.Consonant != '\0')
            .Select(unit => (Consonant: Merged(unit.Consonant, script), unit.Vowels))
            .ToList();
        if (units.Count > 1 && units[^1] is ('H', { Length: 0 }))
            units.RemoveAt(units.Count - 1);
        return units;
    }

    private static bool MayBe(string written, string full, Script script)
    {
        if (written.Length == 0)
            return script == Script.Abugida || full.Length < 2 || full is "aa" or "ia" or "ea" or "ai";
        if (full.Length == 0)
            return false;
        if (script == Script.Abugida)
            return true;
        return written.Contains('u', StringComparison.Ordinal) ? full.AsSpan().ContainsAny("ou")
            : written.Contains('i', StringComparison.Ordinal) ? full.AsSpan().ContainsAny("eiy")
            : full.Contains('a', StringComparison.Ordinal);
    }

    /// <summary>Japanese and Korean have one sound for l and r; Hebrew one letter for b and v.</summary>
    private static char Merged(char consonant, Script script) =>
        (consonant, script) switch
        {
            ('R', Script.Kana or Script.Hangul) => 'L',
            ('P', Script.Abjad) => 'F',
            var (other, _) => other,
        };

    private static string Merged(string sounds, Script a, Script b) =>
        string.Concat(sounds.Select(sound => Merged(Merged(sound, a), b)));

    private static string ConsonantsOf(string sounds) => string.Concat(sounds.Where(char.IsAsciiLetterUpper));
}
