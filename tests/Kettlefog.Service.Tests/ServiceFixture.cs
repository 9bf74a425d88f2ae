using Kettlefog.Service.Tests;
using Kettlefog.Testing;

[assembly: AssemblyFixture(typeof(ServiceFixture))]

namespace Kettlefog.Service.Tests;

/// <summary>One running service for tests that do not affect each other: each works on its own vendors.</summary>
public sealed class ServiceFixture : IAsyncLifetime
{
    private int _next = 1009;

    public RunningService Service { get; private set; } = null!;

    /// <summary>Two vendors that no other test touches and that can be merged.</summary>
    public (string Master, string Duplicate) Pair()
    {
        var first = Interlocked.Add(ref _next, 2);
        Service.Database.Execute(
            "UPDATE vendor SET currency = 'GBP', legal_entity = 'SHT' WHERE vendor_id IN (?1, ?2)",
            (long)first - 1,
            (long)first
        );
        return ($"{first - 1}", $"{first}");
    }

    public async ValueTask InitializeAsync() => Service = await RunningService.StartAsync(160);

    public ValueTask DisposeAsync() => Service.DisposeAsync();
}
