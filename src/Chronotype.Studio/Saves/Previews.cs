using System.Text;
using Chronotype.Core.Content;
using Chronotype.Storage;
using Chronotype.Studio.Readers;

namespace Chronotype.Studio.Saves;

/// <summary>A picture of a content that was made, or why there is none.</summary>
/// <param name="Path">The file; null where there is no picture.</param>
/// <param name="MediaType">As RFC 6838 names it.</param>
/// <param name="WhyNot">Why it cannot be drawn, in a sentence; null where it was, or where its kind has nothing to see.</param>
public sealed record Preview(string? Path, string MediaType, string? WhyNot);

/// <summary>Pictures of contents for the screen, made once and kept beside the content; they can be thrown away at any time.</summary>
public sealed class Previews(FileReader reader, DataFolder data) : IDisposable
{
    private const string None = ".none";

    /// <summary>The longer sides that are made, in pixels.</summary>
    public static readonly IReadOnlyList<int> Sides = [480, 1600];

    // One at a time draws the same picture; the others find it made.
    private readonly SemaphoreSlim[] drawing = [.. Enumerable.Range(0, 64).Select(_ => new SemaphoreSlim(1))];

    /// <param name="piece">The piece that it is looked at for.</param>
    /// <exception cref="IOException">The content could not be read from where it is kept, or no reader be had; nothing is remembered.</exception>
    public async Task<Preview> GetAsync(ContentHash main, Guid piece, int side, CancellationToken cancel = default)
    {
        if (!Sides.Contains(side)) throw new ArgumentOutOfRangeException(nameof(side), side, $"Previews have a side of {string.Join(" or ", Sides)} pixels.");
        if (Find(main, side) is { } known) return known;
        var gate = drawing[(uint)HashCode.Combine(main, side) % drawing.Length];
        await gate.WaitAsync(cancel);
        try
        {
            return Find(main, side) ?? await MakeAsync(main, piece, side, cancel);
        }
        finally
        {
            gate.Release();
        }
    }

    public void Dispose()
    {
        foreach (var gate in drawing) gate.Dispose();
    }

    private async Task<Preview> MakeAsync(ContentHash main, Guid piece, int side, CancellationToken cancel)
    {
        try
        {
            var drawn = await reader.DrawAsync(main, piece, side, cancel);
            return drawn is null ? Write(main, side, None, default) : Write(main, side, drawn.MediaType == "image/webp" ? ".webp" : ".svg", drawn.Bytes);
        }
        catch (CannotBeDrawnException e)
        {
            return Write(main, side, None, Encoding.UTF8.GetBytes(e.Message));
        }
    }

    private Preview Write(ContentHash main, int side, string extension, ReadOnlyMemory<byte> bytes)
    {
        var target = PathOf(main, side) + extension;
        Directory.CreateDirectory(Path.GetDirectoryName(target)!);
        var temporary = $"{target}.{Guid.NewGuid():N}";
        using (var file = File.Create(temporary)) file.Write(bytes.Span);
        File.Move(temporary, target, overwrite: true);
        return Find(main, side)!;
    }

    private Preview? Find(ContentHash main, int side)
    {
        foreach (var (extension, mediaType) in new[] { (".webp", "image/webp"), (".svg", "image/svg+xml") })
        {
            var path = PathOf(main, side) + extension;
            if (File.Exists(path)) return new Preview(path, mediaType, null);
        }
        var none = PathOf(main, side) + None;
        return File.Exists(none) ? new Preview(null, "", File.ReadAllText(none) is { Length: > 0 } why ? why : null) : null;
    }

    private string PathOf(ContentHash main, int side) => Path.Combine(data.Previews, main.ToString()[..2], $"{main.ToString()[2..]}-{side}");
}
