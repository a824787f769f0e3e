using System.Numerics;
using Chronotype.Core.Content.Cutting;

namespace Chronotype.Core.Comparing;

/// <summary>Cuts content finely enough to be compared, see <see cref="FastCdc"/>.</summary>
public sealed class ContentChunker
{
    private readonly FastCdc cuts;

    /// <param name="average">The wished mean length in bytes, a power of two from 64 to 1 MiB; chunks have from a quarter to eight times as many.</param>
    public ContentChunker(int average) => cuts = new FastCdc(average / 4, average, average * 8);

    /// <summary>A mean length that cuts <paramref name="length"/> bytes into about 32,000 chunks, within what is allowed.</summary>
    public static ContentChunker ForLength(long length) =>
        new((int)Math.Clamp((long)BitOperations.RoundUpToPowerOf2((ulong)Math.Max(1, length / 32_768)), 64, 1 << 20));

    /// <summary>Reads to the end and hands each chunk over, in order. The span is valid only during the call.</summary>
    public void Cut(Stream content, TakeChunk chunk, CancellationToken cancel = default) => StreamCutter.Cut(content, cuts.Max, cuts.NextCut, chunk, cancel);
}
