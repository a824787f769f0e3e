using System.Buffers;
using Chronotype.Content.Segments;
using Chronotype.Core.Content;

namespace Chronotype.Content.Streams;

/// <summary>
/// A content to be read from any place. Every byte that it gives was checked; it reads ahead, a little at first and more the
/// longer it is read in order.
/// </summary>
internal sealed class ContentStream(RecordLog records, ContentHash hash, Part root, long size) : Stream
{
    private const int FirstWindow = 128 << 10,
        LargestWindow = 176 << 10,
        MostAhead = 4;

    private readonly PartCursor cursor = new(records, root);
    private readonly Queue<(long At, Task<Window> Coming)> ahead = new();
    private readonly Stack<List<Part>> spare = new();
    private Window? current;
    private long position;
    private int windowBytes = FirstWindow;
    private bool isDisposed;

    /// <summary>Some chunks that follow each other.</summary>
    private sealed record Window(long At, int Length, List<Part> Parts, ChunkReader Chunks) : IDisposable
    {
        public bool Holds(long position) => position >= At && position < At + Length;

        public void Dispose() => Chunks.Dispose();
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
        if (buffer.Length == 0 || position >= size)
            return 0;
        if (current?.Holds(position) != true)
            Take(NextWindowAsync().GetAwaiter().GetResult());
        return Copy(buffer);
    }

    /// <exception cref="DamagedContentException">What stands here is missing or damaged. Other places may be readable.</exception>
    public override async ValueTask<int> ReadAsync(Memory<byte> buffer, CancellationToken cancel = default)
    {
        ObjectDisposedException.ThrowIf(isDisposed, this);
        cancel.ThrowIfCancellationRequested();
        if (buffer.Length == 0 || position >= size)
            return 0;
        if (current?.Holds(position) != true)
            Take(await NextWindowAsync().WaitAsync(cancel));
        return Copy(buffer.Span);
    }

    public override int Read(byte[] buffer, int offset, int count) => Read(buffer.AsSpan(offset, count));

    public override Task<int> ReadAsync(byte[] buffer, int offset, int count, CancellationToken cancel) =>
        ReadAsync(buffer.AsMemory(offset, count), cancel).AsTask();

    /// <summary>Hands the rest on as it was read and checked, without a copy in between.</summary>
    /// <exception cref="DamagedContentException">
    /// What stands further on is missing or damaged; what came before it was handed on.
    /// </exception>
    public override void CopyTo(Stream destination, int bufferSize)
    {
        ObjectDisposedException.ThrowIf(isDisposed, this);
        while (position < size)
        {
            if (current?.Holds(position) != true)
                Take(NextWindowAsync().GetAwaiter().GetResult());
            var at = current!.At;
            foreach (var piece in current.Chunks.Pieces)
            {
                if (position < at + piece.Length)
                {
                    destination.Write(piece.Span[(int)(position - at)..]);
                    position = at + piece.Length;
                }
                at += piece.Length;
            }
        }
    }

    public override long Seek(long offset, SeekOrigin origin) =>
        Position = origin switch
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
            current?.Dispose();
            Forget();
        }
        base.Dispose(disposing);
    }

    private int Copy(Span<byte> buffer)
    {
        var copied = 0;
        var at = current!.At;
        foreach (var piece in current.Chunks.Pieces)
        {
            if (position < at + piece.Length)
            {
                var from = (int)(position - at);
                var length = Math.Min(buffer.Length - copied, piece.Length - from);
                piece.Span.Slice(from, length).CopyTo(buffer[copied..]);
                copied += length;
                position += length;
                if (copied == buffer.Length)
                    break;
            }
            at += piece.Length;
        }
        return copied;
    }

    private void Take(Window window)
    {
        if (current is not null)
        {
            spare.Push(current.Parts);
            current.Dispose();
        }
        current = window;
    }

    /// <summary>The window that holds the position: the one that was read ahead, if it does.</summary>
    private async Task<Window> NextWindowAsync()
    {
        var isInOrder = position == 0 || (current is { } c && position == c.At + c.Length);
        windowBytes = isInOrder ? Math.Min(windowBytes * 2, LargestWindow) : FirstWindow;
        if (!isInOrder || (ahead.TryPeek(out var first) && first.At != position))
            Forget();
        try
        {
            var window = ahead.TryDequeue(out var next) ? next.Coming : Begin(position);
            if (windowBytes > FirstWindow)
                ReadAhead();
            return await window;
        }
        catch (RecordUnreadableException e)
        {
            Forget();
            cursor.Reset();
            records.DamageMet[hash] = 0;
            throw new DamagedContentException(hash, e);
        }
    }

    private void ReadAhead()
    {
        while (ahead.Count < MostAhead && cursor.Position < size)
        {
            var at = cursor.Position;
            try
            {
                ahead.Enqueue((at, Begin(at)));
            }
            catch (RecordUnreadableException)
            {
                // Told when somebody reads there.
                cursor.Reset();
                return;
            }
        }
    }

    /// <summary>Begins to read the window that holds a place. Lists are read at once, chunks by another thread.</summary>
    private Task<Window> Begin(long at)
    {
        if (cursor.Position != at)
            cursor.Seek(at);
        var start = cursor.Position;
        var length = 0;
        var chunks = spare.TryPop(out var used) ? used : [];
        chunks.Clear();
        while (length < windowBytes && cursor.Next(out var chunk))
        {
            chunks.Add(chunk);
            length += (int)chunk.Length;
        }
        return Task.Run(() => new Window(start, length, chunks, ChunkReader.Read(records, chunks)));
    }

    // What is still being read is given back when it comes.
    private void Forget()
    {
        foreach (var (_, coming) in ahead)
            coming.ContinueWith(t => (t.IsCompletedSuccessfully ? t.Result : null)?.Dispose(), TaskScheduler.Default);
        ahead.Clear();
    }
}
