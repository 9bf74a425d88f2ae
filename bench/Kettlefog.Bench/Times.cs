using System.Diagnostics;

namespace Kettlefog.Bench;

/// <summary>Repeated measurements of one operation.</summary>
internal sealed class Times
{
    private readonly List<double> _milliseconds = [];

    public double Median => At(0.5);

    public double Sum => _milliseconds.Sum();

    public double P95 => At(0.95);

    public async Task MeasureAsync(Func<Task> action)
    {
        var start = Stopwatch.GetTimestamp();
        await action();
        _milliseconds.Add(Stopwatch.GetElapsedTime(start).TotalMilliseconds);
    }

    private double At(double share)
    {
        var sorted = _milliseconds.Order().ToList();
        return sorted[(int)(share * (sorted.Count - 1))];
    }
}
