using Chronotype.Core.Comparing;
using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Versions;

namespace Chronotype.Web.Words;

/// <content>What changed in files.</content>
public static partial class FactWords
{
    /// <summary>What changed, in one sentence or two.</summary>
    public static string Of(Comparison comparison)
    {
        var layers = comparison.Parts.Where(p => !p.IsGroup).ToList();
        var (share, differ) = (Share(comparison.Change ?? 0), layers.Count(p => p.Kind != PartChangeKind.Same));
        var main = comparison.Basis switch
        {
            ComparisonBasis.SameContent => comparison.Companions.Count == 0
                ? "The two hold the same content."
                : "The main file is the same.",
            ComparisonBasis.First => "There is nothing before it.",
            ComparisonBasis.Layers =>
                $"{differ} of {DisplayText.Count(layers.Count, "layer differs", "layers differ")}. {Canvas(comparison)}",
            ComparisonBasis.PictureArea => $"{share} of the picture’s area differs.",
            ComparisonBasis.PictureSize =>
                $"The picture was {Size(comparison.Before)}, now {Size(comparison.After)}: laid over one another "
                    + $"from the upper left corner, {share} of the area differs.",
            ComparisonBasis.DrawnArea => $"{share} of the drawing’s area looks different.",
            ComparisonBasis.Time when comparison.GainDecibels is { } gain =>
                $"It is {Math.Abs(gain):0.0#} dB {(gain > 0 ? "louder" : "quieter")} throughout; nothing else differs.",
            ComparisonBasis.Time => $"{Heard(comparison)}{Shape(comparison)}",
            ComparisonBasis.Pages =>
                $"{differ} of {DisplayText.Count(layers.Count, "page differs", "pages differ")}: {share} of their area.",
            ComparisonBasis.Scene =>
                $"{differ} of {DisplayText.Count(layers.Count, "part of the scene differs", "parts of the scene differ")}.",
            ComparisonBasis.Timeline =>
                $"{differ} of {DisplayText.Count(layers.Count, "clip differs", "clips differ")}: {share} of their time.",
            ComparisonBasis.Lines =>
                $"{share} of the lines differ{(comparison.TextChanges.Count > 0 ? $", in {DisplayText.Count(comparison.TextChanges.Count + comparison.PartsLeftOut, "place", "places")}" : "")}.",
            ComparisonBasis.PageText when differ == 0 => "No word on any page differs; what is drawn on them may.",
            ComparisonBasis.PageText =>
                $"{DisplayText.Count(differ, "page reads", "pages read")} otherwise, of {layers.Count}: {share} of the lines.",
            ComparisonBasis.Film => $"What changed in moving pictures is not measured.{Film(comparison)}",
            ComparisonBasis.Bytes => $"{share} of the bytes are not held in common.",
            ComparisonBasis.Unreadable => $"One of the two cannot be read, so what changed cannot be "
                + $"measured.{(comparison.Fault is { } fault ? $" {Of(fault)}" : "")}",
            ComparisonBasis.Packed => "Files of this kind are compressed as a whole, so what changed cannot be measured.",
            ComparisonBasis.DifferentKinds => "The two are of different kinds, so what changed cannot be measured.",
            ComparisonBasis.TooHeavy =>
                "The two are too heavy to compare here, so what changed cannot be measured. Both are stored as they came.",
            _ => throw new ArgumentOutOfRangeException(nameof(comparison), comparison.Basis, "No one has found words for it."),
        };
        if (comparison.IsByFaces)
            main = $"Told by their faces where the natives cannot be read. {main}";
        return comparison.Companions.Count == 0
            ? main
            : $"{main} {comparison.Companions.Count(c => c.Kind != PartChangeKind.Same)} of "
                + $"{DisplayText.Count(comparison.Companions.Count, "companion differs", "companions differ")}.";
    }

    // How long of each kind there is, the longest first.
    private static string Heard(Comparison comparison)
    {
        var told = comparison
            .Parts.Where(p => p.Stretch is not null)
            .GroupBy(KindOf)
            .Select(g => (What: g.Key, Seconds: g.Sum(p => Math.Max(p.Stretch!.BeforeLength, p.Stretch.AfterLength))))
            .OrderByDescending(g => g.Seconds)
            .Select(g => $"{g.Seconds:0.0#} s {g.What}")
            .ToList();
        if (told.Count == 0)
            return "Nothing that is heard differs.";
        var rest =
            comparison.Matches.Count == 0 ? " Nothing of the earlier one is left."
            : comparison.Change < 1 ? " The rest is the same."
            : "";
        return $"{string.Join(", ", told)}.{rest}";
    }

    private static string Film(Comparison comparison)
    {
        if (comparison is not { FilmBefore: { } before, FilmAfter: { } after })
            return "";
        string?[] told =
        [
            (before.Width, before.Height) == (after.Width, after.Height)
                ? null
                : $"{before.Width} × {before.Height} px, now {after.Width} × {after.Height} px",
            Math.Abs(before.Seconds - after.Seconds) < 0.02
                ? null
                : $"{DisplayText.Clock(before.Seconds)} long, now {DisplayText.Clock(after.Seconds)}",
            Math.Abs(before.FramesPerSecond - after.FramesPerSecond) < 0.001
                ? null
                : $"{before.FramesPerSecond:0.###} frames a second, now {after.FramesPerSecond:0.###}",
        ];
        return told.All(t => t is null) ? " Size, rate and length are the same." : $" It was {string.Join("; ", told.OfType<string>())}.";
    }

    // They are compared all the same, at one rate and as one channel.
    private static string Shape(Comparison comparison)
    {
        if (comparison is not { SoundBefore: { } before, SoundAfter: { } after })
            return "";
        string[] told =
        [
            before.SampleRate == after.SampleRate
                ? ""
                : $"{before.SampleRate / 1000.0:0.###} kHz, now {after.SampleRate / 1000.0:0.###} kHz",
            before.Bits == after.Bits || before.Bits == 0 || after.Bits == 0 ? "" : $"{before.Bits} bit, now {after.Bits} bit",
            before.Channels == after.Channels ? "" : $"{DisplayText.Count(before.Channels, "channel", "channels")}, now {after.Channels}",
        ];
        return told.All(t => t.Length == 0) ? "" : $" It was {string.Join("; ", told.Where(t => t.Length > 0))}.";
    }

    /// <summary>
    /// The changed files of a folder as they are told: each for itself where they are few, else together by folder, kind of file and
    /// what became of them.
    /// </summary>
    public static IReadOnlyList<(string Name, string What)> Grouped(IReadOnlyList<PartChange> companions)
    {
        var changed = companions.Where(c => c.Kind != PartChangeKind.Same).ToList();
        if (changed.Count <= MostFiles)
            return changed.ConvertAll(c => (c.Name, FileChange(c)));
        return
        [
            .. changed
                .GroupBy(c => (Folder: c.Name[..(c.Name.LastIndexOf('/') + 1)], Kind: FileNames.Extension(c.Name)))
                .OrderBy(g => g.Key.Folder, StringComparer.Ordinal)
                .ThenBy(g => g.Key.Kind, StringComparer.Ordinal)
                .Select(g =>
                    (
                        $"{g.Key.Folder}*{g.Key.Kind}",
                        string.Join(
                            ", ",
                            g.GroupBy(KindOf).OrderBy(k => k.Key, StringComparer.Ordinal).Select(k => $"{k.Count():N0} {k.Key}")
                        )
                    )
                ),
        ];
    }

    private const int MostFiles = 8;

    /// <summary>What became of one file of a folder: what changed in it, where that is known, or in a word.</summary>
    internal static string FileChange(PartChange file) =>
        file switch
        {
            { Kind: PartChangeKind.Moved, FormerName: { } from } =>
                $"moved from {(from.LastIndexOf('/') is > 0 and var end ? from[..end] : "the top")}",
            { FormerName: { } from } => $"renamed from {Used(from)}",
            { Inside: { } inside } when ChangeSummary.Of(inside) is { Length: > 0 } told => told,
            _ => KindOf(file),
        };

    /// <summary>What a part is called: a stretch of sound by when it is.</summary>
    public static string NameOf(PartChange part) =>
        part.Stretch switch
        {
            null => part.Name,
            { AfterLength: 0 } cut => Times(cut.Before, cut.BeforeLength),
            var heard => Times(heard.After, heard.AfterLength),
        };

    private static string Times(double from, double length) => $"{DisplayText.Clock(from)}–{DisplayText.Clock(from + length)}";

    /// <summary>What became of a part, in a word.</summary>
    public static string KindOf(PartChange part) =>
        (part.Kind, part.Stretch) switch
        {
            (PartChangeKind.Removed, not null) => "cut",
            (PartChangeKind.Added, not null) => "put in",
            (PartChangeKind.Louder, { Gain: < 0 }) => "quieter",
            (PartChangeKind.Repainted, _) when part.Share is null => "redrawn",
            (PartChangeKind.Repainted, _) when part.MovedBy is not null => "moved, repainted",
            (PartChangeKind.Changed, _) when part.FormerName is not null => "renamed",
            (PartChangeKind.Changed, _) when part.Scene == ScenePartKind.Mesh => "reshaped",
            (PartChangeKind.Changed, _) when part.Scene is ScenePartKind.Material or ScenePartKind.Picture => "recoloured",
            (PartChangeKind.Changed, _) when part.IsShown is { } shown => shown ? "shown" : "hidden",
            (PartChangeKind.Changed, _) when part.BlendNow is not null => "blended",
            (PartChangeKind.Changed, _) when part.OpacityNow is not null => "faded",
            (PartChangeKind.Changed, _) when part.GroupBefore is not null => "regrouped",
            (PartChangeKind.Changed, _) when part.IsReordered => "reordered",
            _ => part.Kind.ToString().ToLowerInvariant(),
        };

    /// <summary>A few words more about a part; empty when there are none.</summary>
    public static string DetailOf(PartChange part) =>
        string.Join(
            ", ",
            new[]
            {
                part.MovedBy is { } by ? Way(by) : null,
                part.FormerName is { } name ? $"was “{name}”" : null,
                part.IsShown is { } shown && KindOf(part) is not ("shown" or "hidden") ? (shown ? "shown" : "hidden") : null,
                part is { OpacityBefore: { } before, OpacityNow: { } now } ? $"{before:P0} → {now:P0}" : null,
                part is { BlendBefore: { } old, BlendNow: { } blend } ? $"{old} → {blend}" : null,
                part is { SecondsBefore: { } was, SecondsNow: { } lasts } ? $"{was:0.##} s → {lasts:0.##} s" : null,
                part is { UsesBefore: { } formerly, UsesNow: { } uses } ? $"{Used(formerly)} → {Used(uses)}" : null,
                part is { AtBefore: { } from, At: { } at } ? $"{DisplayText.Clock(from)} → {DisplayText.Clock(at)}" : null,
                part is { Track: not null, GroupBefore: { } track } ? $"was on {track}" : null,
                part is { Scene: { } kindOfPart } ? kindOfPart.ToString().ToLowerInvariant() : null,
                part.GroupBefore is { } group && part.Track is null ? $"was in {(group.Length == 0 ? "no group" : group)}" : null,
                part.IsReordered ? "another place in the order" : null,
                part is { TextBefore: { } words, TextNow: not null } ? $"was “{words}”" : null,
                part.Stretch is { Gain: { } gain } ? $"{gain:+0.0;−0.0} dB" : null,
                part is { Kind: PartChangeKind.Moved, Stretch: { } moved } ? $"from {DisplayText.Clock(moved.Before)}" : null,
                part.Stretch is { } time ? $"{(time.AfterLength == 0 ? time.BeforeLength : time.AfterLength):0.0} s" : null,
            }.OfType<string>()
        );

    /// <summary>Which way and how far, in words.</summary>
    internal static string Way(PixelOffset by)
    {
        string[] ways =
        [
            by.Y == 0 ? "" : $"{(by.Y < 0 ? "up" : "down")} {Math.Abs(by.Y):N0} px",
            by.X == 0 ? "" : $"{(by.X < 0 ? "left" : "right")} {Math.Abs(by.X):N0} px",
        ];
        return string.Join(", ", ways.Where(w => w.Length > 0));
    }

    private static string Canvas(Comparison comparison) =>
        (comparison.Before?.Width, comparison.Before?.Height) == (comparison.After?.Width, comparison.After?.Height)
            ? $"Canvas {Size(comparison.After)}, unchanged."
            : $"Canvas was {Size(comparison.Before)}, now {Size(comparison.After)}.";

    internal static string Share(double share) =>
        share switch
        {
            0 => "Nothing",
            < 0.001 => "Less than 0.1 %",
            < 0.1 => $"{share * 100:0.0} %",
            _ => $"{share * 100:0} %",
        };

    private static string Used(string what) => what.Length == 0 ? "nothing" : what[(what.LastIndexOf('/') + 1)..];
}
