using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>The order of the database's namespaces, the lowest first, as in docs/architecture.md.</summary>
public class NamespaceTests
{
    private static readonly string[] Order =
    [
        "Statements",
        "Engines",
        "Engines.Sqlite",
        "Engines.Postgres",
        "Own",
        "Users",
        "Records",
        "Maps",
        "Journal",
        "History",
        "Duplicates.Decisions",
        "Duplicates.Finding",
        "Duplicates.Rules",
        "Duplicates.LiveIndex",
        "Duplicates.Clusters",
        "Duplicates.Scans",
        "Merging",
        "Reversing",
        "",
    ];

    [Fact]
    public void A_namespace_uses_only_those_before_it() =>
        NamespaceOrder.Violations(typeof(OperationalDatabase).Assembly, Order).ShouldBeEmpty();
}
