using System.Security.Cryptography;
using System.Text;
using Org.BouncyCastle.Crypto.Parameters;
using Org.BouncyCastle.Crypto.Signers;

namespace Kettlefog.Core.Proving;

/// <summary>A private key that signs notes; see <see cref="NoteKey"/>.</summary>
public sealed class NoteSigner
{
    private const int SeedLength = 32;
    private const string Prefix = "PRIVATE+KEY+";

    private readonly Ed25519PrivateKeyParameters _key;

    private NoteSigner(string name, byte[] seed)
    {
        _key = new Ed25519PrivateKeyParameters(seed);
        Public = new NoteKey(name, _key.GeneratePublicKey());
        var id = Public.Text.Split('+')[1];
        Secret = $"{Prefix}{name}+{id}+{Convert.ToBase64String([1, .. seed])}";
    }

    /// <summary>The public key that belongs to it.</summary>
    public NoteKey Public { get; }

    /// <summary>The private key as text: whoever has it can sign.</summary>
    public string Secret { get; }

    /// <summary>A new key.</summary>
    /// <param name="name">Its name, without spaces and plus signs.</param>
    public static NoteSigner Create(string name) => new(name, RandomNumberGenerator.GetBytes(SeedLength));

    /// <summary>Reads a private key from its text form.</summary>
    /// <returns>The key; null if the text is none.</returns>
    public static NoteSigner? TryRead(string text)
    {
        ArgumentNullException.ThrowIfNull(text);
        if (
            !text.StartsWith(Prefix, StringComparison.Ordinal)
            || text[Prefix.Length..].Trim().Split('+', 3) is not [{ Length: > 0 } name, var id, var encoded]
            || NoteKey.Decode(encoded) is not [1, .. { Length: SeedLength } seed]
        )
            return null;
        var signer = new NoteSigner(name, seed);
        return signer.Public.Text.Split('+')[1] == id ? signer : null;
    }

    /// <summary>Signs a text.</summary>
    /// <param name="text">The text, which ends with a line feed.</param>
    /// <returns>The note: the text, an empty line, and the signature.</returns>
    public string Sign(string text)
    {
        ArgumentNullException.ThrowIfNull(text);
        var signer = new Ed25519Signer();
        signer.Init(forSigning: true, _key);
        var bytes = Encoding.UTF8.GetBytes(text);
        signer.BlockUpdate(bytes, 0, bytes.Length);
        return $"{text}\n{Public.Line(signer.GenerateSignature())}";
    }
}
