using System.Buffers.Binary;
using System.IO.Hashing;
using Chronotype.Content.Files;

namespace Chronotype.Content.Segments;

/// <summary>
/// Says which segments there must be, so that one that is missing is known to be. It never names one that is not there: it is
/// written after a segment is begun, and before one is deleted.
/// </summary>
internal static class SegmentManifest
{
    public const string FileName = "manifest";
    private const int HeaderBytes = 16,
        EntryBytes = 12,
        MaxBytes = 64 << 20;
    private const ushort Version = 1;

    private static ReadOnlySpan<byte> Magic => "CHRONSET"u8;

    /// <returns>The segments' numbers and nonces; null where there is none, or it is not as it was written.</returns>
    public static Dictionary<uint, ulong>? Read(IStoreFiles files, string folder)
    {
        var path = Path.Combine(folder, FileName);
        if (!files.Exists(path))
            return null;
        byte[] bytes;
        using (var file = files.Open(path, forWriting: false))
        {
            bytes = new byte[Math.Min(file.Length, MaxBytes)];
            file.Read(bytes, 0);
        }
        if (
            bytes.Length < HeaderBytes + 8
            || !bytes.AsSpan().StartsWith(Magic)
            || BinaryPrimitives.ReadUInt16LittleEndian(bytes.AsSpan(8)) != Version
            || (bytes.Length - HeaderBytes - 8) % EntryBytes != 0
            || BinaryPrimitives.ReadUInt64LittleEndian(bytes.AsSpan(bytes.Length - 8))
                != XxHash3.HashToUInt64(bytes.AsSpan(0, bytes.Length - 8))
        )
            return null;
        var segments = new Dictionary<uint, ulong>();
        for (var at = HeaderBytes; at < bytes.Length - 8; at += EntryBytes)
            segments[BinaryPrimitives.ReadUInt32LittleEndian(bytes.AsSpan(at))] = BinaryPrimitives.ReadUInt64LittleEndian(
                bytes.AsSpan(at + 4)
            );
        return segments;
    }

    /// <summary>Takes the place of the one before, wholly or not at all.</summary>
    public static void Write(IStoreFiles files, string folder, IReadOnlyDictionary<uint, ulong> segments)
    {
        var bytes = new byte[HeaderBytes + segments.Count * EntryBytes + 8];
        Magic.CopyTo(bytes);
        BinaryPrimitives.WriteUInt16LittleEndian(bytes.AsSpan(8), Version);
        var at = HeaderBytes;
        foreach (var (number, nonce) in segments.OrderBy(s => s.Key))
        {
            BinaryPrimitives.WriteUInt32LittleEndian(bytes.AsSpan(at), number);
            BinaryPrimitives.WriteUInt64LittleEndian(bytes.AsSpan(at + 4), nonce);
            at += EntryBytes;
        }
        BinaryPrimitives.WriteUInt64LittleEndian(bytes.AsSpan(at), XxHash3.HashToUInt64(bytes.AsSpan(0, at)));
        WholeFile.Write(files, folder, FileName, bytes);
    }
}
