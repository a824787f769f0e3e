using System.Text;
using Chronotype.Core.Content;

namespace Chronotype.Formats;

/// <summary>SVG, by <see cref="SvgFile"/>.</summary>
internal sealed class SvgFormat : IFormat
{
    public FileFormat Format => FileFormat.Svg;

    public bool Begins(ReadOnlySpan<byte> head)
    {
        var text =
            head.StartsWith((ReadOnlySpan<byte>)[0xFF, 0xFE]) ? Encoding.Unicode.GetString(head)
            : head.StartsWith((ReadOnlySpan<byte>)[0xFE, 0xFF]) ? Encoding.BigEndianUnicode.GetString(head)
            : Encoding.UTF8.GetString(head);
        text = text.TrimStart('\uFEFF', ' ', '\t', '\r', '\n');
        if (!text.StartsWith('<'))
            return false;
        var at = text.IndexOf("<svg", StringComparison.Ordinal);
        if (at < 0)
            at = text.IndexOf(":svg", StringComparison.Ordinal);
        return at >= 0 || text.Contains("<!DOCTYPE svg", StringComparison.Ordinal);
    }

    public FileFacts Read(Stream content, CancellationToken cancel)
    {
        var svg = SvgFile.Read(content);
        var (width, height) = Pictures.Measure(svg.Safe);
        return new FileFacts
        {
            Format = Format,
            Picture = new PictureFacts(width, height),
            Layers = svg.Layers,
            References = svg.References,
            Notices =
                svg.OutsideNames.Count == 0
                    ? []
                    : [new FileNotice(FileNoticeCode.NamesOutside, [.. svg.OutsideNames.Take(3)], svg.OutsideNames.Count)],
        };
    }

    ILayeredFile? IFormat.OpenLayers(Stream content) => new SvgLayers(content);

    NetVips.Image? IFormat.OpenPicture(Stream content, int page, int longest) =>
        Pictures.Svg(SvgFile.Read(content).Safe, Math.Min(longest, Limits.SvgSide));

    public Preview? Draw(Stream content, int side, int page, CancellationToken cancel) =>
        new(Pictures.ShrinkSvg(SvgFile.Read(content).Safe, Math.Min(side, Limits.SvgSide)), "image/webp");
}
