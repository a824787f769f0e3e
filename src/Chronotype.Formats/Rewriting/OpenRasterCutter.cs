using System.Globalization;
using System.IO.Compression;
using System.Xml;
using System.Xml.Linq;
using Chronotype.Core.Content;
using NetVips;

namespace Chronotype.Formats.Rewriting;

/// <summary>Takes layers out of an OpenRaster picture, and draws what is left for those that look at the whole.</summary>
internal static class OpenRasterCutter
{
    // The OpenRaster specification, "Thumbnail image": at most so many pixels wide and high.
    private const int Thumbnail = 256;

    /// <param name="gone">The places of those that go, in the list of layers as it was read.</param>
    public static void Without(Stream content, IReadOnlySet<int> gone, Stream output)
    {
        using var file = new OpenRasterFile(content);
        Write(file.Open, file.StackWithout(gone), file.Width, file.Height, output);
    }

    /// <summary>Writes a picture of a stack, with the pixels of the layers that are in it.</summary>
    /// <param name="open">Opens an entry that a layer names; null where there is none.</param>
    /// <param name="width">Of the canvas.</param>
    /// <param name="height">As <paramref name="width"/>.</param>
    public static void Write(Func<string, Stream?> open, XDocument stack, int width, int height, Stream output)
    {
        var kept = stack.Descendants("layer").Select(l => (string?)l.Attribute("src")).OfType<string>().ToHashSet();
        using var zip = new ZipArchive(output, ZipArchiveMode.Create, leaveOpen: true);
        // "File layout": the mimetype first, as it is.
        using (var type = zip.CreateEntry("mimetype", CompressionLevel.NoCompression).Open())
            type.Write("image/openraster"u8);
        using (var written = XmlWriter.Create(zip.CreateEntry("stack.xml").Open(), new XmlWriterSettings { CloseOutput = true }))
            stack.Save(written);
        foreach (var source in kept)
        {
            using var from = open(source) ?? throw new UnreadableFileException(new FileFault(FileFaultCode.LayerWithoutPixels, source));
            using var to = zip.CreateEntry(source, CompressionLevel.NoCompression).Open();
            from.CopyTo(to);
        }
        Pictures.Guard(() =>
        {
            using var merged = Merge(open, stack.Root!.Element("stack")!, width, height);
            using var set = TemporaryFile.Open();
            merged.PngsaveStream(set);
            set.Position = 0;
            using (var to = zip.CreateEntry("mergedimage.png", CompressionLevel.NoCompression).Open())
                set.CopyTo(to);
            set.Position = 0;
            using var small = Image.ThumbnailStream(set, Thumbnail, height: Thumbnail, size: Enums.Size.Down);
            using (var to = zip.CreateEntry("Thumbnails/thumbnail.png", CompressionLevel.NoCompression).Open())
                to.Write(small.PngsaveBuffer());
            return true;
        });
    }

    // Each group by itself, then laid over what is below it.
    private static Image Merge(Func<string, Stream?> open, XElement stack, int width, int height)
    {
        var canvas = Image.Black(width, height, bands: 4).Copy(interpretation: Enums.Interpretation.Srgb);
        foreach (var element in stack.Elements().Where(e => e.Name.LocalName is "stack" or "layer").Reverse())
        {
            if ((string?)element.Attribute("visibility") == "hidden")
                continue;
            var opacity = double.TryParse(
                (string?)element.Attribute("opacity"),
                NumberStyles.Float,
                CultureInfo.InvariantCulture,
                out var o
            )
                ? Math.Clamp(o, 0, 1)
                : 1;
            var isGroup = element.Name.LocalName == "stack";
            using var drawn = isGroup ? Merge(open, element, width, height) : Layer(open, (string?)element.Attribute("src") ?? "");
            using var faded = opacity < 1 ? drawn * new[] { 1, 1, 1, opacity } : drawn.Copy();
            using var bytes = faded.Cast(Enums.BandFormat.Uchar);
            // Memory, since each layer is gone over once for what is below and once for what is above.
            var next = canvas.Composite2(
                bytes,
                Mode((string?)element.Attribute("composite-op")),
                x: isGroup ? 0 : Whole(element, "x"),
                y: isGroup ? 0 : Whole(element, "y")
            );
            var held = next.Cast(Enums.BandFormat.Uchar).CopyMemory();
            next.Dispose();
            canvas.Dispose();
            canvas = held;
        }
        return canvas;
    }

    private static Image Layer(Func<string, Stream?> open, string source)
    {
        using var entry = open(source) ?? throw new UnreadableFileException(new FileFault(FileFaultCode.LayerWithoutPixels, source));
        using var set = PreviewMaker.Buffered(entry);
        using var image = Image.NewFromStream(set);
        var colour = image.Interpretation == Enums.Interpretation.Srgb ? image.Copy() : image.Colourspace(Enums.Interpretation.Srgb);
        using var whole = colour.HasAlpha() ? colour : colour.Bandjoin(255);
        return whole.Cast(Enums.BandFormat.Uchar).CopyMemory();
    }

    // "Composite operations"; what the picture library does not know is laid over as it is.
    private static Enums.BlendMode Mode(string? op) =>
        op switch
        {
            "svg:multiply" => Enums.BlendMode.Multiply,
            "svg:screen" => Enums.BlendMode.Screen,
            "svg:overlay" => Enums.BlendMode.Overlay,
            "svg:darken" => Enums.BlendMode.Darken,
            "svg:lighten" => Enums.BlendMode.Lighten,
            "svg:color-dodge" => Enums.BlendMode.ColourDodge,
            "svg:color-burn" => Enums.BlendMode.ColourBurn,
            "svg:hard-light" => Enums.BlendMode.HardLight,
            "svg:soft-light" => Enums.BlendMode.SoftLight,
            "svg:difference" => Enums.BlendMode.Difference,
            "svg:plus" => Enums.BlendMode.Add,
            "svg:dst-in" => Enums.BlendMode.DestIn,
            "svg:dst-out" => Enums.BlendMode.DestOut,
            "svg:src-atop" => Enums.BlendMode.Atop,
            "svg:dst-atop" => Enums.BlendMode.DestAtop,
            _ => Enums.BlendMode.Over,
        };

    internal static int Whole(XElement element, string name) =>
        int.TryParse((string?)element.Attribute(name), NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var n)
            ? Math.Clamp(n, -10_000_000, 10_000_000)
            : 0;
}
