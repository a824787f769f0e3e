using System.Buffers;
using System.Security.Cryptography;
using Chronotype.Content.Segments;
using Chronotype.Core.Content;
using Chronotype.Core.Content.Cutting;

namespace Chronotype.Content.Ingest;

/// <summary>
/// Takes one content in, block by block: two cores share the hashing of the whole and of its chunks, while what the block
/// before brought is kept and the next one is read.
/// </summary>
internal sealed class ContentIngest(ChunkWriter keeper)
{
    private const int BlockBytes = 1 << 20;

    private readonly ContainerCutter cutter = new();

    /// <summary>A block of content, behind what the block before it left uncut.</summary>
    private sealed class Block : IDisposable
    {
        public readonly byte[] Bytes = ArrayPool<byte>.Shared.Rent(ContainerCutter.Sight + BlockBytes);
        public int Start = ContainerCutter.Sight,
            Length;
        public readonly List<Range> Cuts = [];
        public Digest[] Ids = [];
        private int next;

        public Memory<byte> Data => Bytes.AsMemory(ContainerCutter.Sight, BlockBytes);
        public bool IsLast => Length < BlockBytes;

        public void Clear()
        {
            Cuts.Clear();
            (Start, Length, next) = (ContainerCutter.Sight, 0, 0);
        }

        /// <summary>Hashes chunks, each of them once, however many do it at a time.</summary>
        public void HashChunks()
        {
            for (int i; (i = Interlocked.Increment(ref next) - 1) < Cuts.Count; )
                Ids[i] = Digest.Of(Bytes.AsSpan(Cuts[i]));
        }

        public void Dispose() => ArrayPool<byte>.Shared.Return(Bytes);
    }

    /// <summary>Reads a content to its end. All of it is in the segments then, though not yet durable.</summary>
    /// <returns>Its hash, its size in bytes, and what holds all of it; not set for content of no bytes.</returns>
    /// <exception cref="IOException">It could not be read, or not be kept.</exception>
    public async Task<(ContentHash Hash, long Size, Part Root)> TakeAsync(Stream content, CancellationToken cancel)
    {
        using var sha = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        using Block first = new(),
            second = new(),
            third = new();
        Block current = first,
            next = second,
            before = third;
        current.Length = await FillAsync(content, current.Data, cancel);
        long size = current.Length;
        while (!current.IsLast)
        {
            var (now, then, done) = (current, next, before);
            using var isCut = new ManualResetEventSlim();
            var hashing = Task.Run(
                () =>
                {
                    sha.AppendData(now.Data.Span);
                    isCut.Wait(CancellationToken.None);
                    now.HashChunks();
                },
                CancellationToken.None
            );
            var keeping = Task.Run(
                () =>
                {
                    try
                    {
                        Cut(now, then);
                    }
                    finally
                    {
                        isCut.Set();
                    }
                    Keep(done);
                    now.HashChunks();
                },
                CancellationToken.None
            );
            try
            {
                then.Length = await FillAsync(content, then.Data, cancel);
            }
            finally
            {
                // Nothing of it may go on behind the back of whoever is told of an error.
                await Task.WhenAll(hashing, keeping);
            }
            size += then.Length;
            done.Clear();
            (before, current, next) = (now, then, done);
        }
        Keep(before);
        sha.AppendData(current.Data.Span[..current.Length]);
        Cut(current, null);
        current.HashChunks();
        Keep(current);
        return (ContentHash.FromDigest(sha.GetHashAndReset()), size, keeper.Finish());
    }

    /// <param name="block">The block whose chunks are looked for.</param>
    /// <param name="next">Gets what cannot be cut before more is seen; null at the content's end.</param>
    private void Cut(Block block, Block? next)
    {
        var end = ContainerCutter.Sight + block.Length;
        var at = block.Start;
        while (end - at >= (next is null ? 1 : ContainerCutter.Sight))
        {
            var length = cutter.Next(block.Bytes.AsSpan(at, end - at));
            block.Cuts.Add(at..(at + length));
            at += length;
        }
        if (block.Ids.Length < block.Cuts.Count)
            block.Ids = new Digest[block.Cuts.Count * 2];
        if (next is null)
            return;
        next.Start = ContainerCutter.Sight - (end - at);
        block.Bytes.AsSpan(at, end - at).CopyTo(next.Bytes.AsSpan(next.Start));
    }

    private void Keep(Block block)
    {
        for (var i = 0; i < block.Cuts.Count; i++)
            keeper.AddChunk(block.Ids[i], block.Bytes.AsSpan(block.Cuts[i]));
    }

    private static async Task<int> FillAsync(Stream content, Memory<byte> block, CancellationToken cancel)
    {
        var filled = 0;
        for (int read; filled < block.Length && (read = await content.ReadAsync(block[filled..], cancel)) > 0; )
            filled += read;
        return filled;
    }
}
