using System.Security.Cryptography;
using System.Text;
using Org.BouncyCastle.Crypto.Parameters;
using Org.BouncyCastle.Crypto.Signers;

namespace Kettlefog.Core.Proving;

/// <summary>
/// A public key that verifies signed notes (the signed note format of the Community Cryptography Specification Project,
/// c2sp.org/signed-note): Ed25519 of RFC 8032. Its text form is <c>NAME+HASH+KEY</c>.
/// </summary>
public sealed class NoteKey
{
    private const byte Ed25519 = 1;
    private const int KeyLength = 32;
    private const string SignaturePrefix = "\u2014 ";

    private readonly byte[] _id;
    private readonly Ed25519PublicKeyParameters _key;

    internal NoteKey(string name, Ed25519PublicKeyParameters key)
    {
        (Name, _key) = (name, key);
        _id = IdOf(name, key.GetEncoded());
        Text = $"{name}+{Convert.ToHexStringLower(_id)}+{Convert.ToBase64String([Ed25519, .. key.GetEncoded()])}";
    }

    /// <summary>The name of the key, without spaces and plus signs.</summary>
    public string Name { get; }

    /// <summary>The key as text, for the file or the page where it is published.</summary>
    public string Text { get; }

    /// <summary>Reads a key from its text form.</summary>
    /// <returns>The key; null if the text is none.</returns>
    public static NoteKey? TryRead(string text)
    {
        ArgumentNullException.ThrowIfNull(text);
        if (text.Trim().Split('+', 3) is not [{ Length: > 0 } name, var id, var encoded])
            return null;
        return
            Decode(encoded) is [Ed25519, .. { Length: KeyLength } key]
            && id == Convert.ToHexStringLower(IdOf(name, key))
            ? new NoteKey(name, new Ed25519PublicKeyParameters(key))
            : null;
    }

    /// <summary>The signed text of a note, whoever signed it; null if it is no note.</summary>
    /// <param name="note">The note.</param>
    public static string? TextOf(string note) => Parts(note)?.Text;

    /// <summary>Whether a note has a signature that says to be by this key.</summary>
    /// <param name="note">The note.</param>
    public bool IsNamedBy(string note) => SignatureIn(note) is not null;

    /// <summary>Whether a note is signed by this key.</summary>
    /// <param name="note">The note.</param>
    public bool Verifies(string note)
    {
        if (SignatureIn(note) is not { } signature)
            return false;
        var verifier = new Ed25519Signer();
        verifier.Init(forSigning: false, _key);
        var bytes = Encoding.UTF8.GetBytes(TextOf(note)!);
        verifier.BlockUpdate(bytes, 0, bytes.Length);
        return verifier.VerifySignature(signature);
    }

    internal string Line(byte[] signature) =>
        $"{SignaturePrefix}{Name} {Convert.ToBase64String([.. _id, .. signature])}\n";

    internal static byte[]? Decode(string text)
    {
        var bytes = new byte[text.Length];
        return Convert.TryFromBase64String(text, bytes, out var length) ? bytes[..length] : null;
    }

    private byte[]? SignatureIn(string note)
    {
        var prefix = $"{SignaturePrefix}{Name} ";
        return Parts(note)
            ?.Signatures.Split('\n')
            .Where(line => line.StartsWith(prefix, StringComparison.Ordinal))
            .Select(line => Decode(line[prefix.Length..]))
            .FirstOrDefault(each => each?.Length == _id.Length + 64 && each.AsSpan().StartsWith(_id))
            ?[_id.Length..];
    }

    private static (string Text, string Signatures)? Parts(string note)
    {
        ArgumentNullException.ThrowIfNull(note);
        var end = note.LastIndexOf("\n\n", StringComparison.Ordinal);
        return end < 0 ? null : (note[..(end + 1)], note[(end + 2)..]);
    }

    private static byte[] IdOf(string name, byte[] key) =>
        SHA256.HashData([.. Encoding.UTF8.GetBytes(name), (byte)'\n', Ed25519, .. key])[..4];
}
