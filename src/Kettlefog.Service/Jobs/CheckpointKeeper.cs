using System.Security.Cryptography;
using Kettlefog.Contracts;
using Kettlefog.Core;
using Kettlefog.Core.Proving;
using Kettlefog.Database;
using Kettlefog.Service.Settings;

namespace Kettlefog.Service.Jobs;

/// <summary>
/// Signs checkpoints of the history, at intervals and when asked. Each one must continue the one before, which is kept
/// beside the key and outside the database: a history that was rewritten is not signed.
/// </summary>
internal sealed class CheckpointKeeper(
    OperationalDatabase database,
    CheckpointSettings settings,
    TimeProvider clock,
    ILogger<CheckpointKeeper> log
) : BackgroundService
{
    private static readonly TimeSpan Fresh = TimeSpan.FromMinutes(1);

    private readonly SemaphoreSlim _turn = new(1);

    private string LastFile => Path.ChangeExtension(settings.KeyFile, ".checkpoint");

    /// <summary>The public key.</summary>
    /// <exception cref="KettlefogException">The key cannot be read, or made.</exception>
    public async Task<NoteKey> ReadKeyAsync(CancellationToken cancellationToken) =>
        (await SignerAsync(cancellationToken)).Public;

    /// <summary>Signs what the history is now.</summary>
    /// <exception cref="KettlefogException">
    /// The key cannot be read or made, or the history does not continue the last checkpoint.
    /// </exception>
    public async Task<SignedCheckpoint> SignAsync(CancellationToken cancellationToken)
    {
        await _turn.WaitAsync(cancellationToken);
        try
        {
            var signer = await SignerAsync(cancellationToken);
            var last = await LastAsync(signer, cancellationToken);
            var (size, root, earlier) = await database.History.ReadRootsAsync(last?.Size ?? 0, cancellationToken);
            if (last is not null && (earlier is null || Convert.ToHexStringLower(earlier) != last.Root))
                throw Rewritten(last, size);
            var now = clock.GetUtcNow();
            if (last is not null && last.Size == size && now - last.At < Fresh)
                return View(last, await File.ReadAllTextAsync(LastFile, cancellationToken));
            var checkpoint = new Checkpoint(
                signer.Public.Name,
                size,
                Convert.ToHexStringLower(root),
                new DateTimeOffset(now.UtcTicks - (now.UtcTicks % TimeSpan.TicksPerSecond), TimeSpan.Zero)
            );
            var note = signer.Sign(checkpoint.Text);
            await WriteAsync(LastFile, note, isNew: false, cancellationToken);
            return View(checkpoint, note);
        }
        finally
        {
            _turn.Release();
        }
    }

    public override void Dispose()
    {
        _turn.Dispose();
        base.Dispose();
    }

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        if (settings.Every is not { } every)
            return;
        using var timer = new PeriodicTimer(every, clock);
        long? written = null;
        do
        {
            try
            {
                // What has not grown since needs no other line in the file.
                var checkpoint = await SignAsync(stoppingToken);
                if (checkpoint.Size == written)
                    continue;
                written = checkpoint.Size;
                log.LogInformation(
                    "Checkpoint of the history, size {Size}, root {Root}: {Text}",
                    checkpoint.Size,
                    checkpoint.Root,
                    checkpoint.Text
                );
                if (settings.File is { } file)
                    await File.AppendAllTextAsync(file, checkpoint.Text + "\n", stoppingToken);
            }
            catch (KettlefogException refusal)
            {
                var level = refusal.Code == ErrorCode.NotProven ? LogLevel.Critical : LogLevel.Warning;
                log.Log(level, "No checkpoint of the history: {Message} {Hint}", refusal.Message, refusal.Hint);
            }
            catch (Exception error) when (error is IOException or UnauthorizedAccessException)
            {
                log.LogWarning("The checkpoint cannot be written to {File}: {Message}", settings.File, error.Message);
            }
        } while (await timer.WaitForNextTickAsync(stoppingToken));
    }

    private static SignedCheckpoint View(Checkpoint checkpoint, string note) =>
        new(checkpoint.Size, checkpoint.Root, checkpoint.At, note);

    private async Task<NoteSigner> SignerAsync(CancellationToken cancellationToken)
    {
        if (!File.Exists(settings.KeyFile))
        {
            var made = NoteSigner.Create($"kettlefog.{RandomNumberGenerator.GetHexString(8, lowercase: true)}");
            try
            {
                await WriteAsync(settings.KeyFile, made.Secret + "\n", isNew: true, cancellationToken);
                log.LogInformation("A key for checkpoints of the history was made: {Key}", made.Public.Text);
            }
            catch (KettlefogException) when (File.Exists(settings.KeyFile))
            {
                // Another request, or instance, made it.
            }
        }

        return NoteSigner.TryRead((await ReadAsync(settings.KeyFile, cancellationToken)).Trim())
            ?? throw Unusable(settings.KeyFile, "it holds no key that signs checkpoints");
    }

    /// <summary>The last checkpoint that this key signed; null if there is none.</summary>
    private async Task<Checkpoint?> LastAsync(NoteSigner signer, CancellationToken cancellationToken)
    {
        if (!File.Exists(LastFile))
            return null;
        var note = await ReadAsync(LastFile, cancellationToken);
        return signer.Public.Verifies(note)
            ? Checkpoint.Read(note)
            : throw Unusable(LastFile, "it is not signed by the key beside it");
    }

    private static async Task<string> ReadAsync(string file, CancellationToken cancellationToken)
    {
        try
        {
            return await File.ReadAllTextAsync(file, cancellationToken);
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            throw Unusable(file, error.Message, error);
        }
    }

    /// <summary>Writes a file that only its owner may read, whole or not at all.</summary>
    private static async Task WriteAsync(string file, string text, bool isNew, CancellationToken cancellationToken)
    {
        try
        {
            if (Path.GetDirectoryName(Path.GetFullPath(file)) is { } folder)
                Directory.CreateDirectory(folder);
            var options = new FileStreamOptions { Mode = FileMode.CreateNew, Access = FileAccess.Write };
            if (!OperatingSystem.IsWindows())
                options.UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite;
            var temporary = $"{file}.{RandomNumberGenerator.GetHexString(8, lowercase: true)}";
            await using (var stream = new FileStream(temporary, options))
            {
                await stream.WriteAsync(System.Text.Encoding.UTF8.GetBytes(text), cancellationToken);
                stream.Flush(flushToDisk: true);
            }

            try
            {
                File.Move(temporary, file, overwrite: !isNew);
            }
            finally
            {
                File.Delete(temporary);
            }
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            throw Unusable(file, error.Message, error);
        }
    }

    private static KettlefogException Rewritten(Checkpoint last, long size) =>
        new(
            ErrorCode.NotProven,
            size < last.Size
                ? $"The history has fewer entries than at its last checkpoint: {size} instead of {last.Size}."
                : "The history does not begin with the entries of its last checkpoint.",
            "Find out who changed it, or whether an earlier state of the database was restored; "
                + "then remove the last checkpoint, which is beside the key that signs."
        );

    private static KettlefogException Unusable(string file, string why, Exception? error = null) =>
        new(
            ErrorCode.DatabaseUnavailable,
            $"The file {file}, for checkpoints of the history, cannot be used: {why.TrimEnd('.')}.",
            "Name another file for the key with '--signing-key', or give the service the right to write there.",
            inner: error
        );
}
