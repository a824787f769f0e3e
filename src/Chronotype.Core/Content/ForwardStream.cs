namespace Chronotype.Core.Content;

/// <summary>A stream that is only read, from its beginning to its end. Those made from it say how they read, and nothing else.</summary>
public abstract class ForwardStream : Stream
{
    /// <inheritdoc />
    public sealed override bool CanRead => true;

    /// <inheritdoc />
    public sealed override bool CanSeek => false;

    /// <inheritdoc />
    public sealed override bool CanWrite => false;

    /// <inheritdoc />
    public sealed override long Length => throw new NotSupportedException("The length is known when the end is reached.");

    /// <inheritdoc />
    public sealed override long Position
    {
        get => throw new NotSupportedException();
        set => throw new NotSupportedException();
    }

    /// <inheritdoc />
    public override int Read(byte[] buffer, int offset, int count) =>
        throw new NotSupportedException("This stream is read asynchronously.");

    /// <inheritdoc />
    public sealed override void Flush() { }

    /// <inheritdoc />
    public sealed override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();

    /// <inheritdoc />
    public sealed override void SetLength(long value) => throw new NotSupportedException();

    /// <inheritdoc />
    public sealed override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();
}
