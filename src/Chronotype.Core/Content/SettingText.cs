using System.Text;

namespace Chronotype.Core.Content;

/// <summary>The text of a file of settings, however the program that wrote it codes letters.</summary>
public static class SettingText
{
    /// <summary>
    /// Decodes a whole file: by the mark at its beginning (UTF-8, UTF-16, UTF-32; The Unicode Standard, 2.6), and without one by where the zeros
    /// of its first two characters are, which in JSON are of ASCII (RFC 4627, section 3); else as UTF-8.
    /// </summary>
    /// <param name="bytes">Bytes that the coding does not know become U+FFFD.</param>
    /// <returns>The text, without the mark.</returns>
    public static string Decode(ReadOnlySpan<byte> bytes)
    {
        var coding = Of(bytes);
        return coding.GetString(bytes).TrimStart('\uFEFF');
    }

    private static Encoding Of(ReadOnlySpan<byte> bytes) =>
        bytes switch
        {
            [0xFF, 0xFE, 0, 0, ..] => Encoding.UTF32,
            [0, 0, 0xFE, 0xFF, ..] => new UTF32Encoding(bigEndian: true, byteOrderMark: true),
            [0xFF, 0xFE, ..] => Encoding.Unicode,
            [0xFE, 0xFF, ..] => Encoding.BigEndianUnicode,
            [not 0, 0, not 0, 0, ..] => Encoding.Unicode,
            [0, not 0, 0, not 0, ..] => Encoding.BigEndianUnicode,
            _ => Encoding.UTF8,
        };

    /// <summary>Reads a stream to its end, or as far as it may be.</summary>
    /// <param name="stream">A whole file, which is not closed.</param>
    /// <param name="most">Bytes.</param>
    /// <returns>Null where it holds more.</returns>
    public static string? Read(Stream stream, int most)
    {
        var bytes = new MemoryStream();
        var part = new byte[64 << 10];
        for (int n; (n = stream.Read(part)) > 0; )
        {
            if (bytes.Length + n > most)
                return null;
            bytes.Write(part, 0, n);
        }
        return Decode(bytes.GetBuffer().AsSpan(0, (int)bytes.Length));
    }
}
