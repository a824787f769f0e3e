using System.Buffers.Binary;
using System.IO.Compression;
using System.Text;

namespace Chronotype.Tests;

/// <summary>Small files that take very much to read, made here byte by byte.</summary>
public static partial class Samples
{
    /// <summary>Each group draws the one before it ten times: ten to the power of the depth rectangles.</summary>
    public static byte[] NestedUses(int depth = 14)
    {
        var defs = new StringBuilder("""<defs><rect id="u0" width="9" height="9"/>""");
        for (var i = 1; i <= depth; i++)
            defs.Append($"<g id=\"u{i}\">{string.Concat(Enumerable.Repeat($"<use href=\"#u{i - 1}\" x=\"1\"/>", 10))}</g>");
        return Svg($"{defs}</defs><use href=\"#u{depth}\"/>");
    }

    /// <summary>A chain of filters over a large area, each of which costs every pixel much.</summary>
    public static byte[] HeavyFilters() =>
        Encoding.UTF8.GetBytes(
            """<svg xmlns="http://www.w3.org/2000/svg" width="4000" height="4000"><filter id="f" x="-1" y="-1" width="3" height="3">"""
                + string.Concat(
                    Enumerable.Repeat("""<feTurbulence baseFrequency="0.9" numOctaves="200"/><feGaussianBlur stdDeviation="400"/>""", 60)
                )
                + """</filter><rect width="4000" height="4000" filter="url(#f)"/></svg>"""
        );

    private static string HeavyPath() =>
        "<path stroke-dasharray=\"0.01 0.01\" stroke=\"#000\" fill=\"none\" d=\"M0 0"
        + string.Concat(Enumerable.Repeat("L4000 4000L0 9", 200))
        + "\"/>";

    /// <summary>A text with very many paths of very many strokes.</summary>
    public static byte[] HeavyPaths() =>
        Encoding.UTF8.GetBytes(
            """<svg xmlns="http://www.w3.org/2000/svg" width="4000" height="4000">"""
                + string.Concat(Enumerable.Repeat(HeavyPath(), 400))
                + "</svg>"
        );

    /// <summary>
    /// A progressive JPEG whose header claims a size, with next to nothing behind it: all of it must be held before any of it is seen.
    /// </summary>
    public static byte[] ProgressiveJpegThatClaims(ushort width, ushort height)
    {
        using var image = (NetVips.Image.Black(64, 64) + new[] { 90, 140.0, 60.0 })
            .Cast(NetVips.Enums.BandFormat.Uchar)
            .Copy(interpretation: NetVips.Enums.Interpretation.Srgb);
        var jpeg = image.JpegsaveBuffer(interlace: true, subsampleMode: NetVips.Enums.ForeignSubsample.Off);
        var frame = jpeg.AsSpan().IndexOf((ReadOnlySpan<byte>)[0xFF, 0xC2]);
        BinaryPrimitives.WriteUInt16BigEndian(jpeg.AsSpan(frame + 5), height);
        BinaryPrimitives.WriteUInt16BigEndian(jpeg.AsSpan(frame + 7), width);
        return jpeg;
    }

    /// <summary>An interlaced PNG whose header claims a size.</summary>
    public static byte[] InterlacedPngThatClaims(int width, int height)
    {
        var png = PngThatClaims(width, height);
        png[28] = 1;
        BinaryPrimitives.WriteUInt32BigEndian(png.AsSpan(29), Crc(png.AsSpan(12, 17)));
        return png;
    }

    /// <summary>A drawing of one shape with very many attributes.</summary>
    public static byte[] ManyAttributes(int count = 700_000)
    {
        var shape = new StringBuilder("<rect ");
        for (var i = 0; i < count; i++)
            shape.Append(System.Globalization.CultureInfo.InvariantCulture, $"a{i}='' ");
        return Svg($"{shape}/>");
    }

    /// <summary>A drawing with very long texts.</summary>
    public static byte[] LongTexts(int bytes = 5_000_000) => Svg($"<text y='20'>{new string('w', bytes)}</text>");

    /// <summary>A drawing that puts a marker on each of very many points.</summary>
    public static byte[] ManyMarkers(int points = 200_000) =>
        Svg(
            "<marker id='m' markerWidth='9' markerHeight='9'><circle r='4'/></marker><path marker-mid='url(#m)' d='M0 0"
                + string.Concat(Enumerable.Range(0, points).Select(i => $"L{i % 97} {i % 89}"))
                + "'/>"
        );

    /// <summary>Subtitles of very many lines.</summary>
    public static byte[] LongSubtitles(int entries = 200_000)
    {
        var text = new StringBuilder();
        for (var i = 0; i < entries; i++)
        {
            var at = TimeSpan.FromMilliseconds(i * 400L);
            text.Append(
                System.Globalization.CultureInfo.InvariantCulture,
                $"{i + 1}\n{at:hh\\:mm\\:ss\\,fff} --> {at.Add(TimeSpan.FromMilliseconds(300)):hh\\:mm\\:ss\\,fff}\nThe tide is at {i} now\n\n"
            );
        }
        return Encoding.UTF8.GetBytes(text.ToString());
    }

    /// <summary>A PNG of one colour, whole and sound, that is very small as a file and very large as a picture.</summary>
    /// <param name="bits">Of a channel: 1 for black and white, 16 for four channels.</param>
    public static byte[] EnormousPng(int width, int height, int bits)
    {
        using var packed = new MemoryStream();
        using (var zlib = new ZLibStream(packed, CompressionLevel.Fastest, leaveOpen: true))
        {
            var row = new byte[1 + (bits == 1 ? (width + 7) / 8 : width * 8)];
            for (var y = 0; y < height; y++)
                zlib.Write(row);
        }
        using var png = new MemoryStream();
        png.Write([0x89, 0x50, 0x4E, 0x47, 0x0D, 0x0A, 0x1A, 0x0A]);
        var header = new byte[13];
        BinaryPrimitives.WriteInt32BigEndian(header, width);
        BinaryPrimitives.WriteInt32BigEndian(header.AsSpan(4), height);
        (header[8], header[9]) = ((byte)bits, (byte)(bits == 1 ? 0 : 6));
        Chunk("IHDR", header);
        Chunk("IDAT", packed.ToArray());
        Chunk("IEND", []);
        return png.ToArray();

        void Chunk(string name, byte[] data)
        {
            var chunk = new byte[12 + data.Length];
            BinaryPrimitives.WriteInt32BigEndian(chunk, data.Length);
            Encoding.ASCII.GetBytes(name, chunk.AsSpan(4));
            data.CopyTo(chunk, 8);
            BinaryPrimitives.WriteUInt32BigEndian(chunk.AsSpan(8 + data.Length), Crc(chunk.AsSpan(4, 4 + data.Length)));
            png.Write(chunk);
        }
    }

    /// <summary>An OpenRaster whose stack is so many elements in one another, and next to nothing when packed.</summary>
    public static byte[] NestedStack(int elements) =>
        RasterOf(
            "<image w=\"10\" h=\"10\">"
                + string.Concat(Enumerable.Repeat("<stack>", elements))
                + string.Concat(Enumerable.Repeat("</stack>", elements))
                + "</image>",
            Png(10, 10)
        );

    /// <summary>An OpenRaster of very many large layers that all share one picture of one colour.</summary>
    public static byte[] ManyLayers(int layers, int side, int shift, byte red = 120) =>
        RasterOf(
            $"<image w=\"{side}\" h=\"{side}\"><stack>{string.Concat(Enumerable.Range(0, layers).Select(i => $"<layer name=\"L{i}\" "
                + $"src=\"data/0.png\" x=\"{i + shift}\" y=\"0\"/>"))}</stack></image>",
            Png(side, side, red)
        );

    private static byte[] RasterOf(string stack, byte[] layer)
    {
        using var memory = new MemoryStream();
        using (var zip = new ZipArchive(memory, ZipArchiveMode.Create, leaveOpen: true))
        {
            Add("mimetype", "image/openraster"u8.ToArray(), CompressionLevel.NoCompression);
            Add("stack.xml", Encoding.UTF8.GetBytes(stack), CompressionLevel.Optimal);
            Add("data/0.png", layer, CompressionLevel.NoCompression);
            Add("mergedimage.png", Png(10, 10), CompressionLevel.NoCompression);
            void Add(string name, byte[] bytes, CompressionLevel level)
            {
                using var entry = zip.CreateEntry(name, level).Open();
                entry.Write(bytes);
            }
        }
        return memory.ToArray();
    }
}
