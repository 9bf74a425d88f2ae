using Kettlefog.Contracts;
using Kettlefog.Testing;

namespace Kettlefog.Cli.Tests;

/// <summary>Checkpoints and proofs, from the service to an auditor who has neither service nor database.</summary>
public class ProofCliTests
{
    [Fact]
    public async Task An_auditor_verifies_an_entry_with_the_public_key_alone()
    {
        await using var fixture = new Fixture();
        await fixture.InitializeAsync();
        using var folder = new TempFolder();
        string File(string name, string text)
        {
            System.IO.File.WriteAllText(Path.Combine(folder.Path, name), text);
            return Path.Combine(folder.Path, name);
        }

        (await fixture.RunAsync("merge", "vendor", "1003", "1004", "--yes", "--reason", "same firm")).ShouldSucceed();
        var key = File("kettlefog.pub", (await fixture.RunAsync("history", "key")).ShouldSucceed().Output);
        var first = (await fixture.RunAsync("history", "checkpoint")).ShouldSucceed().Output;
        first.Split('\n')[1].ShouldBe("1", "one entry");
        var checkpoint = File("checkpoint.txt", first);
        (await fixture.RunAsync("reverse", "1", "--yes")).ShouldSucceed();
        (await fixture.RunAsync("history", "verify", "--checkpoint", checkpoint))
            .ShouldSucceed()
            .Output.ShouldContain("It begins with the 1 entry of the checkpoint of ");
        var proof = (await fixture.RunAsync("history", "prove", "1", "--checkpoint", checkpoint))
            .ShouldSucceed()
            .Output;
        var file = File("proof.json", proof);

        // As the auditor does it: the file, the published key, and nothing else.
        async Task<Ran> CheckAsync(string given, string by) =>
            await Programs.RunAsync(Programs.Service, ["check-proof", given, "--key", by]);
        var proven = (await CheckAsync(file, key)).ShouldSucceed().Output;
        proven.ShouldStartWith("Proven: entry 1 is in the history of 1 entry that kettlefog.");
        proven.ShouldContain("merge of vendor 1003, 1004, ");
        proven.ShouldContain("by c.weeks: same firm");
        (await CheckAsync(file, System.IO.File.ReadAllText(key).Trim())).ShouldSucceed();

        async Task RefusedAsync(string given, string by, string message)
        {
            var ran = await CheckAsync(given, by);
            ran.ExitCode.ShouldNotBe(0);
            ran.Error.ShouldContain(message);
            ran.Error.ShouldNotContain("   at ");
        }

        var forged = proof.Replace("same firm", "some firm", StringComparison.Ordinal);
        await RefusedAsync(File("forged.json", forged), key, "not in the history of its checkpoint, or was altered");
        await RefusedAsync(file, "kettlefog.0123abcd+00000000+AAAA", "This is no public key.");
        await RefusedAsync(key, key, "is no proof of an entry.");
        await RefusedAsync(File("deep.json", new string('[', 100_000)), key, "is no proof of an entry.");
        await RefusedAsync(Path.Combine(folder.Path, "missing.json"), key, "cannot be read");

        var bent = File("bent.txt", first.Replace("\n1\n", "\n0\n", StringComparison.Ordinal));
        var altered = await fixture.RunAsync("history", "verify", "--checkpoint", bent);
        altered.ExitCode.ShouldNotBe(0);
        altered.Error.ShouldContain("The checkpoint was altered after it was signed.");
        (await fixture.RunAsync("history", "verify", "--checkpoint", key)).Error.ShouldContain(
            "This is no checkpoint of a history."
        );
    }

    [Fact]
    public async Task A_history_that_was_rewritten_is_not_signed()
    {
        await using var service = await RunningService.StartAsync(20);
        await service.Client.MarkPairNonDuplicatesAsync(new PairBody("vendor", "1010", "1011", "two firms"));
        var signed = await service.Client.SignCheckpointAsync();
        signed.Size.ShouldBe(1);
        (await service.Client.SignCheckpointAsync()).Text.ShouldBe(signed.Text, "nothing is new within a minute");
        (await service.ClientFor(service.ViewerToken).SignCheckpointAsync()).Size.ShouldBe(1);
        foreach (
            var file in new[] { service.SigningKeyFile, Path.ChangeExtension(service.SigningKeyFile, ".checkpoint") }
        )
            System.IO.File.GetUnixFileMode(file).ShouldBe(UnixFileMode.UserRead | UnixFileMode.UserWrite);
        string.Join('\n', service.Database.DumpAll()).ShouldNotContain("PRIVATE+KEY");
        service.Log.ShouldNotContain("PRIVATE+KEY");

        service.Database.Execute(
            "DROP TRIGGER kettlefog_history_is_not_changed; UPDATE kettlefog_history SET hash = '"
                + new string('a', 64)
                + "'"
        );
        foreach (
            var ask in new Func<Task>[]
            {
                () => service.Client.SignCheckpointAsync(),
                () => service.Client.ProveEntryAsync(1),
            }
        )
        {
            var refused = (await Should.ThrowAsync<Client.ProblemException>(ask)).Problem;
            (refused.Status, refused.Code).ShouldBe((422, "not-proven"));
            refused.Title.ShouldBe("The history does not begin with the entries of its last checkpoint.");
        }
    }

    [Fact]
    public async Task Checkpoints_are_appended_to_a_file_and_logged()
    {
        await using var service = await RunningService.StartAsync(20);
        await service.Client.MarkPairNonDuplicatesAsync(new PairBody("vendor", "1010", "1011", "two firms"));
        await service.KillAsync();
        var file = Path.Combine(service.Folder, "checkpoints.txt");
        await service.ServeAsync("--checkpoints", file);
        for (var waited = 0; !System.IO.File.Exists(file) && waited < 600; waited++)
            await Task.Delay(100);
        var appended = await System.IO.File.ReadAllTextAsync(file);
        (await service.Client.CheckHistoryAsync(checkpoint: appended.TrimEnd() + "\n")).Checkpoint!.Size.ShouldBe(1);
        service.Log.ShouldContain("Checkpoint of the history, size 1");
    }

    private sealed class Fixture : CliFixture, IAsyncDisposable;
}
