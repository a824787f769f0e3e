using Chronotype.Core.Content;
using Chronotype.Formats;
using Chronotype.Storage;
using Chronotype.Storage.Content;

namespace Chronotype.Studio.Saves;

/// <summary>Pictures of contents for the screen, made once and kept beside the content; they can be thrown away at any time.</summary>
public sealed class Previews(IContentStore store, DataFolder data) : IDisposable
{
    /// <summary>The longer sides that are made, in pixels.</summary>
    public static readonly IReadOnlyList<int> Sides = [480, 1600];

    // Drawing takes memory and both processors; two at a time are plenty.
    private readonly SemaphoreSlim drawing = new(2);

    /// <returns>The file and its media type; null where there is nothing to see.</returns>
    public async Task<(string Path, string MediaType)?> GetAsync(ContentHash main, int side, CancellationToken cancel = default)
    {
        if (!Sides.Contains(side)) throw new ArgumentOutOfRangeException(nameof(side), side, $"Previews have a side of {string.Join(" or ", Sides)} pixels.");
        if (Find(main, side) is { } known) return known.MediaType.Length > 0 ? known : null;
        await drawing.WaitAsync(cancel);
        try
        {
            if (Find(main, side) is null) await Task.Run(() => Make(main, side, cancel), cancel);
        }
        finally
        {
            drawing.Release();
        }
        return Find(main, side) is { MediaType.Length: > 0 } made ? made : null;
    }

    public void Dispose() => drawing.Dispose();

    private void Make(ContentHash main, int side, CancellationToken cancel)
    {
        Preview? preview = null;
        try
        {
            using var content = store.OpenRead(main);
            preview = PreviewMaker.Make(content, side, cancel);
        }
        catch (UnreadableFileException)
        {
            // The reading tells the person why; here there is nothing to see, which is remembered.
        }
        var target = PathOf(main, side) + (preview is null ? ".none" : preview.MediaType == "image/webp" ? ".webp" : ".svg");
        Directory.CreateDirectory(Path.GetDirectoryName(target)!);
        var temporary = $"{target}.{Guid.NewGuid():N}";
        File.WriteAllBytes(temporary, preview?.Bytes ?? []);
        File.Move(temporary, target, overwrite: true);
    }

    private (string Path, string MediaType)? Find(ContentHash main, int side)
    {
        foreach (var (extension, mediaType) in new[] { (".webp", "image/webp"), (".svg", "image/svg+xml"), (".none", "") })
        {
            var path = PathOf(main, side) + extension;
            if (File.Exists(path)) return (path, mediaType);
        }
        return null;
    }

    private string PathOf(ContentHash main, int side) => Path.Combine(data.Previews, main.ToString()[..2], $"{main.ToString()[2..]}-{side}");
}
