using System.Buffers.Binary;
using Chronotype.Core.Content;

namespace Chronotype.Formats.Sound;

/// <summary>The packets of the first logical stream of an Ogg file (RFC 3533, section 6).</summary>
internal sealed class OggPages
{
    private const int HeadBytes = 27,
        MostPacket = 1 << 20;

    private readonly Stream content;
    private readonly uint serial;
    private readonly Queue<byte[]> packets = new();
    private readonly MemoryStream unfinished = new();
    private bool isOver;

    /// <exception cref="UnreadableFileException">It does not begin with a page.</exception>
    public OggPages(Stream content)
    {
        this.content = content;
        content.Position = 0;
        Span<byte> head = stackalloc byte[HeadBytes];
        PcmFile.Fill(content, head);
        if (!head.StartsWith("OggS"u8))
            throw new UnreadableFileException(FileFaultCode.WrongBeginning);
        serial = BinaryPrimitives.ReadUInt32LittleEndian(head[14..]);
        content.Position = 0;
    }

    /// <summary>The first packet, or as much of it as is there; empty where this is no Ogg file.</summary>
    public static ReadOnlySpan<byte> FirstPacket(ReadOnlySpan<byte> head) =>
        head.Length > HeadBytes && head.StartsWith("OggS"u8) && head.Length > HeadBytes + head[26] ? head[(HeadBytes + head[26])..] : [];

    /// <summary>The place in the sound, in samples, that the last page of the stream says it ends at; 0 where none says.</summary>
    public long LastGranule()
    {
        var last = 0L;
        Span<byte> head = stackalloc byte[HeadBytes];
        Span<byte> laces = stackalloc byte[255];
        content.Position = 0;
        while (NextPage(head, laces, out var bytes, out var isOurs))
        {
            var granule = BinaryPrimitives.ReadInt64LittleEndian(head[6..]);
            if (isOurs && granule > last)
                last = granule;
            content.Position = Math.Min(content.Length, content.Position + bytes);
        }
        content.Position = 0;
        return last;
    }

    /// <summary>The next packet.</summary>
    /// <returns>Null at the end.</returns>
    public byte[]? Next()
    {
        while (packets.Count == 0 && !isOver)
            isOver = !TakePage();
        return packets.TryDequeue(out var packet) ? packet : null;
    }

    private bool TakePage()
    {
        Span<byte> head = stackalloc byte[HeadBytes];
        Span<byte> laces = stackalloc byte[255];
        if (!NextPage(head, laces, out var bytes, out var isOurs))
            return false;
        var body = new byte[bytes];
        if (content.ReadAtLeast(body, bytes, throwOnEndOfStream: false) < bytes)
            return false;
        if (!isOurs)
            return true;
        var at = 0;
        foreach (var lace in laces[..head[26]])
        {
            unfinished.Write(body, at, lace);
            at += lace;
            if (unfinished.Length > MostPacket)
                throw new UnreadableFileException(FileFaultCode.PartDamaged);
            if (lace == 255)
                continue;
            packets.Enqueue(unfinished.ToArray());
            unfinished.SetLength(0);
        }
        return true;
    }

    private bool NextPage(Span<byte> head, Span<byte> laces, out int bytes, out bool isOurs)
    {
        (bytes, isOurs) = (0, false);
        if (content.ReadAtLeast(head, HeadBytes, throwOnEndOfStream: false) < HeadBytes || !head.StartsWith("OggS"u8))
            return false;
        if (content.ReadAtLeast(laces[..head[26]], head[26], throwOnEndOfStream: false) < head[26])
            return false;
        foreach (var lace in laces[..head[26]])
            bytes += lace;
        isOurs = BinaryPrimitives.ReadUInt32LittleEndian(head[14..]) == serial;
        return true;
    }
}
