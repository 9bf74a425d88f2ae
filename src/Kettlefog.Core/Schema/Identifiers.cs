namespace Kettlefog.Core.Schema;

/// <summary>Compares names of tables and columns, which every engine finds regardless of case.</summary>
public static class Identifiers
{
    /// <summary>True if two names are the same, ignoring case.</summary>
    /// <param name="left">One name.</param>
    /// <param name="right">The other.</param>
    public static bool Same(string? left, string? right) =>
        string.Equals(left, right, StringComparison.OrdinalIgnoreCase);

    /// <summary>The index of a name, or -1.</summary>
    /// <param name="names">The names.</param>
    /// <param name="name">The name to find.</param>
    public static int IndexOfIdentifier(this IReadOnlyList<string> names, string? name)
    {
        ArgumentNullException.ThrowIfNull(names);
        for (var index = 0; index < names.Count; index++)
        {
            if (Same(names[index], name))
                return index;
        }

        return -1;
    }

    /// <summary>True if a name is among others.</summary>
    /// <param name="names">The names.</param>
    /// <param name="name">The name to find.</param>
    public static bool ContainsIdentifier(this IEnumerable<string?> names, string? name) =>
        names.Contains(name, StringComparer.OrdinalIgnoreCase);
}
