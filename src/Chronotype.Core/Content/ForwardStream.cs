namespace Chronotype.Core.Content;

/// <summary>A stream that is only read, from its beginning to its end. Those made from it say how they read, and nothing else.</summary>
public abstract class ForwardStream : Stream
{
    public sealed override bool CanRead => true;
    public sealed override bool CanSeek => false;
    public sealed override bool CanWrite => false;
    public sealed override long Length => throw new NotSupportedException("The length is known when the end is reached.");
    public sealed override long Position
    {
        get => throw new NotSupportedException();
        set => throw new NotSupportedException();
    }

    public override int Read(byte[] buffer, int offset, int count) =>
        throw new NotSupportedException("This stream is read asynchronously.");

    public sealed override void Flush() { }

    public sealed override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();

    public sealed override void SetLength(long value) => throw new NotSupportedException();

    public sealed override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();
}
