using System.Globalization;
using System.IO.Compression;
using System.Text;
using System.Xml;
using System.Xml.Linq;
using Chronotype.Core.Content;
using NetVips;

namespace Chronotype.Formats;

/// <summary>
/// An OpenRaster picture (the OpenRaster specification, "File layout" and "Layer stack"): a zip with a <c>stack.xml</c>,
/// a PNG for each layer and a merged image.
/// </summary>
public sealed class OpenRasterFile : ILayeredFile, IDisposable
{
    private const int MaxDepth = 200,
        Farthest = 100_000_000;
    private readonly ZipArchive zip;
    private readonly Dictionary<string, ZipArchiveEntry> entries;

    /// <exception cref="UnreadableFileException">The zip is cut short or damaged, or has no readable stack.</exception>
    public OpenRasterFile(Stream content)
    {
        try
        {
            content.Position = 0;
            zip = new ZipArchive(content, ZipArchiveMode.Read, leaveOpen: true);
            if (zip.Entries.Count > Limits.Entries)
                throw new UnreadableFileException(new FileFault(FileFaultCode.TooManyParts, "", Limits.Entries));
            entries = zip.Entries.GroupBy(e => e.FullName).ToDictionary(g => g.Key, g => g.First());
            Stack = ReadStack();
        }
        catch (InvalidDataException e)
        {
            zip?.Dispose();
            throw new UnreadableFileException(FileFaultCode.ContainerUnreadable, e);
        }
        catch
        {
            zip?.Dispose();
            throw;
        }
    }

    private XElement Stack { get; }

    public int Width => Pixels("w");

    public int Height => Pixels("h");

    /// <summary>What is said of the whole canvas; how deep its colours are is each layer's own.</summary>
    public PictureFacts ReadPicture() =>
        new(Width, Height)
        {
            Resolution = Int(Stack, "xres") is > 0 and var resolution ? resolution : null,
            Colour = ColourModel.Rgb,
            HasAlpha = true,
        };

    /// <summary>The picture of all layers, or the thumbnail where a maker left it out; null when neither is there.</summary>
    public Stream? OpenMerged() => Open("mergedimage.png") ?? Open("Thumbnails/thumbnail.png");

    /// <summary>The pixels of one layer; null when the entry is not there.</summary>
    /// <exception cref="UnreadableFileException">The part's own head is damaged.</exception>
    public Stream? Open(string entry)
    {
        try
        {
            return entries.TryGetValue(entry, out var found) ? found.Open() : null;
        }
        catch (InvalidDataException e)
        {
            throw new UnreadableFileException(new FileFault(FileFaultCode.PartDamaged, entry), e);
        }
    }

    /// <summary>The layers as the stack tells them, without what is painted on them.</summary>
    /// <exception cref="UnreadableFileException">There are none, or too many.</exception>
    public IReadOnlyList<LayerFacts> ReadLayers()
    {
        var layers = new List<LayerFacts>();
        Walk(Stack.Element("stack") ?? throw new UnreadableFileException(FileFaultCode.NoLayers), 0, layers);
        return layers;
    }

    /// <summary>Reads every part to its end, so that a damaged one is found, and what is painted on each layer.</summary>
    /// <exception cref="UnreadableFileException">A part is damaged, or a layer has none.</exception>
    public (IReadOnlyList<LayerFacts> Layers, ContentHash? Inside) ReadParts(CancellationToken cancel = default)
    {
        var layers = ReadLayers();
        var painted = layers.Where(l => l.Kind == LayerKind.Pixels).Select(l => l.Source).ToHashSet();
        var parts = new SortedDictionary<string, OpenRasterPart>(StringComparer.Ordinal);
        var budget = new OpenRasterPart.Budget();
        foreach (var (name, entry) in entries)
        {
            cancel.ThrowIfCancellationRequested();
            parts[name] = OpenRasterPart.Read(entry, painted.Contains(name), budget, cancel);
        }
        var text = string.Concat(parts.Select(h => $"{h.Key}\0{h.Value.Bytes}\n"));
        return ([.. layers.Select(l => l.Kind == LayerKind.Pixels ? Painted(l) : l)], ContentHash.Of(Encoding.UTF8.GetBytes(text)));

        LayerFacts Painted(LayerFacts layer)
        {
            if (!parts.TryGetValue(layer.Source, out var part))
                throw new UnreadableFileException(new FileFault(FileFaultCode.LayerWithoutPixels, layer.Name));
            var bounds = part.Painted?.Bounds;
            return layer with
            {
                Bounds = bounds is { } box ? box with { X = box.X + layer.X, Y = box.Y + layer.Y } : null,
                Area = part.Painted?.Area ?? 0,
                Pixels = part.Painted is null ? part.Bytes : part.Painted.Hash,
            };
        }
    }

    /// <summary>The stack without some of its layers.</summary>
    /// <param name="gone">Their places in the list of <see cref="ReadParts"/>.</param>
    internal XDocument StackWithout(IReadOnlySet<int> gone)
    {
        var stack = new XDocument(new XElement(Stack));
        // In the order in which they are listed: each group before what is in it.
        var listed = stack.Root!.Element("stack")!.Descendants().Where(e => e.Name.LocalName is "stack" or "layer").ToList();
        foreach (var index in gone.Where(i => i < listed.Count))
        {
            if (listed[index].Parent is not null)
                listed[index].Remove();
        }
        return stack;
    }

    Image ILayeredFile.OpenLayer(LayerFacts layer) =>
        Pictures.Guard(() =>
            Image.NewFromStream(
                Open(layer.Source) ?? throw new UnreadableFileException(new FileFault(FileFaultCode.LayerWithoutPixels, layer.Name)),
                access: Enums.Access.Sequential
            )
        );

    public void Dispose() => zip.Dispose();

    private XElement ReadStack()
    {
        if (!entries.TryGetValue("stack.xml", out var entry) || entry.Length > Limits.StackBytes)
            throw new UnreadableFileException(FileFaultCode.NoStack);
        try
        {
            using var stream = new BoundedStream(entry.Open(), Limits.StackBytes);
            using var reader = new LimitedXmlReader(
                XmlReader.Create(
                    stream,
                    new XmlReaderSettings
                    {
                        DtdProcessing = DtdProcessing.Prohibit,
                        XmlResolver = null,
                        MaxCharactersInDocument = Limits.StackBytes,
                    }
                ),
                MaxDepth,
                Limits.Layers * 4,
                Limits.Layers * 100
            );
            var root = XDocument.Load(reader).Root!;
            return root.Name.LocalName == "image" ? root : throw new UnreadableFileException(FileFaultCode.StackNotImage);
        }
        catch (XmlException e)
        {
            throw new UnreadableFileException(new FileFault(FileFaultCode.StackUnreadable, "", e.LineNumber), e);
        }
    }

    private int Pixels(string attribute) =>
        int.TryParse((string?)Stack.Attribute(attribute), NumberStyles.None, CultureInfo.InvariantCulture, out var n) && n > 0
            ? n
            : throw new UnreadableFileException(FileFaultCode.NoCanvas);

    private static void Walk(XElement stack, int depth, List<LayerFacts> layers)
    {
        var unnamed = 0;
        foreach (var element in stack.Elements().Where(e => e.Name.LocalName is "stack" or "layer"))
        {
            if (layers.Count >= Limits.Layers)
                throw new UnreadableFileException(new FileFault(FileFaultCode.TooManyLayers, "", Limits.Layers));
            var isGroup = element.Name.LocalName == "stack";
            var name = (string?)element.Attribute("name") is { Length: > 0 } given ? given : $"{(isGroup ? "Group" : "Layer")} {++unnamed}";
            layers.Add(
                new LayerFacts(isGroup ? LayerKind.Group : LayerKind.Pixels, name, depth)
                {
                    Source = isGroup ? "" : (string?)element.Attribute("src") ?? "",
                    // Far enough for any layer, and near enough for sums of places and sizes.
                    X = Math.Clamp(Int(element, "x"), -Farthest, Farthest),
                    Y = Math.Clamp(Int(element, "y"), -Farthest, Farthest),
                    Visible = (string?)element.Attribute("visibility") != "hidden",
                    Opacity = Opacity(element),
                    Blend = Blend((string?)element.Attribute("composite-op")),
                }
            );
            if (isGroup)
                Walk(element, depth + 1, layers);
        }
    }

    // The OpenRaster specification, "Composite operations": names of SVG Compositing, which W3C's later one shortens.
    private static string Blend(string? op) =>
        op switch
        {
            null or "" or "svg:src-over" => LayerFacts.Normal,
            "svg:plus" => "plus-lighter",
            _ when op.StartsWith("svg:", StringComparison.Ordinal) => op[4..],
            _ => op,
        };

    private static int Int(XElement element, string attribute) =>
        int.TryParse((string?)element.Attribute(attribute), NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var n) ? n : 0;

    private static double Opacity(XElement element) =>
        double.TryParse((string?)element.Attribute("opacity"), NumberStyles.Float, CultureInfo.InvariantCulture, out var n)
            ? Math.Clamp(n, 0, 1)
            : 1;
}

/// <summary>Reads at most so many bytes of a stream whose length is not to be believed.</summary>
internal sealed class BoundedStream(Stream inner, long most) : ForwardStream
{
    private long left = most;

    public override int Read(byte[] buffer, int offset, int count)
    {
        var read = inner.Read(buffer, offset, (int)Math.Min(count, left + 1));
        left -= read;
        return left >= 0 ? read : throw new UnreadableFileException(FileFaultCode.PartsTooLarge);
    }

    protected override void Dispose(bool disposing)
    {
        if (disposing)
            inner.Dispose();
        base.Dispose(disposing);
    }
}
