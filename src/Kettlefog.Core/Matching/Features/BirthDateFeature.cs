using System.Globalization;
using Kettlefog.Core.Matching.Blocking;
using Kettlefog.Core.Matching.Evidence;
using Kettlefog.Core.Matching.Records;
using Kettlefog.Core.Text;

namespace Kettlefog.Core.Matching.Features;

/// <summary>
/// A date of birth: equal, with day and month swapped, with one typing error, partly equal, or different.
/// </summary>
internal sealed class BirthDateFeature(int column, EvidenceKind kind) : Feature
{
    private const int NearDays = 10;

    private readonly TokenTable _dates = new();

    public override IReadOnlyList<EvidenceKind> Evidence { get; } = [kind];

    public override void Prepare(IReadOnlyList<string?> row, WordBuffer words, List<int> into)
    {
        if (DateReader.Read(row[column]) is { } date && !IsPlaceholder(date))
            into.AddRange([
                (date.Year * 10_000) + (date.Month * 100) + date.Day,
                _dates.Intern(date.ToString("yyyyMMdd", CultureInfo.InvariantCulture)).Id,
            ]);
    }

    public override void Count(ReadOnlySpan<int> slice, int records)
    {
        if (!slice.IsEmpty)
            _dates[slice[1]].Add(records);
    }

    public override void Compare(ReadOnlySpan<int> a, ReadOnlySpan<int> b, Span<Finding> into)
    {
        if (a.IsEmpty || b.IsEmpty)
            into[0] = Finding.None;
        else if (a[0] == b[0])
            into[0] = new Finding(0, Rarity(_dates[a[1]], OwnValue));
        else
            into[0] = new Finding(Relation(a[0], b[0]));
    }

    public override void AddParts(ReadOnlySpan<int> slice, KeyParts parts)
    {
        if (slice.IsEmpty)
            return;
        var (year, month, day) = Split(slice[0]);

        // Day and month in either order give one key.
        parts.AddWeak(KeySlot.Birth, (ulong)((year * 10_000) + (Math.Min(month, day) * 100) + Math.Max(month, day)));
    }

    /// <summary>The level of two different dates, each as yyyymmdd.</summary>
    public static int Relation(int a, int b)
    {
        var (yearA, monthA, dayA) = Split(a);
        var (yearB, monthB, dayB) = Split(b);
        if (yearA == yearB && monthA == dayB && dayA == monthB)
            return 1;
        if (IsTypingError(a, b))
            return 2;
        var firstOfYear = (monthA == 1 && dayA == 1) || (monthB == 1 && dayB == 1);
        var two = (yearA == yearB ? 1 : 0) + (monthA == monthB ? 1 : 0) + (dayA == dayB ? 1 : 0) == 2;
        var days = Math.Abs(DayNumber(yearA, monthA, dayA) - DayNumber(yearB, monthB, dayB));
        return two || days <= NearDays || (yearA == yearB && firstOfYear) ? 3 : 4;
    }

    /// <summary>True if one digit differs, or two neighbours changed places.</summary>
    private static bool IsTypingError(int a, int b)
    {
        Span<char> x = stackalloc char[8];
        Span<char> y = stackalloc char[8];
        a.TryFormat(x, out _, "D8", CultureInfo.InvariantCulture);
        b.TryFormat(y, out _, "D8", CultureInfo.InvariantCulture);
        var differing = 0;
        var first = -1;
        for (var at = 0; at < 8; at++)
        {
            if (x[at] == y[at])
                continue;
            differing++;
            first = first < 0 ? at : first;
        }

        return differing == 1 || (differing == 2 && x[first] == y[first + 1] && x[first + 1] == y[first]);
    }

    private static int DayNumber(int year, int month, int day) => (year * 372) + (month * 31) + day;

    private static (int Year, int Month, int Day) Split(int date) => (date / 10_000, date / 100 % 100, date % 100);

    private static bool IsPlaceholder(DateOnly date) =>
        date.Year < 1850
        || date.Year > 2100
        || (date.Month == 1 && date.Day == 1 && date.Year is 1900 or 1901 or 1970 or 2000 && date.DayOfYear == 1);
}
