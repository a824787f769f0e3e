using System.Text;

namespace Chronotype.Formats.Texts;

/// <summary>Tells how a text is encoded: by its mark (Unicode 17, 23.8), by its pattern, or as what any bytes can be read as.</summary>
internal static class TextCoding
{
    private const int MostControls = 200;

    /// <summary>The lines of a text.</summary>
    /// <returns>Null where it is no text, or more than is read.</returns>
    public static (Encoding Coding, IReadOnlyList<string> Lines)? Lines(Stream content)
    {
        if (content.Length > Limits.TextBytes)
            return null;
        content.Position = 0;
        var bytes = new byte[content.Length];
        content.ReadExactly(bytes);
        if (Of(bytes, isWhole: true) is not { } coding)
            return null;
        var text = coding.GetString(bytes).TrimStart('\uFEFF').ReplaceLineEndings("\n");
        var lines = text.Split('\n');
        // The end of the last line begins no other.
        return (coding, lines.Length > 1 && lines[^1].Length == 0 ? lines[..^1] : lines);
    }

    /// <param name="bytes">Of a file, its beginning or the whole of it.</param>
    /// <param name="isWhole">Whether nothing comes after.</param>
    /// <returns>Null where this is no text.</returns>
    public static Encoding? Of(ReadOnlySpan<byte> bytes, bool isWhole)
    {
        if (bytes.Length == 0)
            return null;
        if (bytes.StartsWith((ReadOnlySpan<byte>)[0xFF, 0xFE, 0, 0]))
            return Encoding.UTF32;
        if (bytes.StartsWith((ReadOnlySpan<byte>)[0, 0, 0xFE, 0xFF]))
            return new UTF32Encoding(bigEndian: true, byteOrderMark: true);
        if (bytes.StartsWith((ReadOnlySpan<byte>)[0xFF, 0xFE]))
            return Encoding.Unicode;
        if (bytes.StartsWith((ReadOnlySpan<byte>)[0xFE, 0xFF]))
            return Encoding.BigEndianUnicode;
        if (Halves(bytes) is { } wide)
            return wide;
        if (!AreLetters(bytes))
            return null;
        return IsUtf8(bytes, isWhole) ? Encoding.UTF8 : Encoding.Latin1;
    }

    // Letters of most scripts in UTF-16 have a zero in every other byte, where their languages' spaces and stops are.
    private static Encoding? Halves(ReadOnlySpan<byte> bytes)
    {
        if (bytes.Length < 8)
            return null;
        var (even, odd) = (0, 0);
        for (var i = 0; i + 1 < bytes.Length; i += 2)
            (even, odd) = (even + (bytes[i] == 0 ? 1 : 0), odd + (bytes[i + 1] == 0 ? 1 : 0));
        var half = bytes.Length / 2;
        return even == 0 && odd > half * 0.8 ? Encoding.Unicode
            : odd == 0 && even > half * 0.8 ? Encoding.BigEndianUnicode
            : null;
    }

    // No text has zeros, or more than a rare control character.
    private static bool AreLetters(ReadOnlySpan<byte> bytes)
    {
        var controls = 0;
        foreach (var b in bytes)
        {
            if (b == 0)
                return false;
            controls += b is < 0x20 and not (0x09 or 0x0A or 0x0B or 0x0C or 0x0D or 0x1B) or 0x7F ? 1 : 0;
        }
        return controls <= bytes.Length / MostControls;
    }

    private static bool IsUtf8(ReadOnlySpan<byte> bytes, bool isWhole)
    {
        // A beginning may end within a letter.
        for (var cut = 0; cut < (isWhole ? 1 : 4) && cut <= bytes.Length; cut++)
        {
            if (System.Text.Unicode.Utf8.IsValid(bytes[..^cut]))
                return true;
        }
        return false;
    }
}
