using System.Buffers.Binary;
using System.Text;

namespace Chronotype.Core.Content;

/// <summary>An ICC colour profile, for its name and its colour space (ICC.1:2022, 7.2, 7.3 and 9.2.41).</summary>
public static class ColourProfile
{
    private const int TableAt = 128,
        EntryBytes = 12,
        MostTags = 200,
        MostLetters = 120;

    /// <summary>The most bytes of a profile that is taken.</summary>
    public const int MaxBytes = 16 << 20;

    /// <summary>What the colours of a profile that outputs can be made for are told in.</summary>
    /// <returns><c>RGB</c>, <c>CMYK</c> or <c>GRAY</c>; null for what is no such profile.</returns>
    public static string? Space(ReadOnlySpan<byte> profile)
    {
        // 7.2: the size, the class, the colour space and the signature stand at fixed places.
        if (profile.Length is < TableAt + 4 or > MaxBytes || !profile[36..].StartsWith("acsp"u8))
            return null;
        if (BinaryPrimitives.ReadUInt32BigEndian(profile) is var size && (size < TableAt || size > profile.Length))
            return null;
        var kind = Encoding.ASCII.GetString(profile.Slice(12, 4));
        var space = Encoding.ASCII.GetString(profile.Slice(16, 4)).TrimEnd();
        return kind is "mntr" or "prtr" or "spac" or "scnr" && space is "RGB" or "CMYK" or "GRAY" ? space : null;
    }

    /// <summary>What it is called.</summary>
    /// <returns>Null where it has no name, or none that can be read.</returns>
    public static string? Name(ReadOnlySpan<byte> profile)
    {
        if (profile.Length < TableAt + 4)
            return null;
        var count = Math.Min(BinaryPrimitives.ReadUInt32BigEndian(profile[TableAt..]), MostTags);
        for (var i = 0; i < count && profile.Length >= TableAt + 4 + (i + 1) * EntryBytes; i++)
        {
            var entry = profile[(TableAt + 4 + i * EntryBytes)..];
            if (!entry.StartsWith("desc"u8))
                continue;
            var (at, length) = (BinaryPrimitives.ReadUInt32BigEndian(entry[4..]), BinaryPrimitives.ReadUInt32BigEndian(entry[8..]));
            return at + (ulong)length <= (ulong)profile.Length ? Clean(Text(profile.Slice((int)at, (int)length))) : null;
        }
        return null;
    }

    private static string? Text(ReadOnlySpan<byte> tag)
    {
        // Version 2: the letters in ASCII after their count. Version 4: records of languages (10.15), of which the first is taken.
        if (tag.Length >= 12 && tag.StartsWith("desc"u8))
        {
            var length = BinaryPrimitives.ReadUInt32BigEndian(tag[8..]);
            return length <= tag.Length - 12 ? Encoding.ASCII.GetString(tag.Slice(12, (int)length)) : null;
        }
        if (tag.Length >= 28 && tag.StartsWith("mluc"u8))
        {
            var (length, at) = (BinaryPrimitives.ReadUInt32BigEndian(tag[20..]), BinaryPrimitives.ReadUInt32BigEndian(tag[24..]));
            return at + (ulong)length <= (ulong)tag.Length ? Encoding.BigEndianUnicode.GetString(tag.Slice((int)at, (int)length)) : null;
        }
        return null;
    }

    private static string? Clean(string? text)
    {
        var clean = text?.Trim('\0', ' ');
        return clean is not { Length: > 0 } || clean.Any(char.IsControl) ? null
            : clean.Length > MostLetters ? clean[..MostLetters]
            : clean;
    }
}
