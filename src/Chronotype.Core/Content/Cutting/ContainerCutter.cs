using System.Buffers.Binary;

namespace Chronotype.Core.Content.Cutting;

/// <summary>
/// Cuts content for the store: by what it holds (<see cref="FastCdc"/>), and also at the seams of the containers that it knows,
/// so that a part that did not change is found again whole. In a ZIP (APPNOTE 6.3.10, 4.3), such as OpenRaster, each entry's
/// data is cut off from its header, which holds times; in a RIFF WAVE (also RF64, EBU Tech 3306) the samples from what stands
/// before and behind them. A seam is only a place to cut: a container that lies about its lengths is cut elsewhere, and kept.
/// </summary>
public sealed class ContainerCutter
{
    /// <summary>Bytes. Parts smaller than this are cut together with their neighbours.</summary>
    public const int SmallPart = 4096;

    private const int MinLength = 2048,
        AverageLength = 8192,
        LocalHeader = 30;
    private const uint LocalSignature = 0x04034B50,
        DirectorySignature = 0x02014B50;
    private const ushort SizesFollow = 0x0008;

    private static readonly FastCdc Cuts = new(MinLength, AverageLength, MaxLength);

    private readonly Queue<long> seams = new();
    private long position;
    private bool isZip,
        hasUnknownEnd;

    /// <summary>The longest chunk, in bytes.</summary>
    public const int MaxLength = 65_536;

    /// <summary>How many bytes <see cref="Next"/> wants to see, unless the content ends before.</summary>
    public const int Sight = MaxLength + LocalHeader;

    /// <summary>The length of the next chunk, in bytes. Chunks are asked for in order, from the content's beginning.</summary>
    public int Next(ReadOnlySpan<byte> bytes)
    {
        if (position == 0)
            Begin(bytes);
        while (seams.TryPeek(out var passed) && passed <= position)
            seams.Dequeue();
        if (isZip && seams.Count == 0)
            ReadZip(bytes);
        var limit = Math.Min(bytes.Length, MaxLength);
        if (seams.TryPeek(out var seam))
            limit = (int)Math.Min(limit, seam - position);
        var length = Cuts.NextCut(bytes[..limit]);
        position += length;
        return length;
    }

    private void Begin(ReadOnlySpan<byte> bytes)
    {
        isZip = IsLocalHeader(bytes);
        if (bytes.Length >= 12 && (bytes.StartsWith("RIFF"u8) || bytes.StartsWith("RF64"u8)) && bytes[8..].StartsWith("WAVE"u8))
            FindSamples(bytes);
    }

    private void FindSamples(ReadOnlySpan<byte> bytes)
    {
        long longSize = -1;
        for (long at = 12; at + 8 <= bytes.Length; )
        {
            var size = BinaryPrimitives.ReadUInt32LittleEndian(bytes[(int)(at + 4)..]);
            var name = bytes.Slice((int)at, 4);
            if (name.SequenceEqual("ds64"u8) && at + 24 <= bytes.Length)
                longSize = BinaryPrimitives.ReadInt64LittleEndian(bytes[(int)(at + 16)..]);
            if (name.SequenceEqual("data"u8))
            {
                seams.Enqueue(at + 8);
                var samples = size == uint.MaxValue ? longSize : size;
                if (samples > 0 && samples < long.MaxValue - at - 8)
                    seams.Enqueue(at + 8 + samples);
                return;
            }
            at += 8 + size + (size & 1);
        }
    }

    /// <summary>Looks for the seams from where the content now stands: at a header, or within an entry whose end is not known.</summary>
    private void ReadZip(ReadOnlySpan<byte> bytes)
    {
        var here = 0;
        if (IsLocalHeader(bytes))
        {
            hasUnknownEnd = false;
            // Small entries go together, up to the first large one.
            while (
                here + LocalHeader <= Math.Min(bytes.Length, MaxLength)
                && IsLocalHeader(bytes[here..])
                && KnownSize(bytes[here..]) is >= 0 and < SmallPart
            )
                here += HeaderLength(bytes[here..]) + (int)KnownSize(bytes[here..]);
            if (here > 0)
            {
                seams.Enqueue(position + here);
                return;
            }
            var size = KnownSize(bytes);
            seams.Enqueue(position + HeaderLength(bytes));
            if (size >= 0)
                seams.Enqueue(position + HeaderLength(bytes) + size);
            else
                hasUnknownEnd = true;
            return;
        }
        if (!hasUnknownEnd)
        {
            // The directory, a descriptor, or nothing that is known: from here on only the content says.
            isZip =
                BinaryPrimitives.TryReadUInt32LittleEndian(bytes, out var signature)
                && signature != DirectorySignature
                && FindHeader(bytes);
            return;
        }
        if (FindHeader(bytes))
            hasUnknownEnd = false;
    }

    private bool FindHeader(ReadOnlySpan<byte> bytes)
    {
        var within = bytes[..Math.Min(bytes.Length, Sight)];
        for (var at = 1; at < within.Length - LocalHeader; )
        {
            var found = within[at..].IndexOf("PK"u8);
            if (found < 0)
                return false;
            at += found;
            if (IsLocalHeader(within[at..]) || IsDirectory(within[at..]))
            {
                seams.Enqueue(position + at);
                return true;
            }
            at += 2;
        }
        return false;
    }

    // More than the signature is asked, so that bytes which look like one by chance are rarely taken for it.
    private static bool IsLocalHeader(ReadOnlySpan<byte> bytes) =>
        bytes.Length >= LocalHeader
        && BinaryPrimitives.ReadUInt32LittleEndian(bytes) == LocalSignature
        && bytes[5] == 0
        && bytes[4] <= 63
        && BinaryPrimitives.ReadUInt16LittleEndian(bytes[8..]) <= 99
        && BinaryPrimitives.ReadUInt16LittleEndian(bytes[26..]) is > 0 and <= 4096;

    private static bool IsDirectory(ReadOnlySpan<byte> bytes) =>
        bytes.Length >= 4 && BinaryPrimitives.ReadUInt32LittleEndian(bytes) == DirectorySignature;

    private static int HeaderLength(ReadOnlySpan<byte> header) =>
        LocalHeader + BinaryPrimitives.ReadUInt16LittleEndian(header[26..]) + BinaryPrimitives.ReadUInt16LittleEndian(header[28..]);

    /// <summary>Bytes of the entry's data as they stand in the file; below 0 where the header does not say.</summary>
    private static long KnownSize(ReadOnlySpan<byte> header)
    {
        var size = BinaryPrimitives.ReadUInt32LittleEndian(header[18..]);
        return (BinaryPrimitives.ReadUInt16LittleEndian(header[6..]) & SizesFollow) != 0 || size == uint.MaxValue ? -1 : size;
    }
}
