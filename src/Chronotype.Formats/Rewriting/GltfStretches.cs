using System.Text.Json.Nodes;
using Chronotype.Core.Content;
using static Chronotype.Formats.Rewriting.GltfTree;

namespace Chronotype.Formats.Rewriting;

/// <summary>
/// The bytes of buffers that some accessors and pictures of a scene need, view by view, and within a view stretch by stretch (glTF 2.0,
/// 3.6.2): others share their views with what is left out. Of a buffer in a file of its own nothing is cut.
/// </summary>
internal sealed class GltfStretches
{
    private readonly List<JsonObject> views;
    private readonly List<JsonObject> buffers;

    // Of each buffer that is inside its bytes, and what is left of them.
    private readonly byte[]?[] whole;
    private readonly MemoryStream[] left;

    public GltfStretches(List<JsonObject> views, List<JsonObject> buffers, Stream content, (long At, long Length) binary)
    {
        (this.views, this.buffers) = (views, buffers);
        whole =
        [
            .. buffers.Select(
                (b, i) =>
                    i == 0 && b["uri"] is null && binary.Length > 0 ? Bytes(content, binary.At, binary.Length)
                    : Text(b["uri"]) is { } uri ? DataUri.Read(uri)
                    : null
            ),
        ];
        left = [.. buffers.Select(_ => new MemoryStream())];
    }

    /// <summary>Cuts a view to what accessors need of it, each stretch a view of its own, and has them count on that.</summary>
    /// <param name="accessors">All that stay and name the view.</param>
    /// <param name="isWhole">Others need it, too, and all of it.</param>
    /// <returns>The numbers of the views that are there in its place.</returns>
    public IEnumerable<int> Cut(int view, IReadOnlyList<JsonObject> accessors, bool isWhole)
    {
        var told = views[view];
        var extensions = (told["extensions"] as JsonObject ?? []).Select(e => e.Value).OfType<JsonObject>().ToList();
        // An extension holds the same bytes compressed.
        foreach (var packed in extensions.Where(e => e["buffer"] is not null))
            Take(packed, 0, Length(packed));
        if (isWhole || extensions.Count > 0 || Inside(told) is null)
        {
            Take(told, 0, Length(told));
            return [view];
        }
        var made = new List<int>();
        var stretches = accessors
            .Select(a => (Accessor: a, From: OffsetOf(a), End: OffsetOf(a) + Extent(a, told)))
            .OrderBy(s => s.From)
            .ToList();
        for (var i = 0; i < stretches.Count; )
        {
            var (from, end, first) = (stretches[i].From, stretches[i].End, i);
            for (; i < stretches.Count && (i == first || stretches[i].From < end); i++)
                end = Math.Max(end, stretches[i].End);
            var cut = (JsonObject)told.DeepClone();
            Take(cut, from, end - from);
            made.Add(views.Count);
            for (var s = first; s < i; s++)
            {
                stretches[s].Accessor["bufferView"] = (long)views.Count;
                stretches[s].Accessor["byteOffset"] = stretches[s].From - from;
            }
            views.Add(cut);
        }
        return made;
    }

    /// <summary>Writes into the buffers that stay what is left of them.</summary>
    /// <returns>The binary chunk; null for none.</returns>
    public byte[]? Write(IEnumerable<int> stay)
    {
        byte[]? chunk = null;
        foreach (var buffer in stay.Where(b => whole[b] is not null))
        {
            buffers[buffer]["byteLength"] = left[buffer].Length;
            if (buffers[buffer]["uri"] is null)
                chunk = left[buffer].ToArray();
            else
                buffers[buffer]["uri"] = DataUri.Write("application/octet-stream", left[buffer].ToArray(), "");
        }
        return chunk;
    }

    private void Take(JsonObject view, long from, long length)
    {
        if (Inside(view) is not var (buffer, bytes))
            return;
        var at = OffsetOf(view) + from;
        if (from < 0 || length <= 0 || from + length > Length(view) || at < 0 || at + length > bytes.Length)
            throw new UnreadableFileException(FileFaultCode.NotUnderstood);
        // Whatever counts on where the bytes began goes on doing so.
        var pad = (Alignment - left[buffer].Length % Alignment) % Alignment + at % Alignment;
        left[buffer].Write(new byte[pad]);
        view["byteOffset"] = left[buffer].Length;
        view["byteLength"] = length;
        left[buffer].Write(bytes, (int)at, (int)length);
    }

    private (int Buffer, byte[] Bytes)? Inside(JsonObject view) =>
        Number(view["buffer"]) is { } b && b >= 0 && b < whole.Length && whole[b] is { } bytes ? ((int)b, bytes) : null;

    // 3.6.2.2 and 3.6.2.4: the columns of a matrix begin at multiples of 4 bytes.
    private static long Extent(JsonObject accessor, JsonObject view)
    {
        var size = Number(accessor["componentType"]) switch
        {
            5120 or 5121 => 1,
            5122 or 5123 => 2,
            5125 or 5126 => 4,
            _ => throw new UnreadableFileException(FileFaultCode.NotUnderstood),
        };
        long element = Text(accessor["type"]) switch
        {
            "SCALAR" => size,
            "VEC2" => 2 * size,
            "VEC3" => 3 * size,
            "VEC4" => 4 * size,
            "MAT2" => 2 * Column(2 * size),
            "MAT3" => 3 * Column(3 * size),
            "MAT4" => 4 * Column(4 * size),
            _ => throw new UnreadableFileException(FileFaultCode.NotUnderstood),
        };
        var count = Number(accessor["count"]) ?? 0;
        var stride = Number(view["byteStride"]) ?? element;
        if (count <= 0 || count > int.MaxValue || stride is < 0 or > 65_536)
            throw new UnreadableFileException(FileFaultCode.NotUnderstood);
        return (count - 1) * stride + element;
    }

    private static long Column(long bytes) => (bytes + 3) / 4 * 4;

    private static long OffsetOf(JsonObject told) => Number(told["byteOffset"]) ?? 0;

    private static long Length(JsonObject view) => Number(view["byteLength"]) ?? 0;
}
