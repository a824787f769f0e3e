using System.Numerics;
using Chronotype.Core.Content.Cutting;

namespace Chronotype.Core.Comparing;

/// <summary>Cuts content finely enough to be compared, see <see cref="FastCdc"/>.</summary>
public sealed class ContentChunker
{
    private readonly FastCdc cuts;

    /// <param name="average">
    /// The wished mean length in bytes, a power of two from 64 to 1 MiB; chunks have from a quarter to eight times as many.
    /// </param>
    public ContentChunker(int average) => cuts = new FastCdc(average / 4, average, average * 8);

    /// <summary>A mean length that cuts <paramref name="length"/> bytes into about 32,000 chunks, within what is allowed.</summary>
    public static ContentChunker ForLength(long length) =>
        new((int)Math.Clamp((long)BitOperations.RoundUpToPowerOf2((ulong)Math.Max(1, length / 32_768)), 64, 1 << 20));

    /// <summary>
    /// Reads to the end, in constant memory, and hands each chunk over, in order. The span is valid only during the call.
    /// </summary>
    public void Cut(Stream content, Action<ReadOnlySpan<byte>> chunk, CancellationToken cancel = default)
    {
        var buffer = new byte[Math.Max(cuts.Max * 2, 1 << 16)];
        int start = 0,
            end = 0;
        var ended = false;
        while (true)
        {
            cancel.ThrowIfCancellationRequested();
            if (!ended && end - start < cuts.Max)
            {
                buffer.AsSpan(start, end - start).CopyTo(buffer);
                (start, end) = (0, end - start);
                while (end < buffer.Length && !ended)
                {
                    var read = content.Read(buffer, end, buffer.Length - end);
                    end += read;
                    ended = read == 0;
                }
            }
            if (start == end)
                return;
            var length = cuts.NextCut(buffer.AsSpan(start, end - start));
            chunk(buffer.AsSpan(start, length));
            start += length;
        }
    }
}
