namespace Kettlefog.Database.Engines;

/// <summary>
/// Lets those who write to one database within this program take turns, first come, first served. SQLite's own waiting
/// asks again and again, and whoever asks at the wrong moments may never get in; PostgreSQL's ends after the patience,
/// however well those before get on. Other programs are waited for by the database.
/// </summary>
/// <param name="patience">How long to wait while nobody's turn ends; as long as turns end, it is waited on.</param>
internal sealed class WriterQueue(TimeSpan patience) : IDisposable
{
    private readonly SemaphoreSlim _free = new(1);
    private long _ended;

    /// <summary>Waits for the turn.</summary>
    /// <returns>Ends the turn when it is disposed; null if it did not come in time.</returns>
    public async Task<IDisposable?> WaitAsync(CancellationToken cancellationToken)
    {
        while (true)
        {
            var ended = Interlocked.Read(ref _ended);
            if (await _free.WaitAsync(patience, cancellationToken))
                return new Turn(this);
            if (ended == Interlocked.Read(ref _ended))
                return null;
        }
    }

    public void Dispose() => _free.Dispose();

    private sealed class Turn(WriterQueue turns) : IDisposable
    {
        private WriterQueue? _turns = turns;

        public void Dispose()
        {
            if (Interlocked.Exchange(ref _turns, null) is not { } ending)
                return;
            Interlocked.Increment(ref ending._ended);
            ending._free.Release();
        }
    }
}
