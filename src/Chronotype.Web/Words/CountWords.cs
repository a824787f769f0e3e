using Chronotype.Core.Content;
using Chronotype.Studio.Saves;

namespace Chronotype.Web.Words;

/// <summary>What a version holds, counted against the one before it: whoever keeps it sees at once whether something is gone.</summary>
public static class CountWords
{
    /// <summary>A sentence with a capital and a stop.</summary>
    public static string Of(KeptCount count)
    {
        string?[] inside =
        [
            count.Files > 1 ? Counted(count.Files, count.FilesBefore, "file", "files") : null,
            count.Now is { LayerCount: > 0 } layered ? Counted(layered.LayerCount, count.Before?.LayerCount, "layer", "layers") : null,
            count.Now?.Picture is { Pages: > 1 } pages ? Counted(pages.Pages, count.Before?.Picture?.Pages, "page", "pages") : null,
            count.Now?.Document is { } document ? Counted(document.Pages, count.Before?.Document?.Pages, "page", "pages") : null,
            count.Now?.Sound is { } sound ? Played(sound, count.Before?.Sound) : null,
        ];
        var size = DisplayText.Size(count.Bytes);
        var added = count.NewBytes switch
        {
            null => "",
            0 => ", nothing new on disk",
            { } bytes => $", {DisplayText.Size(bytes)} new on disk",
        };
        var told = string.Join(", ", inside.OfType<string>());
        return told.Length == 0 ? $"{size}{added}." : $"{char.ToUpperInvariant(told[0])}{told[1..]}; {size}{added}.";
    }

    private static string Counted(int now, int? before, string one, string many) =>
        DisplayText.Count(now, one, many)
        + (before ?? now).CompareTo(now) switch
        {
            < 0 => $", {now - before:N0} more",
            > 0 => $", {before - now:N0} fewer",
            _ => "",
        };

    private static string Played(SoundFacts now, SoundFacts? before)
    {
        var by = before is null ? 0 : (now.Duration - before.Duration).TotalSeconds;
        return DisplayText.Clock(now.Duration.TotalSeconds)
            + (Math.Abs(by) < 0.05 ? "" : $", {Math.Abs(by):0.0} s {(by > 0 ? "longer" : "shorter")}");
    }
}
