using System.Buffers.Binary;
using System.Text;
using Chronotype.Core.Content;

namespace Chronotype.Formats.Sound;

/// <summary>What a maker wrote about a sound in FLAC or Ogg (Xiph.Org, "Ogg Vorbis I format specification: comment field").</summary>
internal static class VorbisComment
{
    /// <param name="content">At the comment's beginning.</param>
    /// <param name="length">Bytes of it.</param>
    public static IReadOnlyList<TagFacts> Read(Stream content, int length)
    {
        var bytes = new byte[Math.Min(length, TagFacts.MostBytes)];
        PcmFile.Fill(content, bytes);
        return Read(bytes);
    }

    /// <summary>What cannot be read of it is left out.</summary>
    public static IReadOnlyList<TagFacts> Read(ReadOnlySpan<byte> bytes)
    {
        var tags = new List<TagFacts>();
        if (!Take(ref bytes, out _) || bytes.Length < 4)
            return tags;
        var count = BinaryPrimitives.ReadUInt32LittleEndian(bytes);
        bytes = bytes[4..];
        for (var i = 0; i < count && tags.Count < TagFacts.Most && Take(ref bytes, out var text); i++)
        {
            if (text.Split('=', 2) is [{ Length: > 0 } name, { Length: > 0 } value])
                tags.Add(TagFacts.Of(name.ToLowerInvariant(), value));
        }
        return tags;
    }

    private static bool Take(ref ReadOnlySpan<byte> bytes, out string text)
    {
        text = "";
        if (bytes.Length < 4)
            return false;
        var length = BinaryPrimitives.ReadUInt32LittleEndian(bytes);
        if (length > bytes.Length - 4)
            return false;
        text = Encoding.UTF8.GetString(bytes.Slice(4, (int)Math.Min(length, 4000)));
        bytes = bytes[(4 + (int)length)..];
        return true;
    }
}
