namespace Kettlefog.Core.Naming;

/// <summary>Titles for what the map gives none.</summary>
public static class Title
{
    /// <summary>A name as a title: <c>purchase_orders</c> is <c>Purchase orders</c>.</summary>
    /// <param name="name">A name of the map or of the database.</param>
    public static string Of(string name)
    {
        ArgumentNullException.ThrowIfNull(name);
        var words = name.Replace('_', ' ');
        return words.Length == 0 ? words : char.ToUpperInvariant(words[0]) + words[1..];
    }
}
