using System.IO.Compression;
using System.Text;
using NetVips;

namespace Chronotype.Bench.Contents;

/// <summary>A poster of twenty painted layers, of which each version repaints one.</summary>
internal sealed class LayeredPoster
{
    private const int Layers = 20,
        Width = 1200,
        Height = 860;
    private readonly byte[][] layers = [.. Enumerable.Range(0, Layers).Select(i => Painted(i + 1, Width, Height))];
    private byte[] merged = Painted(1000, Width / 2, Height / 2);
    private int version;

    /// <summary>Writes the next version.</summary>
    /// <returns>
    /// Bytes of the entries that it has anew: the repainted layer's, and those of the merged picture, which changes with it.
    /// </returns>
    public (long Layer, long Merged) WriteNext(string path)
    {
        var repainted = version * 7 % Layers;
        if (version > 0)
        {
            layers[repainted] = Painted(5000 + version, Width, Height);
            merged = Painted(9000 + version, Width / 2, Height / 2);
        }
        version++;
        using var file = File.Create(path);
        using var zip = new ZipArchive(file, ZipArchiveMode.Create);
        Add("mimetype", "image/openraster"u8.ToArray());
        for (var i = 0; i < Layers; i++)
            Add($"data/layer{i:00}.png", layers[i]);
        var stack = string.Concat(
            Enumerable.Range(0, Layers).Select(i => $"""<layer name="Layer {i}" src="data/layer{i:00}.png" x="0" y="0"/>""")
        );
        Add(
            "stack.xml",
            Encoding.UTF8.GetBytes(
                $"""<?xml version="1.0"?><image version="0.0.5" w="{Width}" h="{Height}"><stack>{stack}</stack></image>"""
            )
        );
        Add("mergedimage.png", merged);
        return (layers[repainted].Length, merged.Length);

        void Add(string name, byte[] bytes)
        {
            var entry = zip.CreateEntry(name, CompressionLevel.NoCompression);
            // Each save stamps all of its entries.
            entry.LastWriteTime = new DateTimeOffset(2026, 3, 2, 9, 0, 0, TimeSpan.Zero).AddMinutes(version * 7);
            using var stream = entry.Open();
            stream.Write(bytes);
        }
    }

    // Grain, as brushes and paper leave it, hardly compresses; that is what makes layered files large. Its seeds are drawn, since
    // those that lie close together give grain that is partly the same.
    private static byte[] Painted(int seed, int width, int height)
    {
        var seeds = new Random(seed);
        using Image red = Grain(128),
            green = Grain(110),
            blue = Grain(90),
            grain = red.Bandjoin(green, blue);
        using var picture = grain.Cast(Enums.BandFormat.Uchar).Copy(interpretation: Enums.Interpretation.Srgb);
        return picture.PngsaveBuffer(compression: 6);

        Image Grain(double mean) => Image.Gaussnoise(width, height, sigma: 40, mean: mean, seed: seeds.Next());
    }
}
