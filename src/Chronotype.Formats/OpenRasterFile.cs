using System.Globalization;
using System.IO.Compression;
using System.IO.Hashing;
using System.Security.Cryptography;
using System.Text;
using System.Xml;
using System.Xml.Linq;
using Chronotype.Core.Content;

namespace Chronotype.Formats;

/// <summary>
/// An OpenRaster picture (the OpenRaster specification, "File layout" and "Layer stack"): a zip with a <c>stack.xml</c>,
/// a PNG for each layer and a merged image.
/// </summary>
public sealed class OpenRasterFile : IDisposable
{
    private const int MaxDepth = 200;
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

    /// <summary>Reads every part to its end, so a damaged one is found, and hashes it.</summary>
    /// <exception cref="UnreadableFileException">A part is damaged, or a layer has none.</exception>
    public (IReadOnlyList<LayerFacts> Layers, ContentHash Inside) ReadParts(CancellationToken cancel = default)
    {
        var hashes = new SortedDictionary<string, ContentHash>(StringComparer.Ordinal);
        var budget = Limits.Pixels * 16;
        foreach (var (name, entry) in entries)
        {
            cancel.ThrowIfCancellationRequested();
            hashes[name] = Hash(entry, ref budget);
        }
        var layers = new List<LayerFacts>();
        Walk(Stack.Element("stack") ?? throw new UnreadableFileException(FileFaultCode.NoLayers), "", true, layers, hashes, 0);
        var text = string.Concat(hashes.Select(h => $"{h.Key}\0{h.Value}\n"));
        return (layers, ContentHash.Of(Encoding.UTF8.GetBytes(text)));
    }

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

    private static void Walk(
        XElement stack,
        string group,
        bool shown,
        List<LayerFacts> layers,
        IReadOnlyDictionary<string, ContentHash> hashes,
        int unnamed
    )
    {
        foreach (var element in stack.Elements())
        {
            var name = (string?)element.Attribute("name") is { Length: > 0 } given ? given : $"Layer {++unnamed}";
            var visible = shown && (string?)element.Attribute("visibility") != "hidden";
            if (element.Name.LocalName == "stack")
            {
                Walk(element, group.Length == 0 ? name : $"{group} / {name}", visible, layers, hashes, 0);
            }
            else if (element.Name.LocalName == "layer")
            {
                if (layers.Count >= Limits.Layers)
                    throw new UnreadableFileException(new FileFault(FileFaultCode.TooManyLayers, "", Limits.Layers));
                var source = (string?)element.Attribute("src") ?? "";
                if (!hashes.TryGetValue(source, out var pixels))
                    throw new UnreadableFileException(new FileFault(FileFaultCode.LayerWithoutPixels, name));
                layers.Add(new LayerFacts(name, source, Int(element, "x"), Int(element, "y"), group, visible, Opacity(element), pixels));
            }
        }
    }

    private static int Int(XElement element, string attribute) =>
        int.TryParse((string?)element.Attribute(attribute), NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var n) ? n : 0;

    private static double Opacity(XElement element) =>
        double.TryParse((string?)element.Attribute("opacity"), NumberStyles.Float, CultureInfo.InvariantCulture, out var n)
            ? Math.Clamp(n, 0, 1)
            : 1;

    private static ContentHash Hash(ZipArchiveEntry entry, ref long budget)
    {
        using var sha = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        try
        {
            using var stream = entry.Open();
            // The platform's reader does not hold what it unpacked against the sum in the list of parts.
            var crc = new Crc32();
            var buffer = new byte[1 << 16];
            for (int read; (read = stream.Read(buffer)) > 0; )
            {
                budget -= read;
                if (budget < 0)
                    throw new UnreadableFileException(FileFaultCode.PartsTooLarge);
                sha.AppendData(buffer, 0, read);
                crc.Append(buffer.AsSpan(0, read));
            }
            if (crc.GetCurrentHashAsUInt32() != entry.Crc32)
                throw new InvalidDataException("The part's check sum differs.");
        }
        catch (InvalidDataException e)
        {
            throw new UnreadableFileException(new FileFault(FileFaultCode.PartDamaged, entry.FullName), e);
        }
        return ContentHash.FromDigest(sha.GetHashAndReset());
    }
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
