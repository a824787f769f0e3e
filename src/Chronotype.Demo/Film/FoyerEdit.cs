using System.Text.Json;

namespace Chronotype.Demo.Film;

/// <summary>A clip of the foyer film; a gap where it has no medium.</summary>
/// <param name="Name">What it shows.</param>
/// <param name="Seconds">How long.</param>
/// <param name="From">Where in its medium it begins, in seconds.</param>
/// <param name="Media">The file that it plays, from the edit's own folder.</param>
internal sealed record FoyerClip(string Name, double Seconds, double From = 0, string? Media = null);

/// <summary>Writes the foyer film's edit as OpenTimelineIO, at 25 frames a second.</summary>
internal static class FoyerEdit
{
    private const double Rate = 25;

    public static byte[] Make(params (string Track, string Kind, FoyerClip[] Clips)[] tracks) =>
        JsonSerializer.SerializeToUtf8Bytes(
            new
            {
                OTIO_SCHEMA = "Timeline.1",
                name = "Foyer film",
                tracks = new
                {
                    OTIO_SCHEMA = "Stack.1",
                    name = "tracks",
                    children = tracks.Select(t => new
                    {
                        OTIO_SCHEMA = "Track.1",
                        name = t.Track,
                        kind = t.Kind,
                        children = t.Clips.Select(Item),
                    }),
                },
            },
            new JsonSerializerOptions { WriteIndented = true }
        );

    private static object Item(FoyerClip clip)
    {
        var source_range = new
        {
            OTIO_SCHEMA = "TimeRange.1",
            start_time = Time(clip.From),
            duration = Time(clip.Seconds),
        };
        return clip.Media is null
            ? new
            {
                OTIO_SCHEMA = "Gap.1",
                name = clip.Name,
                source_range,
            }
            : new
            {
                OTIO_SCHEMA = "Clip.2",
                name = clip.Name,
                source_range,
                active_media_reference_key = "DEFAULT_MEDIA",
                media_references = new { DEFAULT_MEDIA = new { OTIO_SCHEMA = "ExternalReference.1", target_url = clip.Media } },
            };
    }

    private static object Time(double seconds) =>
        new
        {
            OTIO_SCHEMA = "RationalTime.1",
            rate = Rate,
            value = Math.Round(seconds * Rate),
        };
}
