using System.Runtime.Intrinsics.X86;
using Chronotype.Content.Ingest;
using Chronotype.Content.Segments;

namespace Chronotype.Content.Tests;

/// <summary>Many hashes at a time are those that the platform makes one after another.</summary>
public sealed class DigestLanesTests
{
    private readonly DigestLanes lanes = new();

    [Fact]
    public void Every_length_up_to_some_blocks_has_the_hash_that_it_has_alone()
    {
        var bytes = Samples.Noise(1_000, 1);
        Check(bytes, [.. Enumerable.Range(0, 200).Select(length => new Range(3, 3 + length))]);
    }

    [Fact]
    public void So_do_stretches_of_any_place_length_and_number()
    {
        var (random, bytes) = (new Random(2), Samples.Noise(1 << 20, 2));
        for (var number = 0; number < 60; number++)
        {
            Check(
                bytes,
                [
                    .. Enumerable
                        .Range(0, number)
                        .Select(_ => random.Next(bytes.Length - 70_000))
                        .Select(at => new Range(at, at + random.Next(random.Next(2) == 0 ? 130 : 70_000))),
                ]
            );
        }
    }

    [Fact]
    public void The_known_answers_of_the_standard_come_out()
    {
        // FIPS 180-4's examples, and no message at all.
        var abc = "abcdbcdecdefdefgefghfghighijhijkijkljklmklmnlmnomnopnopq"u8.ToArray();
        Digest[] digests = new Digest[3];
        lanes.HashEach(abc, [0..3, 0..56, 0..0], digests);
        Assert.Equal(
            [
                "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad",
                "248d6a61d20638b8e5c026930c3e6039a33ce45964ff2167f6ecedd419db06c1",
                "e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855",
            ],
            digests.Select(d => d.ToContentHash().ToString())
        );
    }

    private void Check(byte[] bytes, Range[] messages)
    {
        var (digests, expected) = (new Digest[messages.Length], messages.Select(m => Digest.Of(bytes.AsSpan(m))));
        lanes.HashEach(bytes, messages, digests);
        Assert.Equal(expected, digests);
        // Where the processor has instructions that are faster still, the lanes are right all the same.
        if (!Avx2.IsSupported)
            return;
        Array.Clear(digests);
        lanes.HashInLanes(bytes, messages, digests);
        Assert.Equal(expected, digests);
    }
}
