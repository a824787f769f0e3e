using System.Buffers.Binary;
using System.Globalization;
using System.Text;
using Chronotype.Core.Content;
using static Chronotype.Formats.Sound.PcmFile;

namespace Chronotype.Formats.Sound;

/// <summary>
/// A WAVE file's shape: RIFF (IBM and Microsoft, "Multimedia Programming Interface", 1991), its WAVE_FORMAT_EXTENSIBLE, the 64-bit forms
/// RF64 (EBU Tech 3306) and BW64 (ITU-R BS.2088), its cue points with their labels and regions, and what broadcasters write into it.
/// </summary>
internal sealed class WaveFile
{
    private const ushort Pcm = 1,
        IeeeFloat = 3,
        Extensible = 0xFFFE;

    // More than anybody marks; a file that claims more is not believed.
    private const int MostMarkers = 10_000;

    private readonly SortedDictionary<uint, uint> cues = [];
    private readonly Dictionary<uint, string> labels = [];
    private readonly Dictionary<uint, uint> regions = [];
    private readonly List<TagFacts> tags = [];
    private ushort coding;
    private int channels,
        rate,
        bits;
    private long data64 = -1;
    private PcmFile? found;

    private WaveFile() { }

    /// <summary>Reads the chunks' headers and none of the samples.</summary>
    /// <exception cref="UnreadableFileException">The file is no WAVE, or one in a coding that is not read.</exception>
    public static PcmFile Open(Stream content) => new WaveFile().ReadChunks(content);

    private PcmFile ReadChunks(Stream content)
    {
        content.Position = 0;
        Span<byte> head = stackalloc byte[12];
        Fill(content, head);
        var is64 = head.StartsWith("RF64"u8) || head.StartsWith("BW64"u8);
        if (!(is64 || head.StartsWith("RIFF"u8)) || !head[8..].SequenceEqual("WAVE"u8))
            throw new UnreadableFileException(FileFaultCode.WrongBeginning);

        Span<byte> chunk = stackalloc byte[8];
        Span<byte> body = stackalloc byte[28];
        for (var count = 0; content.Position + 8 <= content.Length && count < Limits.Entries; count++)
        {
            Fill(content, chunk);
            long size = BinaryPrimitives.ReadUInt32LittleEndian(chunk[4..]);
            var start = content.Position;
            if (chunk.StartsWith("ds64"u8) && size >= 16)
            {
                Fill(content, body[..16]);
                data64 = BinaryPrimitives.ReadInt64LittleEndian(body[8..]);
            }
            else if (chunk.StartsWith("fmt "u8) && size >= 16)
            {
                var length = (int)Math.Min(size, body.Length);
                Fill(content, body[..length]);
                coding = BinaryPrimitives.ReadUInt16LittleEndian(body);
                channels = BinaryPrimitives.ReadUInt16LittleEndian(body[2..]);
                rate = BinaryPrimitives.ReadInt32LittleEndian(body[4..]);
                bits = BinaryPrimitives.ReadUInt16LittleEndian(body[14..]);
                if (coding == Extensible && length >= 26)
                    coding = BinaryPrimitives.ReadUInt16LittleEndian(body[24..]);
            }
            else if (chunk.StartsWith("data"u8) && found is null)
            {
                if (is64 && size == uint.MaxValue && data64 >= 0)
                    size = data64;
                found = Made(start, size, content.Length - start);
            }
            else if (chunk.StartsWith("cue "u8))
                ReadCues(content, size);
            else if (chunk.StartsWith("LIST"u8) && size >= 4)
                ReadLabels(content, size);
            else if (chunk.StartsWith("bext"u8) || chunk.StartsWith("iXML"u8))
                tags.AddRange(BroadcastTags.Read(chunk, content, size));
            // Chunks are padded to an even length.
            content.Position = size >= content.Length - start ? content.Length : start + size + (size & 1);
        }
        if (found is null)
            throw new UnreadableFileException(FileFaultCode.NoSamples);
        var duration = found.Shape.Facts.Duration.TotalSeconds;
        return found with
        {
            Tags = [.. tags.Take(TagFacts.Most)],
            Markers =
            [
                .. cues.Select(c => new MarkerFacts(
                        (double)c.Value / rate,
                        labels.GetValueOrDefault(c.Key, ""),
                        regions.TryGetValue(c.Key, out var length) && length > 0 ? (double)length / rate : null
                    ))
                    .Where(m => m.At <= duration)
                    .OrderBy(m => m.At),
            ],
        };
    }

    private PcmFile Made(long start, long promised, long there)
    {
        var legal =
            channels is >= 1 and <= 64
            && rate is >= 1000 and <= 1_536_000
            && (coding == Pcm ? bits is 8 or 16 or 24 or 32 : coding == IeeeFloat && bits is 32 or 64);
        if (!legal)
        {
            throw new UnreadableFileException(
                new FileFault(FileFaultCode.UnknownCoding, coding.ToString(CultureInfo.InvariantCulture), bits, channels)
            );
        }
        var frames = Math.Min(promised, there) / (channels * bits / 8);
        var facts = new SoundFacts(rate, bits, channels, frames, coding == IeeeFloat);
        return new PcmFile(new PcmShape(facts, start, false, bits == 8), promised > there, []);
    }

    // A cue point: its number, its place in play order, "data", the chunk and block it is in, its sample.
    private void ReadCues(Stream content, long size)
    {
        Span<byte> point = stackalloc byte[24];
        if (size < 4)
            return;
        Fill(content, point[..4]);
        var count = Math.Min(BinaryPrimitives.ReadUInt32LittleEndian(point), (size - 4) / point.Length);
        for (var i = 0; i < Math.Min(count, MostMarkers); i++)
        {
            Fill(content, point);
            cues[BinaryPrimitives.ReadUInt32LittleEndian(point)] = BinaryPrimitives.ReadUInt32LittleEndian(point[20..]);
        }
    }

    // The associated data list: "labl" names a cue point, "ltxt" says how many samples long it is.
    private void ReadLabels(Stream content, long size)
    {
        var end = Math.Min(content.Length, content.Position + size);
        Span<byte> head = stackalloc byte[12];
        Fill(content, head[..4]);
        if (!head.StartsWith("adtl"u8))
            return;
        while (content.Position + 12 <= end && labels.Count + regions.Count < 2 * MostMarkers)
        {
            var start = content.Position + 8;
            Fill(content, head);
            long length = BinaryPrimitives.ReadUInt32LittleEndian(head[4..]);
            var cue = BinaryPrimitives.ReadUInt32LittleEndian(head[8..]);
            if (head.StartsWith("labl"u8) && length > 4)
            {
                var text = new byte[Math.Min(Math.Min(length - 4, 1000), end - content.Position)];
                Fill(content, text);
                labels[cue] = Encoding.UTF8.GetString(text).TrimEnd('\0');
            }
            else if (head.StartsWith("ltxt"u8) && length >= 8 && content.Position + 4 <= end)
            {
                Fill(content, head[..4]);
                regions[cue] = BinaryPrimitives.ReadUInt32LittleEndian(head);
            }
            content.Position = Math.Min(end, start + length + (length & 1));
        }
    }
}
