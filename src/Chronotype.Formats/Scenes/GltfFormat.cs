using Chronotype.Core.Content;
using Chronotype.Core.Scenes;
using NetVips;

namespace Chronotype.Formats.Scenes;

/// <summary>glTF and GLB, by <see cref="GltfFile"/>.</summary>
internal sealed class GltfFormat : IFormat
{
    public FileFormat Format => FileFormat.Gltf;

    // Written as text, it is told by the members that every scene has, whatever their order.
    public bool Begins(ReadOnlySpan<byte> head)
    {
        if (head.StartsWith("glTF"u8))
            return true;
        if (!head.TrimStart(" \t\r\n\uFEFF"u8).StartsWith("{"u8))
            return false;
        var known = 0;
        foreach (
            var member in (ReadOnlySpan<string>)
                ["\"asset\"", "\"scenes\"", "\"nodes\"", "\"meshes\"", "\"accessors\"", "\"bufferViews\"", "\"buffers\""]
        )
            known += head.IndexOf(System.Text.Encoding.ASCII.GetBytes(member)) >= 0 ? 1 : 0;
        return known >= 2;
    }

    public FileFacts Read(Stream content, CancellationToken cancel)
    {
        using var file = GltfFile.Open(content);
        var reading = new GltfReading(file, cancel);
        var outside = reading.References.Where(r => r.EmbeddedBytes is null).Select(r => r.Written).ToList();
        return new FileFacts
        {
            Format = Format,
            Scene = reading.Scene,
            References = reading.References,
            Notices = outside.Count == 0 ? [] : [new FileNotice(FileNoticeCode.NamesOutside, [.. outside.Take(3)], outside.Count)],
        };
    }

    public Preview? Draw(Stream content, int side, int page, CancellationToken cancel)
    {
        using var file = GltfFile.Open(content);
        var surfaces = GltfSurfaces.Of(file, cancel);
        if (SceneRaster.Box(surfaces) is not { } box)
            return null;
        // Drawn at twice the size and halved, so that edges are smooth.
        var (width, height) = (Math.Min(side, 1600), Math.Min(side, 1600) * 3 / 4);
        var pixels = SceneRaster.Draw(surfaces, width * 2, height * 2, box);
        return Pictures.Guard(() =>
        {
            using var drawn = Image.NewFromMemory(pixels, width * 2, height * 2, 4, Enums.BandFormat.Uchar);
            using var scene = drawn.Copy(interpretation: Enums.Interpretation.Srgb);
            using var small = scene.Resize(0.5);
            return new Preview(small.WebpsaveBuffer(q: 86, effort: 2), "image/webp");
        });
    }
}
