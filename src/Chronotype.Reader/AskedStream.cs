using Chronotype.Core.Readers;

namespace Chronotype.Reader;

/// <summary>A content as the studio hands it over, wherever it is read: what is needed is asked for, a stretch at a time.</summary>
internal sealed class AskedStream(ReaderWire wire, int source, long length) : Stream
{
    private const int Stretch = 256 << 10;

    private byte[] held = [];
    private long heldAt,
        position;

    public override bool CanRead => true;
    public override bool CanSeek => true;
    public override bool CanWrite => false;
    public override long Length => length;

    public override long Position
    {
        get => position;
        set => position = value >= 0 ? value : throw new IOException("Before the beginning of a stream.");
    }

    public override int Read(byte[] buffer, int offset, int count) => Read(buffer.AsSpan(offset, count));

    public override int Read(Span<byte> buffer)
    {
        if (position >= length || buffer.Length == 0)
            return 0;
        if (position < heldAt || position >= heldAt + held.Length)
        {
            held = Ask(Math.Max(Stretch, Math.Min(buffer.Length, ReaderWire.MaxWant)));
            heldAt = position;
        }
        var from = (int)(position - heldAt);
        var read = Math.Min(buffer.Length, held.Length - from);
        held.AsSpan(from, read).CopyTo(buffer);
        position += read;
        return read;
    }

    public override long Seek(long offset, SeekOrigin origin) =>
        Position = origin switch
        {
            SeekOrigin.Begin => offset,
            SeekOrigin.Current => position + offset,
            _ => length + offset,
        };

    public override void Flush() { }

    public override void SetLength(long value) => throw new NotSupportedException();

    public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();

    /// <summary>Whether something that was asked for could not be had; what was made of the rest is worth nothing then.</summary>
    public bool HasFailed { get; private set; }

    private byte[] Ask(int count)
    {
        // Two contents may be read beside one another, and an answer belongs to the question before it.
        lock (wire)
        {
            wire.SendWant(source, position, (int)Math.Min(count, length - position));
            if (wire.Receive() is (ReaderFrame.Bytes, { Length: > 0 } bytes))
                return bytes;
        }
        HasFailed = true;
        throw new IOException("The content could not be read from where it is kept.");
    }
}
