using System.Buffers.Binary;
using System.Text;
using Chronotype.Core.Content;
using Chronotype.Core.Sound;
using static Chronotype.Formats.Sound.PcmFile;

namespace Chronotype.Formats.Sound;

/// <summary>AIFF ("Audio Interchange File Format", version 1.3, 1989) and AIFF-C (draft of 1991) with linear samples.</summary>
internal sealed class AiffFormat : IFormat
{
    private const int MostMarkers = 10_000;

    public FileFormat Format => FileFormat.Aiff;

    public bool Begins(ReadOnlySpan<byte> head) =>
        head.Length >= 12 && head.StartsWith("FORM"u8) && (head[8..].StartsWith("AIFF"u8) || head[8..].StartsWith("AIFC"u8));

    public FileFacts Read(Stream content, CancellationToken cancel) => Open(content).Facts(Format, content, cancel);

    public Preview? Draw(Stream content, int side, int page, CancellationToken cancel) => Waveform.Draw(OpenSound(content)!, cancel);

    public SoundStream? OpenSound(Stream content) => new PcmStream(Open(content).Shape, content);

    private static PcmFile Open(Stream content)
    {
        Span<byte> head = stackalloc byte[12];
        Span<byte> common = stackalloc byte[22];
        content.Position = 0;
        Fill(content, head);
        var isCompressed = head[8..].StartsWith("AIFC"u8);
        (int Channels, long Frames, int Bits, double Rate, string Coding)? said = null;
        (long Start, long Length)? samples = null;
        var marks = new List<(uint At, string Name)>();
        for (var count = 0; content.Position + 8 <= content.Length && count < Limits.Entries; count++)
        {
            Fill(content, head[..8]);
            long size = BinaryPrimitives.ReadUInt32BigEndian(head[4..]);
            var start = content.Position;
            if (head.StartsWith("COMM"u8) && size >= 18)
            {
                var length = isCompressed && size >= 22 ? 22 : 18;
                Fill(content, common[..length]);
                said = (
                    BinaryPrimitives.ReadInt16BigEndian(common),
                    BinaryPrimitives.ReadUInt32BigEndian(common[2..]),
                    BinaryPrimitives.ReadInt16BigEndian(common[6..]),
                    Extended(common[8..18]),
                    length == 22 ? Encoding.ASCII.GetString(common[18..22]) : "NONE"
                );
            }
            else if (head.StartsWith("SSND"u8) && size >= 8)
            {
                Fill(content, head[..8]);
                var offset = BinaryPrimitives.ReadUInt32BigEndian(head);
                samples = (start + 8 + offset, size - 8 - offset);
            }
            else if (head.StartsWith("MARK"u8) && size >= 2)
                ReadMarks(content, start + size, marks);
            // Chunks are padded to an even length.
            content.Position = Math.Min(content.Length, start + size + (size & 1));
        }
        if (said is not { } found || samples is not { } there)
            throw new UnreadableFileException(FileFaultCode.NoSamples);
        var shape = Shape(found, there.Start);
        var whole = Math.Max(0, Math.Min(there.Length, content.Length - there.Start)) / shape.FrameBytes;
        var facts = shape.Facts with { Frames = Math.Min(found.Frames, whole) };
        return new PcmFile(
            shape with
            {
                Facts = facts,
            },
            found.Frames > whole,
            [.. marks.Select(m => new MarkerFacts((double)m.At / facts.SampleRate, m.Name)).OrderBy(m => m.At)]
        );
    }

    private static PcmShape Shape((int Channels, long Frames, int Bits, double Rate, string Coding) said, long start)
    {
        var (isFloat, isLittle, isRaw) = said.Coding switch
        {
            "NONE" or "twos" => (false, false, false),
            "sowt" => (false, true, false),
            "raw " => (false, false, true),
            "fl32" or "FL32" or "fl64" or "FL64" => (true, false, false),
            _ => throw new UnreadableFileException(new FileFault(FileFaultCode.UnknownCoding, said.Coding, said.Bits, said.Channels)),
        };
        var bits =
            said.Coding is "fl64" or "FL64" ? 64
            : isFloat ? 32
            : said.Bits;
        return
            said.Channels is >= 1 and <= 64
            && said.Rate is >= 1000 and <= 1_536_000
            && (isFloat ? bits is 32 or 64 : bits is >= 1 and <= 32)
            ? new PcmShape(new SoundFacts((int)Math.Round(said.Rate), bits, said.Channels, 0, isFloat), start, !isLittle, isRaw)
            : throw new UnreadableFileException(new FileFault(FileFaultCode.UnknownCoding, said.Coding, said.Bits, said.Channels));
    }

    // A mark: its number, its place, its name as a counted string padded to an even length.
    private static void ReadMarks(Stream content, long end, List<(uint, string)> marks)
    {
        Span<byte> head = stackalloc byte[7];
        Fill(content, head[..2]);
        var count = BinaryPrimitives.ReadUInt16BigEndian(head);
        for (var i = 0; i < Math.Min((int)count, MostMarkers) && content.Position + 7 <= Math.Min(end, content.Length); i++)
        {
            Fill(content, head);
            var name = new byte[Math.Min(head[6], content.Length - content.Position)];
            Fill(content, name);
            marks.Add((BinaryPrimitives.ReadUInt32BigEndian(head[2..]), Encoding.UTF8.GetString(name).TrimEnd('\0')));
            if ((head[6] & 1) == 0)
                content.Position = Math.Min(content.Length, content.Position + 1);
        }
    }

    // IEEE 754 extended precision, 80 bits, as the format keeps the rate.
    private static double Extended(ReadOnlySpan<byte> bytes)
    {
        var exponent = BinaryPrimitives.ReadUInt16BigEndian(bytes) & 0x7FFF;
        return BinaryPrimitives.ReadUInt64BigEndian(bytes[2..]) * Math.Pow(2, exponent - 16383 - 63);
    }
}
