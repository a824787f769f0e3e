using System.Text;
using System.Text.RegularExpressions;
using System.Xml;
using System.Xml.Linq;
using Chronotype.Core.Content;
using Chronotype.Core.Outputs;
using Chronotype.Core.Sound;
using Chronotype.Formats.Outputs;
using Chronotype.Formats.Sound;

namespace Chronotype.Formats.Rewriting;

/// <summary>
/// Puts parts of one file into another of its kind: layers into a layered picture, elements into a drawing, nodes into a scene, a
/// stretch into a sound. All that was there stays.
/// </summary>
public static partial class PartPutter
{
    /// <param name="target">Seekable; what the parts are put into.</param>
    /// <param name="source">Seekable; what they are of, of the same kind.</param>
    /// <param name="chosen">Layers or nodes of the source, by their places in what was read; of a sound none.</param>
    /// <param name="name">What the source is called, for the group that they come into.</param>
    /// <param name="stretch">Of a sound, what is put in; null for all of it.</param>
    /// <param name="at">Of a sound, at which second of the target.</param>
    /// <param name="output">Seekable and empty; left open.</param>
    /// <exception cref="UnreadableFileException">A file cannot be read, the two are not of one kind, or there is no such part.</exception>
    public static void Put(
        Stream target,
        Stream source,
        IReadOnlyList<int> chosen,
        string name,
        SoundStretch? stretch,
        double at,
        Stream output,
        CancellationToken cancel = default
    )
    {
        var (into, from) = (FormatList.Of(target)?.Format, FormatList.Of(source)?.Format);
        if (into is FileFormat.OpenRaster && from == into)
            Checked(made => OpenRaster(target, source, chosen, name, made), output, cancel);
        else if (into is FileFormat.Svg && from == into)
            Checked(made => Svg(target, source, FormatReader.ReadSound(source, cancel), chosen, name, made), output, cancel);
        else if (into is FileFormat.Gltf && from == into)
            Scene(target, source, FormatReader.ReadSound(source, cancel), chosen, name, output, cancel);
        else
            Sound(target, source, FormatReader.ReadSound(target, cancel), stretch, at, output, cancel);
    }

    // What is made is read, all of it, before anybody has it.
    private static void Checked(Func<Stream, int> write, Stream output, CancellationToken cancel)
    {
        using var made = TemporaryFile.Open();
        var layers = write(made);
        if (FormatReader.ReadSound(made, cancel).LayerCount != layers)
            throw new UnreadableFileException(FileFaultCode.NotUnderstood);
        made.Position = 0;
        made.CopyTo(output);
    }

    private static void Scene(
        Stream target,
        Stream source,
        FileFacts from,
        IReadOnlyList<int> chosen,
        string name,
        Stream output,
        CancellationToken cancel
    )
    {
        var nodes = chosen.Where(FileParts.Of(from).Contains).Select(i => from.Scene!.Parts[i].Index).Distinct().ToList();
        if (nodes.Count == 0)
            throw new UnreadableFileException(FileFaultCode.NoLayers);
        using var kept = TemporaryFile.Open();
        GltfCutter.Keep(source, nodes, kept);
        using var made = TemporaryFile.Open();
        var count = GltfJoiner.Join(target, kept, name, made);
        if (FormatReader.ReadSound(made, cancel).Scene!.Parts.Count(p => p.Kind == ScenePartKind.Node) != count)
            throw new UnreadableFileException(FileFaultCode.NotUnderstood);
        made.Position = 0;
        made.CopyTo(output);
    }

    private static int OpenRaster(Stream target, Stream source, IReadOnlyList<int> chosen, string name, Stream output)
    {
        using var into = new OpenRasterFile(target);
        using var other = new OpenRasterFile(source);
        var stack = into.StackWithout(new HashSet<int>());
        // In the order in which they are read: each group before what is in it.
        var listed = other.StackWithout(new HashSet<int>()).Root!.Element("stack")!.Descendants();
        var taken = listed
            .Where(e => e.Name.LocalName is "stack" or "layer")
            .Where((e, i) => e.Name.LocalName == "layer" && chosen.Contains(i))
            .ToList();
        if (taken.Count == 0)
            throw new UnreadableFileException(FileFaultCode.NoLayers);
        var used = stack.Descendants("layer").Select(l => (string?)l.Attribute("src")).ToHashSet();
        var origins = new Dictionary<string, string>();
        var group = new XElement("stack", new XAttribute("name", name));
        foreach (var layer in taken)
        {
            var old = (string?)layer.Attribute("src") ?? "";
            var place = $"data/put-{origins.Count + 1}.png";
            for (var n = 2; used.Contains(place) || origins.ContainsKey(place); n++)
                place = $"data/put-{origins.Count + 1}-{n}.png";
            origins[place] = old;
            var copy = new XElement(layer);
            copy.SetAttributeValue("src", place);
            group.Add(copy);
        }
        // On top of all, so that it is seen.
        stack.Root!.Element("stack")!.AddFirst(group);
        OpenRasterCutter.Write(
            entry => origins.TryGetValue(entry, out var old) ? other.Open(old) : into.Open(entry),
            stack,
            into.Width,
            into.Height,
            output
        );
        return stack.Descendants("layer").Count();
    }

    private static int Svg(Stream target, Stream source, FileFacts from, IReadOnlyList<int> chosen, string name, Stream output)
    {
        var leaves = chosen
            .Where(i => i >= 0 && i < from.Layers.Count && from.Layers[i].Kind != LayerKind.Group)
            .Distinct()
            .Order()
            .ToList();
        if (leaves.Count == 0)
            throw new UnreadableFileException(FileFaultCode.NoLayers);
        var into = SvgFile.Tree(target);
        var other = SvgFile.Tree(source);
        var named = other.DescendantsAndSelf().Where(e => e.Attribute("id") is not null).GroupBy(e => e.Attribute("id")!.Value);
        var byId = named.ToDictionary(g => g.Key, g => g.First());
        var group = new XElement(into.Name.Namespace + "g", new XAttribute("id", "put"), new XAttribute("aria-label", name));
        var elements = leaves.Select(i => new XElement(At(other, from.Layers[i].Source))).ToList();
        // What they are drawn with comes along, and what that is drawn with.
        var needed = new Dictionary<string, XElement>();
        var open = new Queue<XElement>(elements);
        while (open.TryDequeue(out var element))
        {
            foreach (var id in Named(element).Where(id => byId.ContainsKey(id) && !needed.ContainsKey(id)))
            {
                needed[id] = new XElement(byId[id]);
                open.Enqueue(needed[id]);
            }
        }
        if (needed.Count > 0)
            group.Add(new XElement(into.Name.Namespace + "defs", needed.Values));
        // An identity is one element's alone: theirs give way where they are taken.
        var taken = into.DescendantsAndSelf().Select(e => e.Attribute("id")?.Value).ToHashSet();
        group.Add(elements);
        Rename(group, taken);
        into.Add(group);
        using var writer = XmlWriter.Create(output, new XmlWriterSettings { Encoding = new UTF8Encoding(false), CloseOutput = false });
        into.Document!.Save(writer);
        return SvgOutline.Layers(into).Count(l => l.Kind != LayerKind.Group);
    }

    private static XElement At(XElement root, string way)
    {
        var at = root;
        foreach (var step in way.Split('/'))
            at = at.Elements().ElementAt(int.Parse(step, System.Globalization.CultureInfo.InvariantCulture));
        return at;
    }

    private static IEnumerable<string> Named(XElement element) =>
        element
            .DescendantsAndSelf()
            .Attributes()
            .SelectMany(a =>
                a.Name.LocalName == "href" && a.Value.TrimStart().StartsWith('#') ? [a.Value.Trim()[1..]] : SvgOutline.LocalUrls(a.Value)
            );

    private static void Rename(XElement group, HashSet<string?> taken)
    {
        var renamed = new Dictionary<string, string>();
        foreach (var element in group.DescendantsAndSelf().Where(e => e.Attribute("id") is not null))
        {
            var id = element.Attribute("id")!.Value;
            var free = id;
            for (var n = 2; taken.Contains(free); n++)
                free = $"{id}-{n}";
            taken.Add(free);
            element.SetAttributeValue("id", free);
            if (free != id)
                renamed[id] = free;
        }
        if (renamed.Count == 0)
            return;
        foreach (var attribute in group.DescendantsAndSelf().Attributes().Where(a => a.Value.Contains('#')).ToList())
        {
            if (attribute.Name.LocalName == "href" && renamed.TryGetValue(attribute.Value.Trim().TrimStart('#'), out var target))
                attribute.Value = $"#{target}";
            else if (attribute.Value.Contains("url(", StringComparison.OrdinalIgnoreCase))
                attribute.Value = LocalUrl()
                    .Replace(attribute.Value, m => renamed.TryGetValue(m.Groups[1].Value, out var now) ? $"url(#{now})" : m.Value);
        }
    }

    [GeneratedRegex("""url\(\s*["']?#([^"')\s]*)["']?\s*\)""", RegexOptions.IgnoreCase)]
    private static partial Regex LocalUrl();

    // The target up to the place, the stretch at its rate and in its channels, and the rest of the target.
    private static void Sound(
        Stream target,
        Stream source,
        FileFacts into,
        SoundStretch? stretch,
        double at,
        Stream output,
        CancellationToken cancel
    )
    {
        var facts = into.Sound ?? throw new UnreadableFileException(FileFaultCode.NotUnderstood);
        var seconds = facts.Duration.TotalSeconds;
        if (SoundRecipe.Same(into.Format) is not { } file || facts.IsFloat || facts.Bits > 24)
            throw new UnreadableFileException(FileFaultCode.NotUnderstood);
        if (at is not (>= 0) || at > seconds || stretch is { From: < 0 } or { Seconds: <= 0 })
            throw new UnreadableFileException(FileFaultCode.OutsideOfIt);
        using var copy = TemporaryFile.Open();
        target.Position = 0;
        target.CopyTo(copy);
        long Frames(double s) => (long)Math.Round(s * facts.SampleRate);
        SoundStream Open(Stream content)
        {
            content.Position = 0;
            return FormatList.Of(content)?.OpenSound(content) ?? throw new UnreadableFileException(FileFaultCode.NoSamples);
        }
        var put = Open(source);
        if (put.Facts.SampleRate != facts.SampleRate)
            put = new RateConverter(put, facts.SampleRate);
        var part = new ShapedSound(
            put,
            Frames(stretch?.From ?? 0),
            stretch is null ? long.MaxValue : Frames(stretch.Seconds),
            facts.Channels,
            1,
            0,
            0
        );
        if (part.Facts.Frames == 0)
            throw new UnreadableFileException(FileFaultCode.OutsideOfIt);
        using var joined = new JoinedSound([
            new ShapedSound(Open(target), 0, Frames(at), facts.Channels, 1, 0, 0),
            part,
            new ShapedSound(Open(copy), Frames(at), long.MaxValue, facts.Channels, 1, 0, 0),
        ]);
        var bits = facts.Bits <= 16 ? 16 : 24;
        // What was there is written as it was; of what is put in, rounding to whole samples is all that is lost.
        var dither = new Dither(bits, isDithered: false);
        SoundMaker.Write(file, joined, bits, dither, output, cancel);
    }
}
