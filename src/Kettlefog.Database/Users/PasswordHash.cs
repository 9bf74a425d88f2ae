using System.Globalization;
using System.Security.Cryptography;
using System.Text;

namespace Kettlefog.Database.Users;

/// <summary>
/// Password hashes: PBKDF2 (RFC 8018) with HMAC-SHA-256, a random salt and the iteration count that OWASP's Password
/// Storage Cheat Sheet names, written as <c>pbkdf2-sha256$iterations$salt$hash</c>.
/// </summary>
internal static class PasswordHash
{
    private const string Scheme = "pbkdf2-sha256";
    private const int Iterations = 600_000;
    private const int Bytes = 32;

    /// <summary>Verified when there is no such user, so that the response takes as long.</summary>
    private static readonly Lazy<string> Nobody = new(() =>
        Of(Convert.ToHexString(RandomNumberGenerator.GetBytes(16)))
    );

    public static string Of(string password)
    {
        var salt = RandomNumberGenerator.GetBytes(16);
        var hash = Derive(password, salt, Iterations);
        return $"{Scheme}${Iterations}${Convert.ToBase64String(salt)}${Convert.ToBase64String(hash)}";
    }

    public static bool Matches(string password, string? stored)
    {
        var parts = (stored ?? Nobody.Value).Split('$');
        var iterations = int.Parse(parts[1], CultureInfo.InvariantCulture);
        var hash = Derive(password, Convert.FromBase64String(parts[2]), iterations);
        return CryptographicOperations.FixedTimeEquals(hash, Convert.FromBase64String(parts[3])) && stored is not null;
    }

    private static byte[] Derive(string password, byte[] salt, int iterations) =>
        Rfc2898DeriveBytes.Pbkdf2(Encoding.UTF8.GetBytes(password), salt, iterations, HashAlgorithmName.SHA256, Bytes);
}
