namespace Kettlefog.Core.Text;

/// <summary>Legal forms of organisations, as they are written in names.</summary>
public static class LegalForms
{
    /// <summary>The forms that are written as one word, such as <c>limited</c>: in small letters, in order.</summary>
    public static IReadOnlyList<string> Words { get; } =
    [
        .. WordLists
            .LegalForms.Keys.Where(form => !form.Contains(' ', StringComparison.Ordinal))
            .Order(StringComparer.Ordinal),
    ];
}
