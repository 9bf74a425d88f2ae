using CsCheck;
using Kettlefog.Core.Proving;

namespace Kettlefog.Core.Tests.Proving;

/// <summary>Signed notes and checkpoints.</summary>
public class NoteTests
{
    /// <summary>The example in the documentation of the format.</summary>
    private const string PublishedKey = "PeterNeumann+c74f20a3+ARpc2QcUPDhMQegwxbzhKqiBfsVkmqq/LDE4izWy10TW";

    private const string PublishedNote =
        "If you think cryptography is the answer to your problem,\n"
        + "then you don't know what your problem is.\n\n"
        + "\u2014 PeterNeumann "
        + "x08go/ZJkuBS9UG/SffcvIAQxVBtiFupLLr8pAcElZInNIuGUgYN1FFYC2pZSNXgKvqfqdngotpRZb6KE6RyyBwJnAM=\n";

    private const string Secret = "PRIVATE+KEY+PeterNeumann+c74f20a3+AYEKFALVFGyNhPJEMzD1QIDr+Y7hfZx09iUvxdXHKDFz";

    [Fact]
    public void The_published_note_is_verified_and_signed_again()
    {
        var key = NoteKey.TryRead(PublishedKey)!;
        key.Name.ShouldBe("PeterNeumann");
        key.Text.ShouldBe(PublishedKey);
        key.Verifies(PublishedNote).ShouldBeTrue();
        var signer = NoteSigner.TryRead(Secret)!;
        signer.Public.Text.ShouldBe(PublishedKey);
        signer.Secret.ShouldBe(Secret);
        signer.Sign(NoteKey.TextOf(PublishedNote)!).ShouldBe(PublishedNote);
    }

    [Fact]
    public void A_note_of_which_anything_was_altered_is_not_verified() =>
        Gen.Select(Gen.Int[0, PublishedNote.Length - 1], Gen.Char['!', '~'])
            .Where(each => PublishedNote[each.Item1] != each.Item2)
            .Sample(
                (at, letter) =>
                {
                    var altered = PublishedNote[..at] + letter + PublishedNote[(at + 1)..];

                    // The last line feed is not signed, and base 64 has bits to spare in its last letter.
                    if (at < PublishedNote.Length - 4)
                        NoteKey.TryRead(PublishedKey)!.Verifies(altered).ShouldBeFalse(altered);
                }
            );

    [Fact]
    public void A_key_that_is_none_is_not_read() =>
        Gen.OneOf(
                Gen.String,
                Gen.Select(Gen.Int[0, PublishedKey.Length - 1], Gen.Char)
                    .Where(each => PublishedKey[each.Item1] != each.Item2)
                    .Select(each => PublishedKey[..each.Item1] + each.Item2 + PublishedKey[(each.Item1 + 1)..])
            )
            .Sample(text =>
            {
                NoteKey.TryRead(text).ShouldBeNull(text);
                NoteSigner.TryRead(text).ShouldBeNull();
            });

    [Fact]
    public void A_checkpoint_is_read_as_it_was_written() =>
        Gen.Select(Gen.Long[0, long.MaxValue], Gen.Byte.Array[32], Gen.DateTime[DateTime.UnixEpoch, new(2100, 1, 1)])
            .Sample(
                (size, root, time) =>
                {
                    var signer = NoteSigner.Create("kettlefog.0123abcd");
                    var at = new DateTimeOffset(time.Ticks - (time.Ticks % TimeSpan.TicksPerSecond), TimeSpan.Zero);
                    var checkpoint = new Checkpoint(signer.Public.Name, size, Convert.ToHexStringLower(root), at);
                    var note = signer.Sign(checkpoint.Text);
                    Checkpoint.Read(note).ShouldBe(checkpoint);
                    signer.Public.Verifies(note).ShouldBeTrue();
                    NoteSigner.Create("kettlefog.0123abcd").Public.IsNamedBy(note).ShouldBeFalse("its key is another");
                },
                iter: 200
            );

    [Theory]
    [InlineData("")]
    [InlineData("a\n1\nAAAA\ntime 2026-04-01T00:00:00Z\n\n\u2014 a AAAA\n")]
    [InlineData("a\n-1\nAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA=\ntime 2026-04-01T00:00:00Z\n\n")]
    [InlineData("a\n1\nAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA=\ntime yesterday\n\n")]
    [InlineData("a\n1\nAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA=\n\n")]
    public void What_is_no_checkpoint_is_refused(string note) =>
        Should
            .Throw<KettlefogException>(() => Checkpoint.Read(note))
            .Message.ShouldBe("This is no checkpoint of a history.");
}
