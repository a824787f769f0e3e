using System.Buffers;
using Chronotype.Core.Content;
using Chronotype.Storage.Content.Segments;

namespace Chronotype.Storage.Content.Reading;

/// <summary>
/// A content to be read from any place. Every byte that it gives was checked; it reads ahead, a little at first and more the
/// longer it is read in order.
/// </summary>
internal sealed class ContentStream(RecordStore records, ContentHash hash, Part root, long size) : Stream
{
    private const int FirstWindow = 128 << 10, LargestWindow = 1 << 20;

    private readonly List<Part> wanted = [];
    private readonly PartCursor cursor = new(records, root);
    private Window? current;
    private Task<Window>? ahead;
    private long position, aheadAt = -1;
    private int windowBytes = FirstWindow;
    private bool isDisposed;

    private sealed record Window(long At, byte[] Buffer, int Length)
    {
        public bool Holds(long position) => position >= At && position < At + Length;
    }

    public override bool CanRead => !isDisposed;
    public override bool CanSeek => !isDisposed;
    public override bool CanWrite => false;
    public override long Length => size;

    public override long Position
    {
        get => position;
        set => position = value >= 0 ? value : throw new ArgumentOutOfRangeException(nameof(value), value, "A position is not negative.");
    }

    /// <exception cref="DamagedContentException">What stands here is missing or damaged. Other places may be readable.</exception>
    public override int Read(Span<byte> buffer)
    {
        ObjectDisposedException.ThrowIf(isDisposed, this);
        if (buffer.Length == 0 || position >= size) return 0;
        if (current?.Holds(position) != true) Take(NextWindow());
        return Copy(buffer);
    }

    /// <exception cref="DamagedContentException">What stands here is missing or damaged. Other places may be readable.</exception>
    public override async ValueTask<int> ReadAsync(Memory<byte> buffer, CancellationToken cancel = default)
    {
        ObjectDisposedException.ThrowIf(isDisposed, this);
        cancel.ThrowIfCancellationRequested();
        if (buffer.Length == 0 || position >= size) return 0;
        if (current?.Holds(position) != true) Take(await Task.Run(NextWindow, cancel));
        return Copy(buffer.Span);
    }

    public override int Read(byte[] buffer, int offset, int count) => Read(buffer.AsSpan(offset, count));

    public override Task<int> ReadAsync(byte[] buffer, int offset, int count, CancellationToken cancel) => ReadAsync(buffer.AsMemory(offset, count), cancel).AsTask();

    public override long Seek(long offset, SeekOrigin origin) => Position = origin switch
    {
        SeekOrigin.Begin => offset,
        SeekOrigin.Current => position + offset,
        _ => size + offset,
    };

    public override void Flush() { }
    public override void SetLength(long value) => throw new NotSupportedException("Content never changes.");
    public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException("Content never changes.");

    protected override void Dispose(bool disposing)
    {
        if (disposing && !isDisposed)
        {
            isDisposed = true;
            Release(current);
            // Whatever is still being read is given back when it comes.
            ahead?.ContinueWith(t => Release(t.IsCompletedSuccessfully ? t.Result : null), TaskScheduler.Default);
        }
        base.Dispose(disposing);
    }

    private int Copy(Span<byte> buffer)
    {
        var from = (int)(position - current!.At);
        var length = Math.Min(buffer.Length, current.Length - from);
        current.Buffer.AsSpan(from, length).CopyTo(buffer);
        position += length;
        return length;
    }

    private void Take(Window window)
    {
        Release(current);
        current = window;
        var next = window.At + window.Length;
        if (windowBytes <= FirstWindow || next >= size || ahead is not null) return;
        (aheadAt, ahead) = (next, Task.Run(() => Load(next)));
    }

    /// <summary>The window that holds the position: the one that was read ahead, if it does.</summary>
    private Window NextWindow()
    {
        var isInOrder = position == 0 || position == aheadAt || (current is { } c && position == c.At + c.Length);
        windowBytes = isInOrder ? Math.Min(windowBytes * 2, LargestWindow) : FirstWindow;
        if (ahead is { } coming)
        {
            ahead = null;
            var isWanted = aheadAt == position;
            try
            {
                var window = coming.GetAwaiter().GetResult();
                if (window.Holds(position)) return window;
                Release(window);
            }
            catch (IOException) when (!isWanted)
            {
                // Damage where nobody reads.
            }
        }
        return Load(position);
    }

    // Only one runs at a time: the cursor is shared.
    private Window Load(long at)
    {
        try
        {
            if (cursor.Position != at) cursor.Seek(at);
            var start = cursor.Position;
            var length = 0;
            wanted.Clear();
            do
            {
                if (!cursor.Next(out var chunk)) break;
                wanted.Add(chunk);
                length += (int)chunk.Length;
            } while (length < windowBytes);
            var buffer = ArrayPool<byte>.Shared.Rent(length);
            try
            {
                ChunkReader.Read(records, wanted, buffer.AsSpan(0, length));
                return new Window(start, buffer, length);
            }
            catch
            {
                ArrayPool<byte>.Shared.Return(buffer);
                throw;
            }
        }
        catch (RecordUnreadableException e)
        {
            cursor.Reset();
            throw new DamagedContentException(hash, e);
        }
    }

    private static void Release(Window? window)
    {
        if (window is not null) ArrayPool<byte>.Shared.Return(window.Buffer);
    }
}
