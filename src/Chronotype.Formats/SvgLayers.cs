using Chronotype.Core.Content;
using NetVips;

namespace Chronotype.Formats;

/// <summary>An SVG's layers, each drawn by itself.</summary>
internal sealed class SvgLayers(Stream content) : ILayeredFile
{
    public Image OpenLayer(LayerFacts layer) => Draw(layer, Limits.SvgSide);

    public Image OpenOnCanvas(LayerFacts layer, PictureFacts canvas, int longest) => Draw(layer, longest);

    public void Dispose() { }

    private Image Draw(LayerFacts layer, int longest) =>
        Pictures.Svg(SvgFile.Read(content, layer.Source).Safe, Math.Min(longest, Limits.SvgSide));
}
