using System.Globalization;
using System.Text.Json;
using Chronotype.Core.Content;

namespace Chronotype.Formats.Films;

/// <summary>
/// Moving pictures in ISO base media files (ISO/IEC 14496-12: MP4, MOV) and Matroska (RFC 9559, WebM). Browsers play them; their length,
/// size, rate and a still are told by <c>ffmpeg</c> where it stands on this machine, and without it they are carried as they are.
/// </summary>
internal sealed class FilmFormat : IFormat
{
    private const int Patience = 20_000;

    // What only holds stills, though it begins alike.
    private static readonly string[] StillBrands = ["heic", "heix", "heim", "heis", "mif1", "msf1", "avif", "avis"];

    public FileFormat Format => FileFormat.Film;

    public bool Begins(ReadOnlySpan<byte> head) => Container(head) is not null;

    public FileFacts Read(Stream content, CancellationToken cancel)
    {
        if (ExternalTool.Find("ffprobe") is not { } probe)
            return new FileFacts { Format = Format };
        return WithFile(
            content,
            new FileFacts { Format = Format },
            (file, container) =>
            {
                var told = ExternalTool.Run(
                    probe,
                    Patience,
                    ["-v", "error", .. Safely(container), "-of", "json", "-show_format", "-show_streams", file],
                    cancel
                );
                return told is null
                    ? new FileFacts { Format = Format, Fault = new FileFault(FileFaultCode.FilmUnreadable) }
                    : new FileFacts { Format = Format, Film = Told(told) };
            }
        );
    }

    public Preview? Draw(Stream content, int side, int page, CancellationToken cancel)
    {
        if (ExternalTool.Find("ffmpeg") is not { } tool || Read(content, cancel).Film is not { } film)
            return null;
        return WithFile(
            content,
            (Preview?)null,
            (file, container) =>
            {
                // A tenth in: most begin in the dark.
                var at = (film.Seconds / 10).ToString("0.###", CultureInfo.InvariantCulture);
                var still = $"{file}.png";
                try
                {
                    string[] how = ["-ss", at, "-threads", "1", "-i", file, "-frames:v", "1", "-an", "-threads", "1", "-y", still];
                    if (
                        ExternalTool.Run(tool, Patience, ["-nostdin", "-v", "error", .. Safely(container), .. how], cancel) is null
                        || !File.Exists(still)
                    )
                        return null;
                    using var drawn = File.OpenRead(still);
                    return FormatList.Of(FileFormat.Png)!.Draw(drawn, side, 0, cancel);
                }
                finally
                {
                    File.Delete(still);
                }
            }
        );
    }

    // The demuxer is told, so that no list of other files is taken for a film; and nothing but the file itself is opened.
    private static string[] Safely(string container) => ["-protocol_whitelist", "file", "-f", container];

    private static string? Container(ReadOnlySpan<byte> head)
    {
        if (head.StartsWith((ReadOnlySpan<byte>)[0x1A, 0x45, 0xDF, 0xA3]))
            return "matroska";
        if (head.Length < 12 || !head[4..].StartsWith("ftyp"u8))
            return null;
        var brand = System.Text.Encoding.ASCII.GetString(head[8..12]);
        return Array.IndexOf(StillBrands, brand) >= 0 ? null : "mov";
    }

    private static FilmFacts? Told(string json)
    {
        using var document = JsonDocument.Parse(json, new JsonDocumentOptions { MaxDepth = 32 });
        var root = document.RootElement;
        JsonElement? picture = null;
        var hasSound = false;
        if (root.TryGetProperty("streams", out var streams))
        {
            foreach (var stream in streams.EnumerateArray())
            {
                var kind = Text(stream, "codec_type");
                hasSound |= kind == "audio";
                if (kind == "video" && picture is null)
                    picture = stream;
            }
        }
        if (picture is not { } film)
            return null;
        var seconds = Number(Text(film, "duration"));
        if (seconds == 0 && root.TryGetProperty("format", out var format))
            seconds = Number(Text(format, "duration"));
        return new FilmFacts(
            film.TryGetProperty("width", out var width) ? width.GetInt32() : 0,
            film.TryGetProperty("height", out var height) ? height.GetInt32() : 0,
            Rate(Text(film, "avg_frame_rate")),
            seconds,
            hasSound,
            Text(film, "codec_name")
        );
    }

    private static string Text(JsonElement element, string name) =>
        element.TryGetProperty(name, out var value) && value.ValueKind == JsonValueKind.String ? value.GetString()! : "";

    private static double Number(string text) =>
        double.TryParse(text, NumberStyles.Float, CultureInfo.InvariantCulture, out var number) && double.IsFinite(number) ? number : 0;

    private static double Rate(string text) =>
        text.Split('/') is [var a, var b] && Number(b) > 0 ? Math.Round(Number(a) / Number(b), 3) : 0;

    // It needs a file that it can go about in.
    private T WithFile<T>(Stream content, T without, Func<string, string, T> work)
    {
        var head = new byte[64];
        content.Position = 0;
        var read = content.ReadAtLeast(head, head.Length, throwOnEndOfStream: false);
        if (Container(head.AsSpan(0, read)) is not { } container)
            return without;
        var file = Path.Combine(Path.GetTempPath(), $"film-{Guid.NewGuid():N}");
        try
        {
            using (var copy = File.Create(file))
            {
                content.Position = 0;
                content.CopyTo(copy);
            }
            return work(file, container);
        }
        catch (IOException) when (content.Length > Limits.FilmBytes)
        {
            // Longer than may be set aside here: it is carried and played all the same.
            return without;
        }
        finally
        {
            File.Delete(file);
        }
    }
}
