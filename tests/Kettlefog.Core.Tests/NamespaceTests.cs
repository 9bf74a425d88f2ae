using Kettlefog.Testing;

namespace Kettlefog.Core.Tests;

/// <summary>The order of the core's namespaces, the lowest first, as in docs/architecture.md.</summary>
public class NamespaceTests
{
    private static readonly string[] Order =
    [
        "",
        "Values",
        "Schema",
        "Text.Similarity",
        "Text",
        "Naming",
        "Search",
        "Map.Model",
        "Map.Reading",
        "Map.Checking",
        "Merging.Survivorship",
        "Merging",
        "Proving",
        "History",
        "Reversing",
        "Drafting",
        "Matching.Evidence",
        "Matching.Records",
        "Matching.Blocking",
        "Matching.Features",
        "Matching.Scoring",
        "Matching.Rules",
        "Matching.Clustering",
        "Matching",
    ];

    [Fact]
    public void A_namespace_uses_only_those_before_it() =>
        NamespaceOrder.Violations(typeof(KettlefogException).Assembly, Order).ShouldBeEmpty();
}
