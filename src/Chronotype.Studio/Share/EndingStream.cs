namespace Chronotype.Studio.Share;

/// <summary>Ends where what it reads from breaks off, and remembers that it did.</summary>
internal sealed class EndingStream(Stream source) : Stream
{
    /// <summary>Why it ended before its end; null where it did not.</summary>
    public Exception? Broken { get; private set; }

    public override bool CanRead => true;
    public override bool CanSeek => false;
    public override bool CanWrite => false;
    public override long Length => throw new NotSupportedException();

    public override long Position
    {
        get => throw new NotSupportedException();
        set => throw new NotSupportedException();
    }

    public override async ValueTask<int> ReadAsync(Memory<byte> buffer, CancellationToken cancellationToken = default)
    {
        if (Broken is not null)
            return 0;
        try
        {
            return await source.ReadAsync(buffer, cancellationToken);
        }
        // A program that goes away, and a connection that breaks, say it in more than one way.
        catch (Exception e) when (e is IOException or OperationCanceledException)
        {
            Broken = e;
            return 0;
        }
    }

    public override Task<int> ReadAsync(byte[] buffer, int offset, int count, CancellationToken cancellationToken) =>
        ReadAsync(buffer.AsMemory(offset, count), cancellationToken).AsTask();

    public override int Read(byte[] buffer, int offset, int count) =>
        ReadAsync(buffer.AsMemory(offset, count)).AsTask().GetAwaiter().GetResult();

    public override void Flush() { }

    public override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();

    public override void SetLength(long value) => throw new NotSupportedException();

    public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();
}
