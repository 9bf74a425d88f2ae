using System.Globalization;
using Kettlefog.Core;
using Kettlefog.Database.Engines;
using Kettlefog.Database.Engines.Postgres;
using Kettlefog.Database.Own;

namespace Kettlefog.Database;

/// <summary>Creates, upgrades, backs up, restores and removes Kettlefog's tables in an operational database.</summary>
public static class OwnTablesMaintenance
{
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(5);

    /// <summary>
    /// Creates Kettlefog's tables in a database, or upgrades those of an earlier version; nothing else is changed.
    /// </summary>
    /// <param name="database">The SQLite file, or the address of a PostgreSQL database.</param>
    /// <param name="backups">
    /// The folder for a backup before an upgrade; null for the default, see <see cref="BackupFolderOf"/>.
    /// </param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <returns>The backup that was written first; null if there was nothing to upgrade.</returns>
    /// <exception cref="KettlefogException">
    /// The database cannot be opened or written, or its own tables are newer than this program.
    /// </exception>
    public static async Task<string?> InitialiseAsync(
        string database,
        string? backups,
        CancellationToken cancellationToken
    )
    {
        using var engine = DatabaseEngines.Open(database, Patience);
        var version = await OwnVersionOfAsync(engine, cancellationToken);
        var backup =
            version > 0 && version < OwnTables.Version
                ? await BackUpAsync(engine, database, backups, version, cancellationToken)
                : null;
        if (version < OwnTables.Version)
            engine.OwnSchema.Migrate(OwnTables.Version);
        return backup;
    }

    /// <summary>Upgrades Kettlefog's tables if they exist in an earlier version; does not create any.</summary>
    /// <inheritdoc cref="InitialiseAsync"/>
    public static async Task<string?> UpgradeAsync(
        string database,
        string? backups,
        CancellationToken cancellationToken
    )
    {
        using var engine = DatabaseEngines.Open(database, Patience);
        return await OwnVersionOfAsync(engine, cancellationToken) == 0
            ? null
            : await InitialiseAsync(database, backups, cancellationToken);
    }

    /// <summary>Writes a backup of Kettlefog's tables: history, journal, redirects, users, decisions, rules.</summary>
    /// <param name="database">The SQLite file, or the address of a PostgreSQL database.</param>
    /// <param name="file">The file to write, which must not exist yet.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <returns>The number of rows written.</returns>
    /// <exception cref="KettlefogException">
    /// The database cannot be opened or has no Kettlefog tables, or the file cannot be written.
    /// </exception>
    public static async Task<long> BackUpAsync(string database, string file, CancellationToken cancellationToken)
    {
        using var engine = DatabaseEngines.Open(database, Patience);
        var version = await OwnVersionOfAsync(engine, cancellationToken);
        return version == 0 ? throw NoOwnTables(engine) : await BackUpAsync(engine, file, version, cancellationToken);
    }

    /// <summary>Creates Kettlefog's tables from a backup, and upgrades them if it is of an earlier version.</summary>
    /// <param name="database">
    /// The SQLite file, or the address of a PostgreSQL database; without Kettlefog's tables.
    /// </param>
    /// <param name="file">The backup.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <returns>The number of rows restored.</returns>
    /// <exception cref="KettlefogException">
    /// Kettlefog's tables exist already, or the file is not a backup; nothing was changed.
    /// </exception>
    public static async Task<long> RestoreAsync(string database, string file, CancellationToken cancellationToken)
    {
        using var engine = DatabaseEngines.Open(database, Patience);
        if (await OwnVersionOfAsync(engine, cancellationToken) > 0)
            throw new KettlefogException(
                ErrorCode.InvalidQuery,
                $"The database {engine.DisplayName} has Kettlefog's tables already, and nothing of them is "
                    + "overwritten.",
                "Remove them first with 'kettlefog service uninstall'."
            );
        await using var stream = Opened(file);
        var head = await OwnBackup.ReadHeadAsync(stream, file);
        if (head.Engine != engine.Name)
            throw new KettlefogException(
                ErrorCode.InvalidQuery,
                $"The backup {file} is of a {head.Engine} database, and its journal cannot be read by {engine.Name}.",
                "Restore it to a database of the same engine."
            );
        if (head.Version > OwnTables.Version)
            throw TooNew(engine, head.Version);
        stream.Position = 0;

        // One transaction, so that a restore that fails, or is killed, leaves nothing behind.
        await using var session = await engine.OpenWriteAsync(cancellationToken);
        session.ExpectLongStatements();
        await OwnTables.CreateAsync(session, 0, head.Version, cancellationToken);
        var rows = await new OwnBackup(session).RestoreAsync(stream, file, cancellationToken);
        await engine.OwnSchema.ContinueSequencesAsync(session, cancellationToken);
        await OwnTables.CreateAsync(session, head.Version, OwnTables.Version, cancellationToken);
        await session.CommitAsync(cancellationToken);
        return rows;
    }

    /// <summary>Removes Kettlefog's tables; the merged records are left as they are.</summary>
    /// <param name="database">The SQLite file, or the address of a PostgreSQL database.</param>
    /// <param name="backups">The folder for a last backup; null for the default.</param>
    /// <param name="cancellationToken">Cancels.</param>
    /// <returns>The backup.</returns>
    /// <exception cref="KettlefogException">
    /// The database cannot be opened or written, or has no Kettlefog tables.
    /// </exception>
    public static async Task<string> UninstallAsync(
        string database,
        string? backups,
        CancellationToken cancellationToken
    )
    {
        using var engine = DatabaseEngines.Open(database, Patience);
        int version;
        await using (var session = await engine.OpenReadAsync(cancellationToken))
            version = await engine.OwnSchema.ReadVersionAsync(session, cancellationToken);
        if (version == 0)
            throw NoOwnTables(engine);
        var backup = await BackUpAsync(engine, database, backups, version, cancellationToken);
        await RemoveAsync(engine, cancellationToken);
        return backup;
    }

    /// <summary>
    /// The default folder for backups: for an SQLite file the one beside it, otherwise <see cref="StateFolder"/>.
    /// </summary>
    /// <param name="database">The SQLite file, or the address of a PostgreSQL database.</param>
    public static string BackupFolderOf(string database)
    {
        return PostgresAddress.IsAddress(database) ? StateFolder() : Path.GetDirectoryName(Path.GetFullPath(database))!;
    }

    /// <summary>The address of a database as people may see it.</summary>
    /// <param name="database">The SQLite file, or the address of a PostgreSQL database.</param>
    public static string WithoutPassword(string database) =>
        PostgresAddress.IsAddress(database) ? PostgresAddress.WithoutPassword(database) : database;

    /// <summary>Names a database among others, for what is kept outside it; holds no secret.</summary>
    /// <param name="database">The SQLite file, or the address of a PostgreSQL database.</param>
    /// <exception cref="KettlefogException">The address cannot be read.</exception>
    public static string NameOf(string database)
    {
        if (!PostgresAddress.IsAddress(database))
            return Path.GetFullPath(database);
        var address = PostgresAddress.Read(database);
        return string.Create(CultureInfo.InvariantCulture, $"{address.Host}:{address.Port}/{address.Database}");
    }

    /// <summary>
    /// The folder for what the service keeps outside the database: <c>$STATE_DIRECTORY</c>, which systemd sets, or
    /// <c>$XDG_STATE_HOME/kettlefog</c>.
    /// </summary>
    public static string StateFolder()
    {
        static string? Variable(string name) =>
            Environment.GetEnvironmentVariable(name) is { Length: > 0 } value ? value : null;
        return Variable("STATE_DIRECTORY")
            ?? Path.Combine(
                Variable("XDG_STATE_HOME")
                    ?? Path.Combine(
                        Environment.GetFolderPath(Environment.SpecialFolder.UserProfile),
                        ".local",
                        "state"
                    ),
                "kettlefog"
            );
    }

    private static async Task<int> OwnVersionOfAsync(DatabaseEngine engine, CancellationToken cancellationToken)
    {
        await using var session = await engine.OpenReadAsync(cancellationToken);
        var version = await engine.OwnSchema.ReadVersionAsync(session, cancellationToken);
        return version > OwnTables.Version ? throw TooNew(engine, version) : version;
    }

    private static Task<string> BackUpAsync(
        DatabaseEngine engine,
        string database,
        string? folder,
        int version,
        CancellationToken cancellationToken
    )
    {
        folder ??= BackupFolderOf(database);
        var name = new string([
            .. engine.DisplayName.Select(letter =>
                char.IsAsciiLetterOrDigit(letter) || letter is '-' or '_' or '.' ? letter : '-'
            ),
        ]);
        var at = DateTime.UtcNow.ToString("yyyyMMdd'T'HHmmssfff'Z'", CultureInfo.InvariantCulture);
        var file = Path.Combine(folder, $"{name}.kettlefog-v{version}-{at}.jsonl.gz");
        return WriteAsync();

        async Task<string> WriteAsync()
        {
            await BackUpAsync(engine, file, version, cancellationToken);
            return file;
        }
    }

    private static async Task<long> BackUpAsync(
        DatabaseEngine engine,
        string file,
        int version,
        CancellationToken cancellationToken
    )
    {
        try
        {
            Directory.CreateDirectory(Path.GetDirectoryName(Path.GetFullPath(file))!);

            // It contains password hashes: nobody else may read it.
            var options = new FileStreamOptions { Mode = FileMode.CreateNew, Access = FileAccess.Write };
            if (!OperatingSystem.IsWindows())
                options.UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite;
            await using var stream = new FileStream(file, options);
            await using var session = await engine.OpenReadAsync(cancellationToken);
            var rows = await new OwnBackup(session).WriteAsync(
                stream,
                new BackupHead("", version, engine.Name, engine.DisplayName, DateTimeOffset.UtcNow),
                cancellationToken
            );
            stream.Flush(flushToDisk: true);
            return rows;
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            throw new KettlefogException(
                ErrorCode.DatabaseUnavailable,
                $"The backup {file} cannot be written: {error.Message}",
                "Nothing was changed. Name a folder that may be written to, with '--backups'.",
                inner: error
            );
        }
    }

    private static async Task RemoveAsync(DatabaseEngine engine, CancellationToken cancellationToken)
    {
        await using var session = await engine.OpenWriteAsync(cancellationToken);
        session.ExpectLongStatements();
        await engine.OwnSchema.RemoveAsync(session, cancellationToken);
        await session.CommitAsync(cancellationToken);
    }

    private static FileStream Opened(string file)
    {
        try
        {
            return File.OpenRead(file);
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            throw new KettlefogException(
                ErrorCode.InvalidQuery,
                $"The backup {file} cannot be read: {error.Message}",
                "Check the path and the rights of the file.",
                inner: error
            );
        }
    }

    private static KettlefogException NoOwnTables(DatabaseEngine engine) =>
        new(
            ErrorCode.NotInitialised,
            $"The database {engine.DisplayName} does not have Kettlefog's tables.",
            "There is nothing to do; 'kettlefog service init' makes them."
        );

    internal static KettlefogException TooNew(DatabaseEngine engine, int version) =>
        new(
            ErrorCode.NotInitialised,
            $"Kettlefog's tables of {engine.DisplayName} are of version {version}, but this program knows "
                + $"version {OwnTables.Version}.",
            "Use a newer Kettlefog; nothing was changed."
        );
}
