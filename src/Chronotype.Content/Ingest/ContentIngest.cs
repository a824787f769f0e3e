using System.Buffers;
using System.Runtime.InteropServices;
using System.Security.Cryptography;
using Chronotype.Content.Segments;
using Chronotype.Core.Content;
using Chronotype.Core.Content.Cutting;

namespace Chronotype.Content.Ingest;

/// <summary>
/// Takes one content in, block by block. Of each block the whole is hashed, its chunks are found and hashed, and its chunks are kept:
/// three works, each in the blocks' order, on as many processors as there are, while the next block is read.
/// </summary>
internal sealed class ContentIngest(ChunkWriter keeper)
{
    private const int BlockBytes = (1 << 20) - ContainerCutter.Sight,
        Blocks = 3;

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

        /// <summary>Ends when nobody needs the block's bytes any more.</summary>
        public Task Done = Task.CompletedTask;

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
        var ring = new Block?[Blocks];
        Task hashing = Task.CompletedTask,
            cutting = Task.CompletedTask,
            keeping = Task.CompletedTask;
        long size = 0;
        try
        {
            var block = ring[0] = new Block();
            block.Length = await FillAsync(content, block.Data, cancel);
            for (var number = 1; ; number++)
            {
                size += block.Length;
                var (now, then) = (block, block.IsLast ? null : ring[number % Blocks] ??= new Block());
                if (then is not null)
                {
                    await then.Done;
                    then.Clear();
                }
                hashing = After(hashing, () => sha.AppendData(now.Data.Span[..now.Length]));
                cutting = After(cutting, () => Cut(now, then));
                keeping = After(Task.WhenAll(keeping, cutting), () => Keep(now));
                now.Done = Task.WhenAll(hashing, keeping);
                if (then is null)
                    break;
                then.Length = await FillAsync(content, then.Data, cancel);
                block = then;
            }
            await block.Done;
            return (ContentHash.FromDigest(sha.GetHashAndReset()), size, keeper.Finish());
        }
        finally
        {
            // Nothing of it may go on behind the back of whoever is told of an error.
            await Task.WhenAll(hashing, keeping).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
            foreach (var block in ring)
                block?.Dispose();
        }
    }

    // Not on the thread that ends what came before: that one has its own work to go on with.
    private static Task After(Task before, Action work) =>
        before.ContinueWith(
            done =>
            {
                done.GetAwaiter().GetResult();
                work();
            },
            CancellationToken.None,
            TaskContinuationOptions.None,
            TaskScheduler.Default
        );

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
        if (next is not null)
        {
            next.Start = ContainerCutter.Sight - (end - at);
            block.Bytes.AsSpan(at, end - at).CopyTo(next.Bytes.AsSpan(next.Start));
        }
        if (block.Ids.Length < block.Cuts.Count)
            block.Ids = new Digest[block.Cuts.Count * 2];
        lanes.HashEach(block.Bytes, CollectionsMarshal.AsSpan(block.Cuts), block.Ids);
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
