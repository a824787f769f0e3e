using System.Buffers.Binary;
using System.IO.Hashing;
using Chronotype.Content.Files;

namespace Chronotype.Content.Index;

/// <summary>Says which runs make up the index, and how far into the segments they reach.</summary>
/// <param name="Segment">The runs know all records before this place.</param>
/// <param name="Offset">Bytes from that segment's beginning.</param>
/// <param name="NextRun">The number that the next run gets.</param>
/// <param name="Runs">Their numbers, from the oldest, which is the largest.</param>
internal sealed record IndexManifest(uint Segment, uint Offset, uint NextRun, IReadOnlyList<uint> Runs)
{
    public const string FileName = "manifest";
    private const int HeaderBytes = 32;
    private const ushort Version = 2;

    public static readonly IndexManifest Empty = new(0, 0, 1, []);

    private static ReadOnlySpan<byte> Magic => "CHRONMAN"u8;

    /// <returns>Null where there is none, or one of another version of the program.</returns>
    /// <exception cref="IndexDamagedException">It is not as it was written.</exception>
    public static IndexManifest? Read(IStoreFiles files, string folder)
    {
        var path = Path.Combine(folder, FileName);
        if (!files.Exists(path))
            return null;
        using var file = files.Open(path, forWriting: false);
        var bytes = new byte[Math.Min(file.Length, 1 << 16)];
        file.Read(bytes, 0);
        if (
            bytes.Length < HeaderBytes + 8
            || !bytes.AsSpan().StartsWith(Magic)
            || BinaryPrimitives.ReadUInt64LittleEndian(bytes.AsSpan(bytes.Length - 8))
                != XxHash3.HashToUInt64(bytes.AsSpan(0, bytes.Length - 8))
        )
            throw new IndexDamagedException("The index's manifest is damaged.");
        // An index of another version is no damage; it is made anew.
        if (BinaryPrimitives.ReadUInt16LittleEndian(bytes.AsSpan(8)) != Version)
            return null;
        var runs = new uint[BinaryPrimitives.ReadInt32LittleEndian(bytes.AsSpan(24))];
        if (bytes.Length != HeaderBytes + runs.Length * 4 + 8)
            throw new IndexDamagedException("The index's manifest is cut short.");
        for (var i = 0; i < runs.Length; i++)
            runs[i] = BinaryPrimitives.ReadUInt32LittleEndian(bytes.AsSpan(HeaderBytes + i * 4));
        return new IndexManifest(
            BinaryPrimitives.ReadUInt32LittleEndian(bytes.AsSpan(12)),
            BinaryPrimitives.ReadUInt32LittleEndian(bytes.AsSpan(16)),
            BinaryPrimitives.ReadUInt32LittleEndian(bytes.AsSpan(20)),
            runs
        );
    }

    /// <summary>Takes the place of the one before, wholly or not at all.</summary>
    public void Write(IStoreFiles files, string folder)
    {
        var bytes = new byte[HeaderBytes + Runs.Count * 4 + 8];
        Magic.CopyTo(bytes);
        BinaryPrimitives.WriteUInt16LittleEndian(bytes.AsSpan(8), Version);
        BinaryPrimitives.WriteUInt32LittleEndian(bytes.AsSpan(12), Segment);
        BinaryPrimitives.WriteUInt32LittleEndian(bytes.AsSpan(16), Offset);
        BinaryPrimitives.WriteUInt32LittleEndian(bytes.AsSpan(20), NextRun);
        BinaryPrimitives.WriteInt32LittleEndian(bytes.AsSpan(24), Runs.Count);
        for (var i = 0; i < Runs.Count; i++)
            BinaryPrimitives.WriteUInt32LittleEndian(bytes.AsSpan(HeaderBytes + i * 4), Runs[i]);
        BinaryPrimitives.WriteUInt64LittleEndian(bytes.AsSpan(bytes.Length - 8), XxHash3.HashToUInt64(bytes.AsSpan(0, bytes.Length - 8)));
        WholeFile.Write(files, folder, FileName, bytes);
    }
}
