using System.Buffers.Binary;

namespace Chronotype.Core.Readers;

/// <summary>What a frame between the studio and a reader process is.</summary>
public enum ReaderFrame : byte
{
    /// <summary>To the reader: a <see cref="ReaderJob"/> as JSON.</summary>
    Job = 1,

    /// <summary>To the reader: bytes of a content that it asked for, fewer than asked for only at the end.</summary>
    Bytes = 2,

    /// <summary>To the reader: what it asked for cannot be read, which is no fault of the file.</summary>
    Unreadable = 3,

    /// <summary>From the reader: which content (4 bytes), from where (8), and how many bytes (4) it wants.</summary>
    Want = 4,

    /// <summary>From the reader: the length of the JSON (4 bytes), a <see cref="ReaderAnswer"/>, and a drawing's bytes.</summary>
    Answer = 5,
}

/// <summary>
/// Frames over a pair of pipes: a byte that says what it is, the payload's length in 4 bytes, the payload. All numbers are
/// little-endian. Neither side trusts a length of the other past <see cref="MaxPayload"/>.
/// </summary>
public sealed class ReaderWire(Stream incoming, Stream outgoing)
{
    /// <summary>The most bytes of a frame.</summary>
    public const int MaxPayload = 64 << 20;

    /// <summary>The most bytes of a content that are asked for at once.</summary>
    public const int MaxWant = 1 << 20;

    private const int HeaderBytes = 5,
        WantBytes = 16;

    /// <summary>Waits for the next frame.</summary>
    /// <returns>Null where the other side is gone.</returns>
    /// <exception cref="InvalidDataException">What came is no frame.</exception>
    public (ReaderFrame Frame, byte[] Payload)? Receive()
    {
        Span<byte> header = stackalloc byte[HeaderBytes];
        if (incoming.ReadAtLeast(header, HeaderBytes, throwOnEndOfStream: false) < HeaderBytes)
            return null;
        var length = BinaryPrimitives.ReadInt32LittleEndian(header[1..]);
        if (length is < 0 or > MaxPayload)
            throw new InvalidDataException($"A frame of {length} bytes.");
        var payload = new byte[length];
        return incoming.ReadAtLeast(payload, length, throwOnEndOfStream: false) < length ? null : ((ReaderFrame)header[0], payload);
    }

    /// <exception cref="IOException">The other side is gone.</exception>
    public void Send(ReaderFrame frame, ReadOnlySpan<byte> payload)
    {
        ArgumentOutOfRangeException.ThrowIfGreaterThan(payload.Length, MaxPayload);
        Span<byte> header = stackalloc byte[HeaderBytes];
        header[0] = (byte)frame;
        BinaryPrimitives.WriteInt32LittleEndian(header[1..], payload.Length);
        outgoing.Write(header);
        outgoing.Write(payload);
        outgoing.Flush();
    }

    /// <summary>Asks for bytes of a source.</summary>
    public void SendWant(int source, long offset, int count)
    {
        Span<byte> want = stackalloc byte[WantBytes];
        BinaryPrimitives.WriteInt32LittleEndian(want, source);
        BinaryPrimitives.WriteInt64LittleEndian(want[4..], offset);
        BinaryPrimitives.WriteInt32LittleEndian(want[12..], count);
        Send(ReaderFrame.Want, want);
    }

    /// <exception cref="InvalidDataException">It asks for what no reader asks for.</exception>
    public static (int Source, long Offset, int Count) ReadWant(ReadOnlySpan<byte> payload, IReadOnlyList<long> lengths)
    {
        if (payload.Length != WantBytes)
            throw new InvalidDataException("A request for bytes has another length.");
        var (source, offset, count) = (
            BinaryPrimitives.ReadInt32LittleEndian(payload),
            BinaryPrimitives.ReadInt64LittleEndian(payload[4..]),
            BinaryPrimitives.ReadInt32LittleEndian(payload[12..])
        );
        return source >= 0 && source < lengths.Count && offset >= 0 && offset <= lengths[source] && count is >= 0 and <= MaxWant
            ? (source, offset, count)
            : throw new InvalidDataException("A request for bytes that are not there.");
    }

    /// <summary>Sends what was found, with what was drawn.</summary>
    public void SendAnswer(byte[] json, ReadOnlySpan<byte> drawing)
    {
        var payload = new byte[4 + json.Length + drawing.Length];
        BinaryPrimitives.WriteInt32LittleEndian(payload, json.Length);
        json.CopyTo(payload.AsSpan(4));
        drawing.CopyTo(payload.AsSpan(4 + json.Length));
        Send(ReaderFrame.Answer, payload);
    }

    /// <exception cref="InvalidDataException">It is cut short.</exception>
    public static (ReadOnlyMemory<byte> Json, ReadOnlyMemory<byte> Drawing) ReadAnswer(byte[] payload)
    {
        var length = payload.Length < 4 ? -1 : BinaryPrimitives.ReadInt32LittleEndian(payload);
        return length >= 0 && length <= payload.Length - 4
            ? (payload.AsMemory(4, length), payload.AsMemory(4 + length))
            : throw new InvalidDataException("An answer is cut short.");
    }
}
