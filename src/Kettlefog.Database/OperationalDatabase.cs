using Kettlefog.Core;
using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Map.Reading;
using Kettlefog.Database.Duplicates.Clusters;
using Kettlefog.Database.Duplicates.LiveIndex;
using Kettlefog.Database.Duplicates.Rules;
using Kettlefog.Database.Duplicates.Scans;
using Kettlefog.Database.History;
using Kettlefog.Database.Maps;
using Kettlefog.Database.Merging;
using Kettlefog.Database.Own;
using Kettlefog.Database.Records;
using Kettlefog.Database.Reversing;
using Kettlefog.Database.Users;

namespace Kettlefog.Database;

/// <summary>An operational database with its map: the entrance to everything that reads or writes it.</summary>
public sealed class OperationalDatabase : IDisposable
{
    private static readonly TimeSpan MaxWaitForAnswer = TimeSpan.FromSeconds(3);

    private readonly DatabaseContext _context;
    private readonly LiveIndexes _live;

    private OperationalDatabase(DatabaseContext context, MapDocument document)
    {
        _context = context;
        _live = new LiveIndexes(context);
        context.MapChanged += _ => _live.ForgetAll();
        Users = new UserStore(context.Engine, context.Clock);
        Tokens = new TokenStore(context.Engine, context.Clock);
        Sessions = new SessionStore(context.Engine, context.Clock);
        Maps = new MapService(context, document);
        Records = new RecordService(context);
        History = new HistoryService(context);
        Merges = new MergeService(context);
        Reversals = new ReversalService(context);
        Rules = new RuleService(context, _live.Forget);
        Similar = new SimilarRecordService(context, _live);
        Clusters = new ClusterService(context);
        SavedViews = new SavedViewStore(context);
        NonDuplicates = new NonDuplicateService(context);
        Scans = new ScanService(context, _live);
    }

    /// <summary>The users and their passwords.</summary>
    public UserStore Users { get; }

    /// <summary>The API tokens and sign-in links.</summary>
    public TokenStore Tokens { get; }

    /// <summary>The sessions of the console.</summary>
    public SessionStore Sessions { get; }

    /// <summary>Checks of the map against the database.</summary>
    public MapService Maps { get; }

    /// <summary>Searching and reading records.</summary>
    public RecordService Records { get; }

    /// <summary>The history of merges, reversals and decisions.</summary>
    public HistoryService History { get; }

    /// <summary>Planning and applying merges.</summary>
    public MergeService Merges { get; }

    /// <summary>Planning and carrying out reversals.</summary>
    public ReversalService Reversals { get; }

    /// <summary>Match rules and their versions.</summary>
    public RuleService Rules { get; }

    /// <summary>Similar records, and why two records are alike.</summary>
    public SimilarRecordService Similar { get; }

    /// <summary>The queue of clusters.</summary>
    public ClusterService Clusters { get; }

    /// <summary>Filters of the queue under a name.</summary>
    public SavedViewStore SavedViews { get; }

    /// <summary>Records decided not to be duplicates.</summary>
    public NonDuplicateService NonDuplicates { get; }

    /// <summary>Scans for duplicates.</summary>
    public ScanService Scans { get; }

    /// <summary>The map, as last checked against the database.</summary>
    public CheckedMap Map => _context.Map;

    /// <summary>The users of a database, where no map is at hand.</summary>
    /// <param name="database">The SQLite file, or the address of a PostgreSQL database.</param>
    /// <param name="clock">Tells the time.</param>
    public static UserStore OpenUsers(string database, TimeProvider clock) =>
        new(DatabaseEngines.Open(database, TimeSpan.FromSeconds(5)), clock);

    /// <summary>The API tokens and sign-in links of a database, where no map is at hand.</summary>
    /// <param name="database">The SQLite file, or the address of a PostgreSQL database.</param>
    /// <param name="clock">Tells the time.</param>
    public static TokenStore OpenTokens(string database, TimeProvider clock) =>
        new(DatabaseEngines.Open(database, TimeSpan.FromSeconds(5)), clock);

    /// <summary>Opens a database with its map.</summary>
    /// <param name="database">The SQLite file, or the address of a PostgreSQL database.</param>
    /// <param name="document">The map, as read.</param>
    /// <param name="busyTimeout">How long to wait for locks of other programs, in whole seconds.</param>
    /// <param name="clock">Tells the time.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">
    /// The database cannot be opened, is not initialised, or the map does not fit it.
    /// </exception>
    public static async Task<OperationalDatabase> OpenAsync(
        string database,
        MapDocument document,
        TimeSpan busyTimeout,
        TimeProvider clock,
        CancellationToken cancellationToken
    )
    {
        var (opened, version) = await OpenAnyAsync(database, document, busyTimeout, clock, cancellationToken);
        if (version == 0)
            throw new KettlefogException(
                ErrorCode.NotInitialised,
                $"The database {opened.DisplayName} does not have Kettlefog's tables yet.",
                "Create them with 'kettlefog service init'."
            );
        return opened;
    }

    /// <summary>
    /// Opens a database for plans and dry runs, even without Kettlefog's tables: a dry run then creates them in
    /// the transaction that is rolled back.
    /// </summary>
    /// <param name="database">The SQLite file, or the address of a PostgreSQL database.</param>
    /// <param name="document">The map, as read.</param>
    /// <param name="clock">Tells the time.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <exception cref="KettlefogException">
    /// The database cannot be opened, has Kettlefog's tables in another version, or the map does not fit it.
    /// </exception>
    public static async Task<OperationalDatabase> OpenForPreviewAsync(
        string database,
        MapDocument document,
        TimeProvider clock,
        CancellationToken cancellationToken
    )
    {
        var (opened, version) = await OpenAnyAsync(
            database,
            document,
            TimeSpan.FromSeconds(5),
            clock,
            cancellationToken
        );
        opened._context.Engine.IsUninitialised = version == 0;
        return opened;
    }

    private static async Task<(OperationalDatabase Database, int Version)> OpenAnyAsync(
        string database,
        MapDocument document,
        TimeSpan busyTimeout,
        TimeProvider clock,
        CancellationToken cancellationToken
    )
    {
        var engine = DatabaseEngines.Open(database, busyTimeout);
        await using var session = await engine.OpenReadAsync(cancellationToken);
        var context = await DatabaseContext.CreateAsync(engine, document, session, clock, cancellationToken);
        var version = await engine.OwnSchema.ReadVersionAsync(session, cancellationToken);
        if (version > OwnTables.Version)
            throw OwnTablesMaintenance.TooNew(engine, version);
        if (version > 0 && version < OwnTables.Version)
        {
            throw new KettlefogException(
                ErrorCode.NotInitialised,
                $"The database {engine.DisplayName} has Kettlefog's tables in version {version}, but this "
                    + $"program knows version {OwnTables.Version}.",
                "Upgrade them with 'kettlefog service init', which writes a backup first."
            );
        }

        return (new OperationalDatabase(context, document), version);
    }

    /// <summary>The name of the database, without any password.</summary>
    public string DisplayName => _context.Engine.DisplayName;

    /// <summary>
    /// The current state of history, queue and rules, whichever instance of the service changed them.
    /// </summary>
    public async Task<ChangeMarkers> ReadChangeMarkersAsync(CancellationToken cancellationToken)
    {
        await using var session = await _context.Engine.OpenReadAsync(cancellationToken);
        var (next, _) = await new HistoryStore(session).NextAsync(cancellationToken);
        return new ChangeMarkers(
            next - 1,
            await ClusterStore.ReadChangeMarkerAsync(session, cancellationToken),
            await new RuleStore(session).CountAsync(cancellationToken)
        );
    }

    /// <summary>True if the database responds within a moment.</summary>
    public async Task<bool> AnswersAsync(CancellationToken cancellationToken)
    {
        try
        {
            return await VersionMatchesAsync().WaitAsync(MaxWaitForAnswer, cancellationToken);
        }
        catch (Exception error) when (error is KettlefogException or TimeoutException)
        {
            return false;
        }

        async Task<bool> VersionMatchesAsync()
        {
            using var ending = new CancellationTokenSource(MaxWaitForAnswer);
            try
            {
                await using var session = await _context.Engine.OpenReadAsync(ending.Token);
                return await _context.Engine.OwnSchema.ReadVersionAsync(session, ending.Token) == OwnTables.Version;
            }
            catch (OperationCanceledException)
            {
                return false;
            }
        }
    }

    /// <summary>Closes the idle connections.</summary>
    public void Dispose()
    {
        _live.Dispose();
        History.Dispose();
        _context.Engine.Dispose();
    }
}
