using System.Globalization;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Matching.Evidence;
using Kettlefog.Core.Matching.Features;
using Kettlefog.Core.Matching.Records;
using Kettlefog.Core.Text;
using Kettlefog.Core.Text.Similarity;

namespace Kettlefog.Core.Matching.Rules;

/// <summary>A comparison prepared for evaluation. May be used by several threads at once.</summary>
internal sealed class CompiledComparison
{
    private static readonly ThreadLocal<WordBuffer> Buffer = new(() => new WordBuffer());

    private readonly Comparison _comparison;
    private readonly string? _country;
    private readonly string _ownCode;
    private readonly Feature? _feature;

    public CompiledComparison(Comparison comparison, int column, string? country, Nicknames nicknames)
    {
        (_comparison, Column, _country) = (comparison, column, country);
        _ownCode = country is { Length: 2 } ? PhoneReader.CallingCodeOf(country) : "";
        _feature = comparison.Comparator switch
        {
            Comparator.SimilarPersonName => new PersonNameFeature(
                new PersonNameColumns([0], [], [], [], []),
                nicknames,
                [
                    DefaultEvidence.GivenName(),
                    DefaultEvidence.FamilyName(),
                    DefaultEvidence.MiddleName(),
                    DefaultEvidence.NameSuffix(),
                ]
            ),
            Comparator.SimilarOrganisationName => new OrganisationNameFeature(
                [0],
                [],
                DefaultEvidence.OrganisationName()
            )
            {
                Population = 1 << 12,
            },
            Comparator.SimilarAddress => new AddressFeature(
                new AddressColumns([0], -1, -1, -1, -1, -1),
                DefaultEvidence.PersonAddress()
            ),
            _ => null,
        };
    }

    public int Column { get; }

    /// <summary>True if agreeing values share a key.</summary>
    public bool HasKey =>
        !_comparison.Differs
        && _comparison.Comparator switch
        {
            Comparator.Exact
            or Comparator.IgnoringCase
            or Comparator.SameDigits
            or Comparator.SameMailbox
            or Comparator.SamePhone
            or Comparator.SoundsAlike => true,
            Comparator.SameDate => _comparison.Within == 0,
            _ => false,
        };

    public bool Holds(IReadOnlyList<string?> a, IReadOnlyList<string?> b)
    {
        var (x, y) = (a[Column], b[Column]);
        if (string.IsNullOrWhiteSpace(x) || string.IsNullOrWhiteSpace(y) || Junk.IsJunk(x) || Junk.IsJunk(y))
            return false;
        return (Similarity(x, y) * 100 >= _comparison.AtLeast) != _comparison.Differs;
    }

    /// <summary>The similarity of two values: from 0 to 1; 1 or 0 for comparators without degrees.</summary>
    public double Similarity(string a, string b)
    {
        switch (_comparison.Comparator)
        {
            case Comparator.Exact:
                return string.Equals(a, b, StringComparison.Ordinal) ? 1 : 0;
            case Comparator.NearNumber:
                return
                    decimal.TryParse(a, NumberStyles.Float, CultureInfo.InvariantCulture, out var x)
                    && decimal.TryParse(b, NumberStyles.Float, CultureInfo.InvariantCulture, out var y)
                    && Math.Abs(x - y) <= _comparison.Within
                    ? 1
                    : 0;
            case Comparator.SameDate:
                return SameDate(a, b) ? 1 : 0;
            case Comparator.SamePhone when _comparison.Digits is null:
                var (left, right) = (Plain(a), Plain(b));
                return
                    left.Length >= 6
                    && right.Length >= 6
                    && (
                        left.EndsWith(right, StringComparison.Ordinal) || right.EndsWith(left, StringComparison.Ordinal)
                    )
                    && Math.Min(left.Length, right.Length) >= 7
                    ? 1
                    : 0;
            case Comparator.JaroWinkler:
                return JaroWinkler.Of(Plain(a), Plain(b));
            case Comparator.DamerauLevenshtein:
                return DamerauLevenshtein.Similarity(Plain(a), Plain(b));
            case Comparator.QGram:
                return QGrams.Of(Plain(a), Plain(b));
            case Comparator.MongeElkan:
                return MongeElkan.Of(WordsOf(a), WordsOf(b));
            case Comparator.SimilarPersonName or Comparator.SimilarOrganisationName or Comparator.SimilarAddress:
                return OfFeature(a, b);
            default:
                return Plain(a) is { Length: > 0 } plain && plain == Plain(b) ? 1 : 0;
        }
    }

    /// <summary>The key that agreeing values share, or null if the value is missing.</summary>
    public ulong? KeyOf(IReadOnlyList<string?> row)
    {
        if (row[Column] is not { } value || string.IsNullOrWhiteSpace(value) || Junk.IsJunk(value))
            return null;
        var key = _comparison.Comparator switch
        {
            Comparator.Exact => value,
            Comparator.SameDate => DateReader.Read(value) is { } date
                ? $"{date.Year}/{Math.Min(date.Month, date.Day)}/{Math.Max(date.Month, date.Day)}"
                : "",
            Comparator.SamePhone when _comparison.Digits is null => Last(Plain(value), 7),
            _ => Plain(value),
        };
        return key.Length == 0 ? null : Hashing.Of(key, (ulong)((Column * 64) + (int)_comparison.Comparator));
    }

    /// <summary>The part of a value that is compared.</summary>
    private string Plain(string value)
    {
        switch (_comparison.Comparator)
        {
            case Comparator.SameDigits:
                return string.Concat(value.Where(char.IsAsciiDigit).Take(64));
            case Comparator.SameMailbox:
                return EmailReader.Read(value) is var (local, host) ? $"{local}@{host}" : "";
            case Comparator.SamePhone:
                Span<char> digits = stackalloc char[40];
                Span<char> extension = stackalloc char[8];
                var (count, _) = PhoneReader.Read(value, _country, digits, extension);
                count = PhoneReader.WithoutCode(digits[..count], _ownCode);
                return _comparison.Digits is { } last
                    ? Last(digits[..count].ToString(), last)
                    : digits[..count].ToString();
            case Comparator.SoundsAlike:
                return string.Join(
                    ' ',
                    WordsOf(value)
                        .Select(word => Soundex.Of(word) is { Length: > 0 } sound ? sound : word)
                        .Order(StringComparer.Ordinal)
                );
            case Comparator.IgnoringCase:
                return string.Concat(WordsOf(value));
            default:
                return string.Join(' ', WordsOf(value));
        }
    }

    private bool SameDate(string a, string b)
    {
        if (DateReader.Read(a) is not { } x || DateReader.Read(b) is not { } y)
            return false;
        return Math.Abs(x.DayNumber - y.DayNumber) <= _comparison.Within
            || (x.Year == y.Year && x.Month == y.Day && x.Day == y.Month);
    }

    private double OfFeature(string a, string b)
    {
        var words = Buffer.Value!;
        var (x, y) = (new List<int>(), new List<int>());
        _feature!.Prepare([a], words, x);
        _feature.Prepare([b], words, y);
        Span<Finding> findings = stackalloc Finding[_feature.Evidence.Count];
        _feature.Compare(x.ToArray(), y.ToArray(), findings);
        return _comparison.Comparator switch
        {
            Comparator.SimilarPersonName => OfPerson(findings),
            Comparator.SimilarOrganisationName => Step(findings[0].Level, 1, 0.93, 0.85, 0.75, 0.5, 0.5, 0)
                - (findings[1].Level == 1 ? 0.1 : 0),
            _ => Step(findings[0].Level, 1, 0.9, 0.7, 0.4, 0),
        };
    }

    private static double OfPerson(ReadOnlySpan<Finding> findings)
    {
        if (findings[3].Level == 2)
            return 0;
        var given = Step(findings[0].Level, 1, 0.93, 0.88, 0.75, 0.75, 0.4, 0, 0);
        var family = Step(findings[1].Level, 1, 0.85, 0.88, 0.6, 0.4, 0);
        if (given < 0 || family < 0)
            return Math.Max(0, Math.Max(given, family)) * 0.8;
        var middle = findings[2].Level == 2 ? 0.1 : 0;
        return Math.Max(0, Math.Min(given, family) is 0 ? 0 : ((given + family) / 2) - middle);
    }

    private static double Step(int level, params ReadOnlySpan<double> similarities) =>
        level < 0 ? -1 : similarities[level];

    private static string Last(string text, int count) => text.Length <= count ? text : text[^count..];

    private static List<string> WordsOf(string value)
    {
        var words = Buffer.Value!;
        words.Split(value, FullStops.JoinLetters);
        var list = new List<string>(words.Count);
        for (var at = 0; at < words.Count; at++)
            list.Add(words[at].ToString());
        return list;
    }
}
