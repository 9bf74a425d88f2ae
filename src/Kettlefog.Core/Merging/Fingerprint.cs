using System.Buffers.Text;
using Kettlefog.Core.Values;

namespace Kettlefog.Core.Merging;

/// <summary>
/// Identifies everything a plan was computed from. Its text is a SHA-256, cut to 128 bits, over all parts, followed by
/// 24 bits of each part, so that a stale text still shows which parts changed.
/// </summary>
public sealed class Fingerprint
{
    private const string Version = "kf1";
    private const int DigestLength = 16;
    private const int PartLength = 3;

    private readonly IReadOnlyList<(string Change, byte[] Digest)> _parts;

    private Fingerprint(IReadOnlyList<(string Change, byte[] Digest)> parts)
    {
        _parts = parts;
        using var all = new Sha256Digest();
        foreach (var part in parts)
            all.Append(part.Digest);
        var summary = parts.SelectMany(part => part.Digest.Take(PartLength)).ToArray();
        var digest = Convert.ToHexStringLower(all.Finish().AsSpan(0, DigestLength));
        Text = $"{Version}.{digest}.{Base64Url.EncodeToString(summary)}";
    }

    /// <summary>One fingerprint for several plans that are applied together.</summary>
    /// <param name="fingerprints">Those of the plans, in their order; at least one.</param>
    public static Fingerprint Of(IReadOnlyList<Fingerprint> fingerprints)
    {
        ArgumentNullException.ThrowIfNull(fingerprints);
        if (fingerprints.Count == 1)
            return fingerprints[0];
        using var requests = new Sha256Digest();
        foreach (var fingerprint in fingerprints)
            requests.Append(fingerprint._parts[0].Digest);
        return new Fingerprint([
            ("", requests.Finish()),
            .. fingerprints.SelectMany(fingerprint => fingerprint._parts.Skip(1)),
        ]);
    }

    /// <summary>The text that is shown, and sent back to apply the plan.</summary>
    public string Text { get; }

    /// <inheritdoc/>
    public override string ToString() => Text;

    /// <summary>Checks the text sent back against this fingerprint, which was just computed.</summary>
    /// <param name="handedBack">The text of the request.</param>
    /// <exception cref="KettlefogException">
    /// It is stale, with what changed in the details; or it is not a fingerprint, or one of another request.
    /// </exception>
    public void EnsureMatches(string handedBack)
    {
        ArgumentNullException.ThrowIfNull(handedBack);
        if (string.Equals(handedBack, Text, StringComparison.Ordinal))
            return;
        var changes = Compare(handedBack)
            ?? throw new KettlefogException(
                ErrorCode.ForeignFingerprint,
                "The fingerprint was not made for these records and choices.",
                "Make a plan for them, review it, and send its fingerprint back unchanged."
            );
        throw new KettlefogException(
            ErrorCode.PlanStale,
            "Something changed since the plan was made.",
            "Review the updated plan, then apply it.",
            changes
        );
    }

    /// <summary>What changed since the text was made, or null if it was made for something else.</summary>
    private List<string>? Compare(string handedBack)
    {
        var sections = handedBack.Split('.');
        if (sections.Length != 3 || sections[0] != Version || sections[1].Length != 2 * DigestLength)
            return null;
        byte[] summary;
        try
        {
            summary = Base64Url.DecodeFromChars(sections[2]);
        }
        catch (FormatException)
        {
            return null;
        }

        if (summary.Length != _parts.Count * PartLength)
            return null;
        var changed = Enumerable
            .Range(0, _parts.Count)
            .Where(index =>
                !summary
                    .AsSpan(index * PartLength, PartLength)
                    .SequenceEqual(_parts[index].Digest.AsSpan(0, PartLength))
            )
            .ToList();

        // The first part holds the request itself.
        if (changed.Contains(0))
            return null;
        return changed.Count == 0
            ? ["A record or a related row was changed."]
            : changed.Select(index => _parts[index].Change).ToList();
    }

    /// <summary>Collects the parts of a fingerprint.</summary>
    public sealed class Builder
    {
        private readonly List<(string Change, byte[] Digest)> _parts = [];

        /// <summary>Starts with the request itself; a text of another request is foreign, not stale.</summary>
        /// <param name="request">Adds the request to a digest.</param>
        public Builder(Action<Sha256Digest> request) => Part("", request);

        /// <summary>Adds a part.</summary>
        /// <param name="change">The sentence for a change of this part.</param>
        /// <param name="content">Adds the part to a digest.</param>
        public Builder Part(string change, Action<Sha256Digest> content)
        {
            ArgumentNullException.ThrowIfNull(content);
            using var digest = new Sha256Digest();
            content(digest);
            _parts.Add((change, digest.Finish()));
            return this;
        }

        /// <summary>The fingerprint of all parts added.</summary>
        public Fingerprint Build() => new(_parts);
    }
}
