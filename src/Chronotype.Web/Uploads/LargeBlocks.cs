using System.Buffers;
using System.Collections.Concurrent;
using Microsoft.AspNetCore.Connections;

namespace Chronotype.Web.Uploads;

/// <summary>
/// Memory in which the server reads and writes connections, in blocks of 64 KiB: with its usual 4 KiB a file of gigabytes would come in a
/// million pieces, each asked for by itself. A connection that waits holds none.
/// </summary>
public sealed class LargeBlocks : IMemoryPoolFactory<byte>
{
    private const int BlockBytes = 64 << 10,
        MostKept = 128;

    /// <inheritdoc />
    public MemoryPool<byte> Create(MemoryPoolOptions? options = null) => new Pool();

    private sealed class Pool : MemoryPool<byte>
    {
        private readonly ConcurrentQueue<byte[]> free = new();
        private int kept;

        public override int MaxBufferSize => BlockBytes;

        public override IMemoryOwner<byte> Rent(int minBufferSize = -1)
        {
            ArgumentOutOfRangeException.ThrowIfGreaterThan(minBufferSize, BlockBytes);
            if (free.TryDequeue(out var block))
                Interlocked.Decrement(ref kept);
            else
                // The system reads into it, so that it is never moved.
                block = GC.AllocateUninitializedArray<byte>(BlockBytes, pinned: true);
            return new Owner(this, block);
        }

        private void Return(byte[] block)
        {
            if (Interlocked.Increment(ref kept) <= MostKept)
                free.Enqueue(block);
            else
                Interlocked.Decrement(ref kept);
        }

        protected override void Dispose(bool disposing) => free.Clear();

        private sealed class Owner(Pool pool, byte[] block) : IMemoryOwner<byte>
        {
            private byte[]? block = block;

            public Memory<byte> Memory => block ?? throw new ObjectDisposedException(nameof(Owner));

            public void Dispose()
            {
                if (Interlocked.Exchange(ref block, null) is { } given)
                    pool.Return(given);
            }
        }
    }
}
