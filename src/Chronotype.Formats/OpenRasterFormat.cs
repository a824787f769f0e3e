using Chronotype.Core.Content;

namespace Chronotype.Formats;

/// <summary>OpenRaster, by <see cref="OpenRasterFile"/>.</summary>
internal sealed class OpenRasterFormat : IFormat
{
    public FileFormat Format => FileFormat.OpenRaster;

    // The OpenRaster specification, "File layout": the first entry is "mimetype", stored, so that its content stands at a fixed place.
    public bool Begins(ReadOnlySpan<byte> head) =>
        head.StartsWith("PK\x03\x04"u8) && head.Length > 54 && head[30..].StartsWith("mimetypeimage/openraster"u8);

    public FileFacts Read(Stream content, CancellationToken cancel) => Read(content, file => file.ReadParts(cancel));

    FileFacts IFormat.Outline(Stream content, CancellationToken cancel) => Read(content, file => (file.ReadLayers(), null));

    private static FileFacts Read(Stream content, Func<OpenRasterFile, (IReadOnlyList<LayerFacts> Layers, ContentHash? Inside)> read)
    {
        using var file = new OpenRasterFile(content);
        var isTooLarge = Limits.TooLarge(file.Width, file.Height) is not null;
        var (layers, inside) = read(file);
        return new FileFacts
        {
            Format = FileFormat.OpenRaster,
            Picture = file.ReadPicture(),
            Layers = layers,
            Inside = inside,
            Notices = isTooLarge ? [new FileNotice(FileNoticeCode.NotDrawn, [], file.Width, file.Height)] : [],
        };
    }

    ILayeredFile? IFormat.OpenLayers(Stream content) => new OpenRasterFile(content);

    NetVips.Image? IFormat.OpenPicture(Stream content, int page, int longest)
    {
        // The file goes with whoever reads its picture, since its parts are read on the way.
        var file = new OpenRasterFile(content);
        var merged = file.OpenMerged() ?? throw new UnreadableFileException(FileFaultCode.NoMergedPicture);
        return NetVips.Image.NewFromStream(merged, access: NetVips.Enums.Access.Sequential);
    }

    public Preview? Draw(Stream content, int side, int page, CancellationToken cancel)
    {
        using var file = new OpenRasterFile(content);
        using var merged = file.OpenMerged() ?? throw new UnreadableFileException(FileFaultCode.NoMergedPicture);
        using var seekable = PreviewMaker.Buffered(merged);
        return PreviewMaker.Shrunk(seekable, side);
    }
}
