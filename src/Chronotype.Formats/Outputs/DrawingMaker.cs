using System.Text;
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
    /// <param name="output">Left open.</param>
    /// <exception cref="UnreadableFileException">It is no drawing, cannot be read, or there is nothing to cut in it.</exception>
    public static MadeOutput Make(Stream content, DrawingRecipe recipe, Stream output, CancellationToken cancel)
    {
        if (FormatList.Of(content)?.Format != FileFormat.Svg)
            throw new UnreadableFileException(FileFaultCode.NotUnderstood);
        if (recipe.File == DrawingFile.Svg)
        {
            CarriedParts.WithoutSettings(content, output, cancel);
            return new MadeOutput(null);
        }
        var (strokes, width, height) = SvgStrokes.Of(content, recipe);
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
        };
    }
}
