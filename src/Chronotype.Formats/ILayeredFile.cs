using Chronotype.Core.Content;
using NetVips;

namespace Chronotype.Formats;

/// <summary>A file with layers, each of which can be had by itself.</summary>
internal interface ILayeredFile : IDisposable
{
    /// <summary>What is stored of one layer; it stands on the canvas at the layer's <see cref="LayerFacts.X"/> and its Y.</summary>
    /// <exception cref="UnreadableFileException">It is not there, or damaged.</exception>
    Image OpenLayer(LayerFacts layer);
}
