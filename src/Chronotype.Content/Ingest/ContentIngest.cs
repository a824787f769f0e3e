using System.Buffers;
using System.Runtime.InteropServices;
using System.Security.Cryptography;
using Chronotype.Content.Segments;
using Chronotype.Core.Content;
using Chronotype.Core.Content.Cutting;

namespace Chronotype.Content.Ingest;

/// <summary>
/// Takes one content in, block by block: one core hashes the whole, another finds, hashes and keeps its chunks, while the next block
/// is read.
/// </summary>
internal sealed class ContentIngest(ChunkWriter keeper)
{
    private const int BlockBytes = (1 << 20) - ContainerCutter.Sight;

    private readonly ContainerCutter cutter = new();
    private readonly DigestLanes lanes = new();

    /// <summary>A block of content, behind what the block before it left uncut.</summary>
    private sealed class Block : IDisposable
    {
        public readonly byte[] Bytes = ArrayPool<byte>.Shared.Rent(ContainerCutter.Sight + BlockBytes);
        public int Start = ContainerCutter.Sight,
            Length;
        public readonly List<Range> Cuts = [];
        public Digest[] Ids = [];

        public Memory<byte> Data => Bytes.AsMemory(ContainerCutter.Sight, BlockBytes);
        public bool IsLast => Length < BlockBytes;

        public void Clear()
        {
            Cuts.Clear();
            (Start, Length) = (ContainerCutter.Sight, 0);
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
            second = new();
        Block current = first,
            next = second;
        current.Length = await FillAsync(content, current.Data, cancel);
        long size = current.Length;
        while (!current.IsLast)
        {
            var (now, then) = (current, next);
            var hashing = Task.Run(() => sha.AppendData(now.Data.Span), CancellationToken.None);
            var keeping = Task.Run(() => Keep(now, then), CancellationToken.None);
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
            now.Clear();
            (current, next) = (then, now);
        }
        sha.AppendData(current.Data.Span[..current.Length]);
        Keep(current, null);
        return (ContentHash.FromDigest(sha.GetHashAndReset()), size, keeper.Finish());
    }

    private void Keep(Block block, Block? next)
    {
        Cut(block, next);
        lanes.HashEach(block.Bytes, CollectionsMarshal.AsSpan(block.Cuts), block.Ids);
        for (var i = 0; i < block.Cuts.Count; i++)
            keeper.AddChunk(block.Ids[i], block.Bytes.AsSpan(block.Cuts[i]));
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

    private static async Task<int> FillAsync(Stream content, Memory<byte> block, CancellationToken cancel)
    {
        var filled = 0;
        for (int read; filled < block.Length && (read = await content.ReadAsync(block[filled..], cancel)) > 0; )
            filled += read;
        return filled;
    }
}
