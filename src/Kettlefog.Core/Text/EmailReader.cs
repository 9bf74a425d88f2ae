namespace Kettlefog.Core.Text;

/// <summary>Normalises e-mail addresses to their mailbox.</summary>
internal static class EmailReader
{
    private static readonly string[] JunkLocals =
    [
        "noemail",
        "no",
        "none",
        "noreply",
        "no-reply",
        "donotreply",
        "na",
        "nomail",
        "unknown",
        "test",
        "x",
        "xx",
        "xxx",
        "abc",
        "nobody",
        "anonymous",
    ];

    /// <summary>
    /// Local part and host in lower case, without display name, without +tag, and without
    /// dots where the host ignores them; null if the text is no address, or a placeholder for one.
    /// </summary>
    public static (string Local, string Host)? Read(string text)
    {
        var span = text.AsSpan().Trim();
        if (span.IndexOf('<') is >= 0 and var open && span[open..].IndexOf('>') is > 0 and var length)
            span = span.Slice(open + 1, length - 1);
        if (span.StartsWith("mailto:", StringComparison.OrdinalIgnoreCase))
            span = span[7..];
        var at = span.LastIndexOf('@');
        if (at <= 0 || at == span.Length - 1 || span.Length > 254)
            return null;
        var local = span[..at].ToString().ToLowerInvariant();
        var host = span[(at + 1)..].ToString().ToLowerInvariant().TrimEnd('.', '>', ' ');
        if (local.IndexOf('+', StringComparison.Ordinal) is > 0 and var plus)
            local = local[..plus];
        if (host is "gmail.com" or "googlemail.com")
            (local, host) = (local.Replace(".", "", StringComparison.Ordinal), "gmail.com");
        return host.Length < 3 || JunkLocals.Contains(local) || Junk.IsJunk(local) ? null : (local, host);
    }
}
