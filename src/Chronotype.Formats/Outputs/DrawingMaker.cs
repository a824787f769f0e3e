using System.Text;
using System.Xml.Linq;
using Chronotype.Core.Content;
using Chronotype.Core.Drawings;
using Chronotype.Core.Outputs;
using Chronotype.Formats.Drawings;
using Chronotype.Formats.Rewriting;

namespace Chronotype.Formats.Outputs;

/// <summary>Makes drawings by recipes that stay drawings.</summary>
internal static class DrawingMaker
{
    /// <param name="content">Seekable; read from its beginning, left open.</param>
    /// <param name="typefaces">Files of typefaces that are at hand beside those of the machine.</param>
    /// <param name="output">Left open.</param>
    /// <exception cref="UnreadableFileException">It is no drawing, cannot be read, or there is nothing to cut in it.</exception>
    public static MadeOutput Make(
        Stream content,
        DrawingRecipe recipe,
        IReadOnlyList<Stream> typefaces,
        Stream output,
        CancellationToken cancel
    )
    {
        if (FormatList.Of(content)?.Format != FileFormat.Svg)
            throw new UnreadableFileException(FileFaultCode.NotUnderstood);
        if (recipe is { File: DrawingFile.Svg, OutlinesTexts: false })
        {
            CarriedParts.WithoutSettings(content, output, cancel);
            return new MadeOutput(null);
        }
        using var known = new Typefaces(typefaces);
        var texts = new SvgTextOutlines(known);
        return recipe.File == DrawingFile.Svg ? Plain(content, texts, output, cancel) : Cut(content, recipe, texts, output, cancel);
    }

    private static MadeOutput Plain(Stream content, SvgTextOutlines texts, Stream output, CancellationToken cancel)
    {
        using var bare = TemporaryFile.Open();
        CarriedParts.WithoutSettings(content, bare, cancel);
        var root = SvgFile.Tree(bare);
        SvgStyles.Inline(root);
        var outlines = texts.Of(root).ToDictionary(t => t.Text, t => t.Outlines);
        cancel.ThrowIfCancellationRequested();
        bare.Position = 0;
        using var made = TemporaryFile.Open();
        SvgCutter.Replace(
            bare,
            [.. Ways(root, "").Where(w => outlines.ContainsKey(w.Element)).Select(w => (w.Way, Written(w.Element)))],
            made
        );
        // What is given out can be read: a text that was written wrongly is found here, and not by who gets it.
        FormatReader.ReadSound(made, cancel);
        made.Position = 0;
        made.CopyTo(output);
        return new MadeOutput(null) { Texts = texts.Told };

        // With the names that are known where it stands, which are not told again, and in letters that every coding has.
        string Written(XElement text)
        {
            var around = new XElement(
                text.Name,
                text.AncestorsAndSelf().SelectMany(e => e.Attributes()).Where(a => a.IsNamespaceDeclaration).DistinctBy(a => a.Name)
            );
            around.Add(outlines[text]);
            var all = around.ToString(SaveOptions.DisableFormatting | SaveOptions.OmitDuplicateNamespaces);
            var inner = all[(all.IndexOf('>') + 1)..all.LastIndexOf("</", StringComparison.Ordinal)];
            return string.Concat(inner.EnumerateRunes().Select(r => r.IsAscii ? r.ToString() : $"&#{r.Value};"));
        }
    }

    private static IEnumerable<(XElement Element, string Way)> Ways(XElement parent, string above)
    {
        var i = 0;
        foreach (var element in parent.Elements())
        {
            var way = above.Length == 0 ? $"{i}" : $"{above}/{i}";
            i++;
            yield return (element, way);
            foreach (var inner in Ways(element, way))
                yield return inner;
        }
    }

    private static MadeOutput Cut(Stream content, DrawingRecipe recipe, SvgTextOutlines texts, Stream output, CancellationToken cancel)
    {
        var root = SvgFile.Tree(content);
        SvgStyles.Inline(root);
        foreach (var (text, outlines) in texts.Of(root))
            text.ReplaceWith(outlines);
        var (strokes, width, height) = SvgStrokes.Of(root, recipe);
        if (strokes.Count == 0)
            throw new UnreadableFileException(FileFaultCode.NoStrokes);
        cancel.ThrowIfCancellationRequested();
        using (var writer = new StreamWriter(output, new UTF8Encoding(false), 1 << 16, leaveOpen: true) { NewLine = "\n" })
        {
            if (recipe.File == DrawingFile.Hpgl)
                CutFile.WriteHpgl(strokes, height, writer);
            else
                CutFile.WriteDxf(strokes, height, writer);
        }
        return new MadeOutput(null)
        {
            Strokes = new(strokes.Count, strokes.Sum(s => s.Length), width, height, [.. strokes.Select(s => s.Tool).Distinct()]),
            Texts = texts.Told,
        };
    }
}
