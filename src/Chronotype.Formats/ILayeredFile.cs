using Chronotype.Core.Content;
using NetVips;

namespace Chronotype.Formats;

/// <summary>A file with layers, each of which can be had by itself.</summary>
internal interface ILayeredFile : IDisposable
{
    /// <summary>What is stored of one layer; it stands on the canvas at the layer's <see cref="LayerFacts.X"/> and its Y.</summary>
    /// <exception cref="UnreadableFileException">It is not there, or damaged.</exception>
    Image OpenLayer(LayerFacts layer);

    /// <summary>One layer at its place, on a canvas that is empty else.</summary>
    /// <param name="canvas">How large the canvas is.</param>
    /// <param name="longest">Of what has no pixels of its own, the longer side that it is drawn at.</param>
    /// <exception cref="UnreadableFileException">It is not there, or damaged.</exception>
    Image OpenOnCanvas(LayerFacts layer, PictureFacts canvas, int longest)
    {
        using var layerImage = OpenLayer(layer);
        using var withAlpha = layerImage.HasAlpha()
            ? layerImage.Copy()
            : layerImage.Bandjoin(layerImage.Format == Enums.BandFormat.Ushort ? ushort.MaxValue : byte.MaxValue);
        return withAlpha.Embed(layer.X, layer.Y, canvas.Width, canvas.Height);
    }
}
