using System.Net;
using System.Net.Http.Json;
using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;
using Kettlefog.Contracts;
using Kettlefog.Testing;

namespace Kettlefog.Service.Tests;

/// <summary>How the service is reached: by which host, through which proxy, over TLS.</summary>
public class ListeningTests(ServiceFixture fixture)
{
    [Theory]
    [InlineData("attacker.example", "/api/session")]
    [InlineData("attacker.example", "/")]
    [InlineData("127.0.0.1.attacker.example", "/healthz")]
    public async Task A_foreign_host_is_refused(string host, string path)
    {
        using var http = new HttpClient { BaseAddress = fixture.Service.Address };
        using var request = new HttpRequestMessage(HttpMethod.Get, path);
        request.Headers.Host = host;
        using var answer = await http.SendAsync(request);
        answer.StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (await answer.Content.ReadFromJsonAsync<Problem>())!.Code.ShouldBe("unknown-host");
        using var own = new HttpRequestMessage(HttpMethod.Get, "/healthz");
        own.Headers.Host = $"LOCALHOST:{fixture.Service.Address.Port}";
        (await http.SendAsync(own)).StatusCode.ShouldBe(HttpStatusCode.OK);
    }

    [Fact]
    public async Task What_a_caller_says_of_himself_is_not_believed()
    {
        await using var service = await RunningService.StartAsync(12);
        using var answer = await SignInAsync(service, null);
        answer.Headers.GetValues("Set-Cookie").Single().ShouldStartWith("kettlefog=");
        answer.Headers.Contains("Strict-Transport-Security").ShouldBeFalse();
        (await AddressesAsync(service)).ShouldBe(["127.0.0.1"]);
    }

    [Fact]
    public async Task What_a_trusted_proxy_says_is_believed()
    {
        await using var service = await RunningService.StartAsync(12);
        await service.KillAsync();
        await service.ServeAsync(
            "--trusted-proxies",
            "10.1.0.0/16, 127.0.0.1",
            "--public-address",
            "https://merge.example"
        );
        using var answer = await SignInAsync(service, "merge.example");
        answer.StatusCode.ShouldBe(HttpStatusCode.OK);
        var cookie = answer.Headers.GetValues("Set-Cookie").Single();
        cookie.ShouldStartWith("__Host-kettlefog=");
        cookie.ShouldContain("secure", Case.Insensitive);
        answer.Headers.GetValues("Strict-Transport-Security").Single().ShouldBe("max-age=31536000");

        // The first address of the list is the caller's own word; the last one is what the proxy saw.
        (await AddressesAsync(service)).ShouldBe(["198.51.100.9"]);
    }

    [Fact]
    public async Task A_certificate_is_served_and_read_again_when_it_is_renewed()
    {
        await using var service = await RunningService.StartAsync(12);
        await service.KillAsync();
        var (file, key) = (Path.Combine(service.Folder, "tls.pem"), Path.Combine(service.Folder, "tls.key"));
        Renew("CN=first");
        await service.ServeAsync("--certificate", file, "--certificate-key", key);
        service.Address.Scheme.ShouldBe("https");
        (await ServedAsync()).ShouldBe("CN=first");
        Renew("CN=second");
        (await ServedAsync()).ShouldBe("CN=second");
        await File.WriteAllTextAsync(file, "half a certificate");
        (await ServedAsync()).ShouldBe("CN=second", "it is served until the new one is whole");

        async Task<string> ServedAsync()
        {
            var subject = "";
            using var handler = new HttpClientHandler();
            handler.ServerCertificateCustomValidationCallback = (_, certificate, _, _) =>
            {
                subject = certificate!.Subject;
                return true;
            };
            using var http = new HttpClient(handler) { BaseAddress = service.Address };
            (await http.GetAsync("healthz")).StatusCode.ShouldBe(HttpStatusCode.OK);
            return subject;
        }

        void Renew(string name)
        {
            using var own = ECDsa.Create(ECCurve.NamedCurves.nistP256);
            var request = new CertificateRequest(name, own, HashAlgorithmName.SHA256);
            using var made = request.CreateSelfSigned(
                DateTimeOffset.UtcNow.AddDays(-1),
                DateTimeOffset.UtcNow.AddDays(1)
            );
            File.WriteAllText(key, own.ExportPkcs8PrivateKeyPem());
            File.WriteAllText(file, made.ExportCertificatePem());
        }
    }

    [Theory]
    [InlineData("--host", "0.0.0.0", "would send passwords in clear.")]
    [InlineData("--trusted-proxies", "10.0.0.5,proxy", "is not a valid 'trusted_proxies'.")]
    [InlineData("--public-address", "merge.example", "is not a valid 'public_address'.")]
    [InlineData("--certificate", "missing.pem", "The certificate missing.pem cannot be used")]
    public async Task What_is_not_safe_or_cannot_be_read_is_refused(string option, string value, string message)
    {
        var ran = await Programs.RunAsync(
            Programs.Service,
            [
                "serve",
                "--database",
                fixture.Service.Database.Address,
                "--map",
                fixture.Service.MapFile,
                "--port",
                "0",
                option,
                value,
            ]
        );
        ran.ExitCode.ShouldNotBe(0);
        ran.Error.ShouldContain(message);
        ran.Error.ShouldNotContain("   at ");
    }

    [Fact]
    public async Task Plain_HTTP_beyond_this_machine_is_had_by_saying_so()
    {
        await using var service = await RunningService.StartAsync(12);
        await service.KillAsync();
        await service.ServeAsync("--host", "0.0.0.0", "--plain-http");
        using var http = new HttpClient();
        (await http.GetAsync($"http://127.0.0.1:{service.Address.Port}/healthz")).StatusCode.ShouldBe(
            HttpStatusCode.OK
        );
    }

    private static async Task<HttpResponseMessage> SignInAsync(RunningService service, string? host)
    {
        using var http = new HttpClient(new HttpClientHandler { UseCookies = false }) { BaseAddress = service.Address };
        using var request = new HttpRequestMessage(HttpMethod.Post, "api/session");
        request.Content = JsonContent.Create(new SignInBody("c.weeks", "tide over the bar"));
        request.Headers.Add("X-Forwarded-For", "203.0.113.1, 198.51.100.9");
        request.Headers.Add("X-Forwarded-Proto", "https");
        request.Headers.Host = host;
        return await http.SendAsync(request);
    }

    private static async Task<IEnumerable<string?>> AddressesAsync(RunningService service) =>
        (await service.Client.SessionsAsync()).Select(session => session.Address);
}
