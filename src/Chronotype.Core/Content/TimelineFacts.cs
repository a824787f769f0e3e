namespace Chronotype.Core.Content;

/// <summary>What stands on a track.</summary>
public enum TimelineItemKind
{
    /// <summary>A stretch of a film or a sound.</summary>
    Clip,

    /// <summary>Nothing, for a while.</summary>
    Gap,

    /// <summary>One clip going over into the next.</summary>
    Transition,

    /// <summary>Tracks of their own, laid in as one.</summary>
    Nested,
}

/// <summary>One thing on a track.</summary>
/// <param name="Kind">What it is.</param>
/// <param name="Name">As its maker named it. Not trusted.</param>
/// <param name="Start">Seconds from the timeline's beginning.</param>
/// <param name="Length">Seconds.</param>
/// <param name="SourceStart">Where in its medium it begins, in seconds of the medium's own time.</param>
/// <param name="Media">What it plays, as written; empty where that is missing or nothing. Not trusted.</param>
public sealed record TimelineItem(TimelineItemKind Kind, string Name, double Start, double Length, double SourceStart, string Media);

/// <summary>One track.</summary>
/// <param name="Name">As its maker named it, or its kind and number. Not trusted.</param>
/// <param name="Kind">Video, Audio, or a word of the file's own. Not trusted.</param>
/// <param name="Items">In the order of time.</param>
public sealed record TimelineTrack(string Name, string Kind, IReadOnlyList<TimelineItem> Items)
{
    /// <summary>Seconds.</summary>
    public double Length => Items.Count == 0 ? 0 : Items.Max(i => i.Start + i.Length);
}

/// <summary>Clips laid out in time.</summary>
/// <param name="Name">As its maker named it. Not trusted.</param>
/// <param name="Rate">Frames a second; 0 where nothing says.</param>
/// <param name="Tracks">From the lowest up, as they are laid over one another.</param>
public sealed record TimelineFacts(string Name, double Rate, IReadOnlyList<TimelineTrack> Tracks)
{
    /// <summary>Seconds.</summary>
    public double Length => Tracks.Count == 0 ? 0 : Tracks.Max(t => t.Length);
}
