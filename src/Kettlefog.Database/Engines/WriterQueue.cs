namespace Kettlefog.Database.Engines;

/// <summary>
/// Lets a few writers of one database within this program write at a time, first come, first served. SQLite's busy
/// handler polls, so an unlucky writer may starve; PostgreSQL's lock timeout runs out even
/// while the queue advances. The database itself waits for other programs.
/// </summary>
/// <param name="places">How many may write at a time.</param>
/// <param name="patience">How long to wait without any turn ending; the wait continues as long as turns end.</param>
internal sealed class WriterQueue(int places, TimeSpan patience) : IDisposable
{
    private readonly SemaphoreSlim _free = new(places);
    private long _ended;

    /// <summary>Waits for the turn.</summary>
    /// <returns>The turn, which ends when disposed; null if it did not come in time.</returns>
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
