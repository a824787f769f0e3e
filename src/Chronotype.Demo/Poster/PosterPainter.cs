using System.IO.Compression;
using System.Text;
using System.Xml.Linq;
using NetVips;

namespace Chronotype.Demo.Poster;

/// <summary>Paints the poster's scenes as OpenRaster files. A layer that did not change is the same bytes again.</summary>
/// <param name="scale">Pixels of the canvas for one of the scene's.</param>
/// <param name="dotsPerInch">What is written into the file.</param>
internal sealed class PosterPainter(double scale = 1, int dotsPerInch = 150)
{
    private readonly Dictionary<string, byte[]> painted = [];
    private readonly byte[] grain = Grain(Scaled(PosterScene.Width, scale), Scaled(PosterScene.Height, scale));
    private readonly int width = Scaled(PosterScene.Width, scale),
        height = Scaled(PosterScene.Height, scale);

    public byte[] Paint(PosterScene scene)
    {
        var layers = scene.Layers().ToList();
        var pictures = layers.ConvertAll(l => Picture(l.Svg));
        using var file = new MemoryStream();
        using (var zip = new ZipArchive(file, ZipArchiveMode.Create, leaveOpen: true))
        {
            Add(zip, "mimetype", "image/openraster"u8.ToArray());
            Add(zip, "stack.xml", Stack(layers));
            Add(zip, "data/grain.png", grain);
            for (var i = 0; i < layers.Count; i++)
                Add(zip, $"data/layer{i}.png", pictures[i]);
            var merged = Merge(layers, pictures);
            Add(zip, "mergedimage.png", merged);
            using var small = Image.ThumbnailBuffer(merged, 256, height: 256);
            Add(zip, "Thumbnails/thumbnail.png", small.PngsaveBuffer());
        }
        return file.ToArray();
    }

    private byte[] Picture(string svg)
    {
        if (painted.TryGetValue(svg, out var png))
            return png;
        using var image = Image.SvgloadBuffer(Encoding.UTF8.GetBytes(svg), scale: scale);
        return painted[svg] = image.PngsaveBuffer(compression: 4);
    }

    private byte[] Merge(List<PosterLayer> layers, List<byte[]> pictures)
    {
        // From the bottom up: the sky covers the whole canvas, the grain lies over all.
        var merged = Image.NewFromBuffer(pictures[^1]).Crop(0, 0, width, height);
        for (var i = layers.Count - 2; i >= 0; i--)
        {
            merged = merged
                .Composite2(Image.NewFromBuffer(pictures[i]), Enums.BlendMode.Over, x: At(layers[i].X), y: At(layers[i].Y))
                .Crop(0, 0, width, height);
        }
        merged = merged.Composite2(Image.NewFromBuffer(grain), Enums.BlendMode.Over);
        return merged.Cast(Enums.BandFormat.Uchar).ExtractBand(0, 3).PngsaveBuffer(compression: 3);
    }

    private byte[] Stack(List<PosterLayer> layers)
    {
        var root = new XElement("stack", new XAttribute("name", "root"), Layer("Paper grain", "data/grain.png", 0, 0));
        XElement? group = null;
        for (var i = 0; i < layers.Count; i++)
        {
            var layer = Layer(layers[i].Name, $"data/layer{i}.png", At(layers[i].X), At(layers[i].Y));
            if (layers[i].Group.Length == 0)
            {
                root.Add(layer);
                group = null;
                continue;
            }
            if ((string?)group?.Attribute("name") != layers[i].Group)
                root.Add(group = new XElement("stack", new XAttribute("name", layers[i].Group)));
            group!.Add(layer);
        }
        var image = new XElement(
            "image",
            new XAttribute("version", "0.0.5"),
            new XAttribute("w", width),
            new XAttribute("h", height),
            new XAttribute("xres", dotsPerInch),
            new XAttribute("yres", dotsPerInch),
            root
        );
        return Encoding.UTF8.GetBytes("<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n" + image);
    }

    private static XElement Layer(string name, string source, int x, int y) =>
        new(
            "layer",
            new XAttribute("name", name),
            new XAttribute("src", source),
            new XAttribute("x", x),
            new XAttribute("y", y),
            new XAttribute("opacity", "1.0")
        );

    // Coarse on purpose: a paper's grain at full depth would be most of the file.
    private static byte[] Grain(int width, int height)
    {
        using var noise = Image
            .Gaussnoise((width + 3) / 4, (height + 3) / 4, sigma: 8, mean: 14, seed: 3)
            .Cast(Enums.BandFormat.Uchar)
            .Zoom(4, 4)
            .Crop(0, 0, width, height);
        using var grey = Image.Black(noise.Width, noise.Height).Copy(interpretation: Enums.Interpretation.Srgb).Bandjoin(0, 0);
        return grey.Bandjoin(noise).Cast(Enums.BandFormat.Uchar).PngsaveBuffer(compression: 6);
    }

    private int At(int place) => Scaled(place, scale);

    private static int Scaled(int place, double scale) => (int)Math.Round(place * scale);

    private static void Add(ZipArchive zip, string name, byte[] bytes)
    {
        // OpenRaster, "File layout": the first entry is stored; PNG is packed already, so the rest are stored too.
        var entry = zip.CreateEntry(
            name,
            name.EndsWith(".xml", StringComparison.Ordinal) ? CompressionLevel.Fastest : CompressionLevel.NoCompression
        );
        entry.LastWriteTime = new DateTimeOffset(2000, 1, 1, 0, 0, 0, TimeSpan.Zero);
        using var stream = entry.Open();
        stream.Write(bytes);
    }
}
