using System.Security.Cryptography;

namespace Kettlefog.Database.Users;

/// <summary>Secrets that nobody can guess.</summary>
internal static class Secret
{
    /// <summary>A new secret: 24 random bytes, as hexadecimal digits.</summary>
    public static string Create() => Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(24));
}
