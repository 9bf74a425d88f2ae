using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;
using Kettlefog.Service.Settings;
using Kettlefog.Terminal;
using Microsoft.AspNetCore.HttpOverrides;
using Microsoft.Extensions.Primitives;

namespace Kettlefog.Service;

/// <summary>TLS, proxies and host names.</summary>
internal static class Listening
{
    private static readonly TimeSpan StrictTransport = TimeSpan.FromDays(365);

    /// <summary>Has the service listen.</summary>
    /// <exception cref="UsageException">The certificate cannot be used.</exception>
    public static void Configure(WebApplicationBuilder builder, ListeningSettings settings)
    {
        builder.WebHost.ConfigureKestrel(kestrel => kestrel.AddServerHeader = false);
        builder.WebHost.UseUrls(settings.Url);
        builder.Services.Configure<ForwardedHeadersOptions>(options =>
        {
            options.ForwardedHeaders = ForwardedHeaders.XForwardedFor | ForwardedHeaders.XForwardedProto;
            options.KnownProxies.Clear();
            options.KnownIPNetworks.Clear();
            foreach (var network in settings.TrustedProxies)
                options.KnownIPNetworks.Add(network);
            options.ForwardLimit = null;
        });
        builder.Services.AddHsts(options => options.MaxAge = StrictTransport);
        if (settings.Certificate is not { } file)
            return;
        var certificate = new ServedCertificate(file, settings.CertificateKey ?? file);
        builder.WebHost.UseKestrelHttpsConfiguration();
        builder.WebHost.ConfigureKestrel(kestrel =>
            kestrel.ConfigureHttpsDefaults(https => https.ServerCertificateSelector = (_, _) => certificate.Current)
        );
    }

    /// <summary>Learns from trusted proxies who calls, and refuses requests for other hosts.</summary>
    public static void Use(WebApplication app, ListeningSettings settings)
    {
        if (settings.TrustedProxies.Count > 0)
            app.UseForwardedHeaders();
        app.UseHsts();
        if (settings.AllowedHosts is not { } allowed)
            return;
        List<StringSegment> hosts = [.. allowed.Select(host => new StringSegment(host))];
        app.Use(
            (context, next) =>
                HostString.MatchesAny(new StringSegment(context.Request.Host.Host), hosts)
                    ? next(context)
                    : ProblemHandler.WriteAsync(
                        context,
                        ProblemHandler.Of(
                            context,
                            400,
                            "unknown-host",
                            "This is not a host name of the service.",
                            "An administrator sets the 'public_address' by which it is reached."
                        )
                    )
        );
    }

    /// <summary>A certificate that is read again when its file was renewed.</summary>
    private sealed class ServedCertificate
    {
        private readonly string _file;
        private readonly string _key;
        private readonly Lock _reading = new();
        private X509Certificate2 _certificate;
        private DateTime _readAt;

        public ServedCertificate(string file, string key)
        {
            (_file, _key) = (file, key);
            try
            {
                (_certificate, _readAt) = (Read(), ChangedAt());
            }
            catch (Exception error) when (error is CryptographicException or IOException or UnauthorizedAccessException)
            {
                throw new UsageException(
                    $"The certificate {file} cannot be used with the key {key}: {error.Message.TrimEnd('.')}.",
                    "Give a certificate and its private key without a password, as PEM files."
                );
            }
        }

        public X509Certificate2 Current
        {
            get
            {
                lock (_reading)
                {
                    try
                    {
                        if (ChangedAt() is var changed && changed != _readAt)
                            (_certificate, _readAt) = (Read(), changed);
                    }
                    catch (Exception error)
                        when (error is CryptographicException or IOException or UnauthorizedAccessException)
                    {
                        // It is being renewed; the one from before is served meanwhile.
                    }

                    return _certificate;
                }
            }
        }

        private X509Certificate2 Read() => X509Certificate2.CreateFromPemFile(_file, _key);

        private DateTime ChangedAt() =>
            new(Math.Max(File.GetLastWriteTimeUtc(_file).Ticks, File.GetLastWriteTimeUtc(_key).Ticks));
    }
}
