using System.Globalization;
using System.IO.Compression;
using System.Text;
using System.Xml;
using System.Xml.Linq;
using Chronotype.Core.Content;
using Chronotype.Core.Outputs;
using Chronotype.Formats.Outputs;
using NetVips;

namespace Chronotype.Formats.Rewriting;

/// <summary>
/// Cuts a region out of a picture, or a stretch out of a sound, in the form that it has: layers stay layers, a drawing stays one, samples
/// stay what they are.
/// </summary>
public static class PartCutter
{
    /// <param name="content">Seekable; read from its beginning, left open.</param>
    /// <param name="output">Seekable and empty; left open.</param>
    /// <exception cref="UnreadableFileException">The file cannot be read, has no such part, or is of a format that is not written here.</exception>
    public static void Cut(Stream content, PartCut cut, Stream output, CancellationToken cancel = default)
    {
        var format = FormatList.Of(content) ?? throw new UnreadableFileException(FileFaultCode.NotUnderstood);
        content.Position = 0;
        switch (format.Format)
        {
            case FileFormat.OpenRaster when cut.Region is { } region:
                OpenRaster(content, region, output);
                break;
            case FileFormat.Svg when cut.Region is { } region:
                Svg(content, region, output);
                break;
            case FileFormat.Png or FileFormat.Tiff when cut.Region is { } region:
                Flat(content, format.Format, region, output, cancel);
                break;
            case var sound when SoundRecipe.Same(sound) is { } file && cut.Stretch is { } stretch:
                Sound(content, file, stretch, output, cancel);
                break;
            default:
                throw new UnreadableFileException(FileFaultCode.NotUnderstood);
        }
    }

    // A layer may reach past the canvas, so that nothing of it goes: what lies outside can be moved in again.
    private static void OpenRaster(Stream content, PictureRegion asked, Stream output)
    {
        using var file = new OpenRasterFile(content);
        var region = asked.Within(file.Width, file.Height) ?? throw new UnreadableFileException(FileFaultCode.OutsideOfIt);
        var stack = file.StackWithout(new HashSet<int>());
        var root = stack.Root!;
        root.SetAttributeValue("w", region.Width);
        root.SetAttributeValue("h", region.Height);
        foreach (var layer in root.Descendants().Where(e => e.Name.LocalName == "layer"))
        {
            layer.SetAttributeValue("x", OpenRasterCutter.Whole(layer, "x") - region.X);
            layer.SetAttributeValue("y", OpenRasterCutter.Whole(layer, "y") - region.Y);
        }
        OpenRasterCutter.Write(file.Open, stack, region.Width, region.Height, output);
    }

    // The region becomes the view box (SVG 2, 8.2), in whose units all stays where it is.
    private static void Svg(Stream content, PictureRegion asked, Stream output)
    {
        int width,
            height;
        var safe = SvgFile.Read(content).Safe;
        using (var header = Image.SvgloadBuffer(safe))
            (width, height) = (header.Width, header.Height);
        var region = asked.Within(width, height) ?? throw new UnreadableFileException(FileFaultCode.OutsideOfIt);
        var root = SvgFile.Tree(content);
        var box = SvgOutline.ViewBox(root) ?? [0, 0, width, height];
        var (across, down) = (box[2] / width, box[3] / height);
        string N(double value) => value.ToString("0.######", CultureInfo.InvariantCulture);
        root.SetAttributeValue(
            "viewBox",
            $"{N(box[0] + region.X * across)} {N(box[1] + region.Y * down)} {N(region.Width * across)} {N(region.Height * down)}"
        );
        root.SetAttributeValue("width", region.Width);
        root.SetAttributeValue("height", region.Height);
        using var writer = XmlWriter.Create(output, new XmlWriterSettings { Encoding = new UTF8Encoding(false), CloseOutput = false });
        root.Document!.Save(writer);
    }

    private static void Flat(Stream content, FileFormat format, PictureRegion asked, Stream output, CancellationToken cancel)
    {
        var seen = Pictures.Describe(content, format);
        var region = asked.Within(seen.Width, seen.Height) ?? throw new UnreadableFileException(FileFaultCode.OutsideOfIt);
        content.Position = 0;
        var recipe = new PictureRecipe(format == FileFormat.Png ? PictureFile.Png : PictureFile.Tiff)
        {
            Region = region,
            Depth = seen.Depth > 8 ? 16 : 8,
            KeepsMetadata = true,
        };
        PictureMaker.Make(content, recipe, null, output, cancel);
    }

    private static void Sound(Stream content, SoundFile kind, SoundStretch stretch, Stream output, CancellationToken cancel)
    {
        if (stretch is not { From: >= 0, Seconds: > 0 })
            throw new UnreadableFileException(FileFaultCode.OutsideOfIt);
        SoundMaker.Make(content, new SoundRecipe(kind) { From = stretch.From, Seconds = stretch.Seconds }, null, output, cancel);
    }
}
