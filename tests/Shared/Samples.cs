using System.Buffers.Binary;
using System.Globalization;
using System.IO.Compression;
using System.Text;
using NetVips;

namespace Chronotype.Tests;

/// <summary>Real files, made small: what people would drop, and what a hostile sender would.</summary>
public static partial class Samples
{
    public sealed record OraLayer(
        string Name,
        int Width,
        int Height,
        byte Red = 200,
        int X = 0,
        int Y = 0,
        (int X, int Y, int W, int H)? Patch = null,
        bool IsHidden = false,
        string? Group = null,
        double Opacity = 1,
        string? Blend = null,
        (int X, int Y, int W, int H)? Painted = null,
        int Deflate = 6
    );

    public static byte[] OpenRaster(int width, int height, params OraLayer[] layers) =>
        OpenRaster(width, height, new DateTime(2026, 3, 2), layers);

    public static byte[] OpenRaster(int width, int height, DateTime stamp, params OraLayer[] layers)
    {
        using var memory = new MemoryStream();
        using (var zip = new ZipArchive(memory, ZipArchiveMode.Create, leaveOpen: true))
        {
            Add("mimetype", "image/openraster"u8.ToArray());
            var stack = new StringBuilder();
            for (var i = 0; i < layers.Length; i++)
            {
                var l = layers[i];
                if (l.Group is not null && (i == 0 || layers[i - 1].Group != l.Group))
                    stack.Append(CultureInfo.InvariantCulture, $"""<stack name="{l.Group}">""");
                stack.Append(
                    CultureInfo.InvariantCulture,
                    $"""<layer name="{l.Name}" src="data/{i}.png" x="{l.X}" y="{l.Y}" opacity="{l.Opacity}"{(l.IsHidden ? " visibility=\"hidden\"" : "")}{(l.Blend is null ? "" : $" composite-op=\"{l.Blend}\"")}/>"""
                );
                if (l.Group is not null && (i == layers.Length - 1 || layers[i + 1].Group != l.Group))
                    stack.Append("</stack>");
            }
            Add(
                "stack.xml",
                Encoding.UTF8.GetBytes(
                    $"""<?xml version="1.0"?><image version="0.0.5" w="{width}" h="{height}"><stack>{stack}</stack></image>"""
                )
            );
            for (var i = 0; i < layers.Length; i++)
                Add($"data/{i}.png", LayerPng(layers[i]));
            Add("mergedimage.png", Png(width, height, layers.Length == 0 ? (byte)0 : layers[0].Red));

            void Add(string name, byte[] bytes)
            {
                var entry = zip.CreateEntry(name, CompressionLevel.NoCompression);
                entry.LastWriteTime = stamp;
                using var stream = entry.Open();
                stream.Write(bytes);
            }
        }
        return memory.ToArray();
    }

    public static byte[] Png(int width, int height, byte red = 120)
    {
        using var image = (Image.Black(width, height) + new[] { red, 40.0, 60.0 })
            .Cast(Enums.BandFormat.Uchar)
            .Copy(interpretation: Enums.Interpretation.Srgb);
        return image.PngsaveBuffer();
    }

    public static byte[] Flat(string extension, int width, int height)
    {
        using var image = (Image.Black(width, height) + new[] { 90, 140.0, 60.0 })
            .Cast(Enums.BandFormat.Uchar)
            .Copy(interpretation: Enums.Interpretation.Srgb);
        return image.WriteToBuffer(extension);
    }

    /// <summary>A header that claims a size with next to nothing behind it.</summary>
    public static byte[] PngThatClaims(int width, int height)
    {
        var png = Png(2, 2);
        BinaryPrimitives.WriteInt32BigEndian(png.AsSpan(16), width);
        BinaryPrimitives.WriteInt32BigEndian(png.AsSpan(20), height);
        BinaryPrimitives.WriteUInt32BigEndian(png.AsSpan(29), Crc(png.AsSpan(12, 17)));
        return png;
    }

    /// <summary>48 kHz unless told otherwise, 16 bit, of seeded noise: every second differs from every other.</summary>
    public static byte[] Wave(double seconds, int seed = 1, int rate = 48_000, short channels = 2)
    {
        var samples = new byte[(int)(seconds * rate) * channels * 2];
        new Random(seed).NextBytes(samples);
        return WaveOf(samples, rate, channels);
    }

    public static byte[] WaveOf(byte[] data, int rate = 48_000, short channels = 2, short bits = 16)
    {
        var file = new byte[44 + data.Length];
        "RIFF"u8.CopyTo(file);
        BinaryPrimitives.WriteInt32LittleEndian(file.AsSpan(4), 36 + data.Length);
        "WAVEfmt "u8.CopyTo(file.AsSpan(8));
        BinaryPrimitives.WriteInt32LittleEndian(file.AsSpan(16), 16);
        BinaryPrimitives.WriteInt16LittleEndian(file.AsSpan(20), 1);
        BinaryPrimitives.WriteInt16LittleEndian(file.AsSpan(22), channels);
        BinaryPrimitives.WriteInt32LittleEndian(file.AsSpan(24), rate);
        BinaryPrimitives.WriteInt32LittleEndian(file.AsSpan(28), rate * channels * bits / 8);
        BinaryPrimitives.WriteInt16LittleEndian(file.AsSpan(32), (short)(channels * bits / 8));
        BinaryPrimitives.WriteInt16LittleEndian(file.AsSpan(34), bits);
        "data"u8.CopyTo(file.AsSpan(36));
        BinaryPrimitives.WriteInt32LittleEndian(file.AsSpan(40), data.Length);
        data.CopyTo(file.AsSpan(44));
        return file;
    }

    public static byte[] Svg(string inside) =>
        Encoding.UTF8.GetBytes(
            $"""<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="100" """
                + $"""height="100">{inside}</svg>"""
        );

    public static byte[] Zip(params (string Path, string Text)[] files)
    {
        using var memory = new MemoryStream();
        using (var zip = new ZipArchive(memory, ZipArchiveMode.Create, leaveOpen: true))
        {
            foreach (var (path, text) in files)
            {
                using var entry = zip.CreateEntry(path).Open();
                entry.Write(Encoding.UTF8.GetBytes(text));
            }
        }
        return memory.ToArray();
    }

    private static byte[] LayerPng(OraLayer layer)
    {
        using var flat = (Image.Black(layer.Width, layer.Height) + new[] { layer.Red, 90.0, 30.0, 255.0 })
            .Cast(Enums.BandFormat.Uchar)
            .Copy(interpretation: Enums.Interpretation.Srgb);
        if (layer.Painted is var (left, top, width, height))
        {
            using var part = flat.Crop(0, 0, width, height);
            using var wide = part.Embed(left, top, layer.Width, layer.Height, background: [0, 0, 0, 0]);
            return wide.PngsaveBuffer(compression: layer.Deflate);
        }
        if (layer.Patch is not var (x, y, w, h))
            return flat.PngsaveBuffer(compression: layer.Deflate);
        using var patched = flat.Mutate(m => m.DrawRect([255, 255, 255, 255], x, y, w, h, fill: true));
        return patched.PngsaveBuffer();
    }

    // PNG (ISO/IEC 15948), annex D.
    private static uint Crc(ReadOnlySpan<byte> bytes)
    {
        var crc = uint.MaxValue;
        foreach (var b in bytes)
        {
            crc ^= b;
            for (var k = 0; k < 8; k++)
                crc = (crc & 1) != 0 ? 0xEDB88320 ^ (crc >> 1) : crc >> 1;
        }
        return ~crc;
    }
}
