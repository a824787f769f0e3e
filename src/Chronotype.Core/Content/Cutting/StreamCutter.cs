namespace Chronotype.Core.Content.Cutting;

/// <summary>Says how long the next chunk is.</summary>
/// <param name="bytes">What comes, not empty: as many bytes as were asked for, or all that are left.</param>
/// <returns>1 to the number of bytes.</returns>
public delegate int NextCut(ReadOnlySpan<byte> bytes);

/// <summary>Takes one chunk, which is valid only during the call.</summary>
public delegate void TakeChunk(ReadOnlySpan<byte> chunk);

/// <summary>Cuts a stream in one pass and constant memory.</summary>
public static class StreamCutter
{
    /// <summary>Reads to the end and hands each chunk over, in order.</summary>
    /// <param name="sight">How many bytes <paramref name="next"/> wants to see.</param>
    public static void Cut(Stream content, int sight, NextCut next, TakeChunk chunk, CancellationToken cancel = default)
    {
        var buffer = new byte[Math.Max(sight * 2, 1 << 16)];
        int start = 0, end = 0;
        var ended = false;
        while (true)
        {
            cancel.ThrowIfCancellationRequested();
            if (!ended && end - start < sight)
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
            if (start == end) return;
            var length = next(buffer.AsSpan(start, end - start));
            chunk(buffer.AsSpan(start, length));
            start += length;
        }
    }
}
