using System.Net;

namespace Kettlefog.Service.Settings;

/// <summary>Where the service listens, and how it is reached.</summary>
/// <param name="Host">The address to listen on.</param>
/// <param name="Port">The port; 0 for a free one.</param>
/// <param name="PublicAddress">The address under which browsers reach it; null if that is where it listens.</param>
/// <param name="TrustedProxies">The proxies whose word on who calls is taken.</param>
/// <param name="Certificate">The file of the certificate chain, as PEM; null for HTTP.</param>
/// <param name="CertificateKey">The file of its private key, as PEM.</param>
internal sealed record ListeningSettings(
    string Host,
    int Port,
    Uri? PublicAddress,
    IReadOnlyList<IPNetwork> TrustedProxies,
    string? Certificate,
    string? CertificateKey
)
{
    /// <summary>True if only this machine reaches the service.</summary>
    public bool IsLocal =>
        Host.Equals("localhost", StringComparison.OrdinalIgnoreCase)
        || (IPAddress.TryParse(Host, out var address) && IPAddress.IsLoopback(address));

    /// <summary>The address to listen on, as a URL.</summary>
    public string Url =>
        $"{(Certificate is null ? "http" : "https")}://{(Host.Contains(':') ? $"[{Host}]" : Host)}:{Port}";

    /// <summary>
    /// The hosts by which requests may name the service; null for any. A page of another site whose name leads to this
    /// machine names its own.
    /// </summary>
    public IReadOnlyList<string>? AllowedHosts
    {
        get
        {
            var isAny =
                IPAddress.TryParse(Host, out var address)
                && (address.Equals(IPAddress.Any) || address.Equals(IPAddress.IPv6Any));
            if (isAny && PublicAddress is null)
                return null;
            string[] own = IsLocal || isAny ? ["localhost", "127.0.0.1", "[::1]"] : [];
            return
            [
                .. own,
                .. isAny ? [] : new[] { Host.Contains(':') ? $"[{Host}]" : Host },
                .. PublicAddress is { } shown ? new[] { shown.Host } : [],
            ];
        }
    }
}
