using System.Text.Json;
using Chronotype.Core.Content;

namespace Chronotype.Formats.Timelines;

/// <summary>OpenTimelineIO (Academy Software Foundation, "OpenTimelineIO file format specification"): JSON whose objects say their schema.</summary>
internal sealed class TimelineFormat : IFormat
{
    private const int MostItems = 50_000,
        MostDepth = 16;

    public FileFormat Format => FileFormat.Timeline;

    public bool Begins(ReadOnlySpan<byte> head) =>
        head.TrimStart(" \t\r\n\uFEFF"u8).StartsWith("{"u8) && head.IndexOf("\"OTIO_SCHEMA\""u8) >= 0;

    public FileFacts Read(Stream content, CancellationToken cancel)
    {
        using var json = LimitedJson.Parse(content);
        var reading = new Reading(cancel);
        var timeline = reading.Timeline(json.RootElement);
        return new FileFacts
        {
            Format = Format,
            Timeline = timeline,
            References = reading.References,
        };
    }

    public Preview? Draw(Stream content, int side, int page, CancellationToken cancel) =>
        TimelineDrawing.Draw(Read(content, cancel).Timeline!);

    private sealed class Reading(CancellationToken cancel)
    {
        private readonly List<ReferenceFacts> references = [];
        private int items;
        private double rate;

        public IReadOnlyList<ReferenceFacts> References => references;

        public TimelineFacts Timeline(JsonElement root)
        {
            // A file may hold a whole timeline, or only a stack, a track or a clip of one.
            var stack = root.Get("tracks") is { ValueKind: JsonValueKind.Object } inside ? inside : root;
            var children = Schema(stack) == "Stack" ? stack.Items("children") : [stack];
            var tracks = new List<TimelineTrack>();
            foreach (var child in children)
            {
                var number = tracks.Count + 1;
                var name = child.Text("name") is { Length: > 0 } given ? given : $"Track {number}";
                tracks.Add(new TimelineTrack(Unique(tracks, name), child.Text("kind"), Track(child, $"tracks/{number - 1}")));
            }
            if (tracks.Count == 0)
                throw new UnreadableFileException(FileFaultCode.NoLayers);
            return new TimelineFacts(root.Text("name"), rate, tracks);
        }

        private static string Unique(List<TimelineTrack> tracks, string name) =>
            tracks.Exists(t => t.Name == name) ? $"{name} ({tracks.Count + 1})" : name;

        private IReadOnlyList<TimelineItem> Track(JsonElement track, string place)
        {
            var found = new List<TimelineItem>();
            var at = 0.0;
            var children = Schema(track) == "Track" ? track.Items("children") : [track];
            var index = 0;
            foreach (var child in children)
            {
                if (++items > MostItems)
                    throw new UnreadableFileException(new FileFault(FileFaultCode.TooManyParts, "", MostItems));
                cancel.ThrowIfCancellationRequested();
                var item = Item(child, at, $"{place}/{index++}");
                found.Add(item);
                // A transition lies over its neighbours and takes no time of its own.
                if (item.Kind != TimelineItemKind.Transition)
                    at += item.Length;
            }
            return found;
        }

        private TimelineItem Item(JsonElement child, double at, string place)
        {
            var name = child.Text("name");
            var schema = Schema(child);
            if (schema == "Transition")
            {
                var (before, after) = (Time(child.Get("in_offset")), Time(child.Get("out_offset")));
                return new TimelineItem(TimelineItemKind.Transition, name, Math.Max(0, at - before), before + after, 0, "");
            }
            var (start, length) = Range(child.Get("source_range"));
            var media = schema == "Clip" ? Media(child) : null;
            if (child.Get("source_range") is not { ValueKind: JsonValueKind.Object })
                (start, length) = media is { } whole ? Range(whole.Get("available_range")) : (0, Nested(child, 0));
            var target = media?.Text("target_url") ?? "";
            if (target.Length > 0 && references.Count < Limits.References)
                references.Add(new ReferenceFacts(target, $"{place}/media_reference/target_url"));
            var kind = schema switch
            {
                "Gap" => TimelineItemKind.Gap,
                "Clip" => TimelineItemKind.Clip,
                _ => TimelineItemKind.Nested,
            };
            return new TimelineItem(kind, name, at, length, start, target);
        }

        // A clip has one medium, or several of which one is played.
        private static JsonElement? Media(JsonElement clip)
        {
            if (clip.Get("media_reference") is { ValueKind: JsonValueKind.Object } only)
                return only;
            var active = clip.Text("active_media_reference_key") is { Length: > 0 } key ? key : "DEFAULT_MEDIA";
            return clip.Get("media_references")?.Get(active) is { ValueKind: JsonValueKind.Object } chosen ? chosen : null;
        }

        // Of tracks laid in as one without a range of their own: as long as the longest.
        private double Nested(JsonElement element, int depth)
        {
            if (depth > MostDepth || ++items > MostItems)
                throw new UnreadableFileException(new FileFault(FileFaultCode.TooDeep, "", MostDepth));
            var children = element.Items("children").ToList();
            if (children.Count == 0)
                return Range(Media(element)?.Get("available_range")).Length;
            var lengths = children.ConvertAll(c =>
                c.Get("source_range") is { ValueKind: JsonValueKind.Object } range ? Range(range).Length : Nested(c, depth + 1)
            );
            return Schema(element) == "Track" ? lengths.Sum() : lengths.Max();
        }

        private (double Start, double Length) Range(JsonElement? range) =>
            range is { } r ? (Time(r.Get("start_time")), Math.Max(0, Time(r.Get("duration")))) : (0, 0);

        private double Time(JsonElement? time)
        {
            if (time is not { } t || t.Number("rate") is not (> 0 and var perSecond))
                return 0;
            rate = rate == 0 ? perSecond : rate;
            return Math.Clamp(t.Number("value") / perSecond, -1e7, 1e7);
        }

        // "Clip.2": what it is, and the version of how it is written.
        private static string Schema(JsonElement element) => element.Text("OTIO_SCHEMA").Split('.')[0];
    }
}
