namespace Kettlefog.Database.Engines.Sqlite;

/// <summary>Finds missing rights of the process's user on an SQLite file.</summary>
internal sealed class SqliteRights(string path) : IRightsReader
{
    public Task<IReadOnlyList<MissingRight>> ListMissingAsync(
        Session session,
        IReadOnlyList<TableUse> uses,
        CancellationToken cancellationToken
    )
    {
        var missing = new List<MissingRight>();
        if (!FileRights.MayWrite(path))
            missing.Add(
                new MissingRight(
                    $"The file {Path.GetFileName(path)} may not be written by this user.",
                    "Give the service's user the right to write it.",
                    null
                )
            );
        if (!FileRights.MayWrite(Path.GetDirectoryName(Path.GetFullPath(path))!))
            missing.Add(
                new MissingRight(
                    $"The folder of {Path.GetFileName(path)} may not be written by this user, and SQLite keeps "
                        + "its journal there.",
                    "Give the service's user the right to write it.",
                    null
                )
            );
        return Task.FromResult<IReadOnlyList<MissingRight>>(missing);
    }
}
