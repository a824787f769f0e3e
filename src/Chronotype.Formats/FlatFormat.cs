using Chronotype.Core.Content;

namespace Chronotype.Formats;

/// <summary>A flat picture that the picture library reads.</summary>
/// <param name="format">Which.</param>
/// <param name="beginnings">A file of the format begins with one of these.</param>
internal class FlatFormat(FileFormat format, params byte[][] beginnings) : IFormat
{
    public FileFormat Format => format;

    public virtual bool Begins(ReadOnlySpan<byte> head)
    {
        foreach (var beginning in beginnings)
        {
            if (head.StartsWith(beginning))
                return true;
        }
        return false;
    }

    public FileFacts Header(Stream content)
    {
        var picture = Pictures.Describe(content, Format);
        return new FileFacts
        {
            Format = Format,
            Picture = picture,
            Fault = Limits.TooLarge(picture.Width, picture.Height),
        };
    }

    public FileFacts Read(Stream content, CancellationToken cancel)
    {
        var facts = Header(content);
        if (facts.Fault is null)
            Pictures.Check(content);
        return facts;
    }

    NetVips.Image? IFormat.OpenPicture(Stream content, int page, int longest) => Pictures.Page(content, page);

    public Preview? Draw(Stream content, int side, int page, CancellationToken cancel) =>
        page > 0 ? new Preview(Pictures.ShrinkPage(content, page, side), "image/webp") : PreviewMaker.Shrunk(content, side);
}

/// <summary>WebP (RFC 9649): a RIFF container, as a WAVE file is.</summary>
internal sealed class WebPFormat() : FlatFormat(FileFormat.WebP)
{
    public override bool Begins(ReadOnlySpan<byte> head) =>
        head.Length >= 12 && head.StartsWith("RIFF"u8) && head[8..].StartsWith("WEBP"u8);
}
