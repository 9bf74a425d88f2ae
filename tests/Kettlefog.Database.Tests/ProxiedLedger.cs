using Kettlefog.Core.Map.Reading;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>A ledger on a server, and an instance of the program that reaches it over a network that fails.</summary>
internal sealed class ProxiedLedger : IDisposable
{
    private ProxiedLedger(Ledger ledger, PostgresProxy proxy) => (Ledger, Proxy) = (ledger, proxy);

    public Ledger Ledger { get; }

    public PostgresProxy Proxy { get; }

    public OperationalDatabase Database { get; private set; } = null!;

    public static async Task<ProxiedLedger> OpenAsync(int busySeconds = 2, string options = "")
    {
        var ledger = await Ledger.OpenAsync(Engine.Postgres);
        var proxied = new ProxiedLedger(ledger, new PostgresProxy((PostgresDatabase)ledger.File));
        try
        {
            proxied.Database = await OperationalDatabase.OpenAsync(
                $"{proxied.Proxy.Address}?{options}",
                MapReader.Read(Ledger.Yaml, "ledger.yaml"),
                TimeSpan.FromSeconds(busySeconds),
                TimeProvider.System,
                default
            );
            return proxied;
        }
        catch
        {
            proxied.Dispose();
            throw;
        }
    }

    public void Deconstruct(out Ledger ledger, out PostgresProxy proxy, out OperationalDatabase database) =>
        (ledger, proxy, database) = (Ledger, Proxy, Database);

    public void Dispose()
    {
        Database?.Dispose();
        Proxy.Dispose();
        Ledger.Dispose();
    }
}
