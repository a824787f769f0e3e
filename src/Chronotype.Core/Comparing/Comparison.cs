using System.Text.Json.Serialization;
using Chronotype.Core.Content;
using Chronotype.Core.Sound;

namespace Chronotype.Core.Comparing;

/// <summary>What happened to one part of a save: a layer, a stretch of sound, a file.</summary>
public enum PartChangeKind
{
    /// <summary>Only the later file has it.</summary>
    Added,

    /// <summary>Only the earlier file has it.</summary>
    Removed,

    /// <summary>Its pixels are others.</summary>
    Repainted,

    /// <summary>It stands elsewhere, with the same pixels.</summary>
    Moved,

    /// <summary>Something else of it is another.</summary>
    Changed,

    /// <summary>It is the same in both.</summary>
    Same,

    /// <summary>Something else stands in its place.</summary>
    Replaced,

    /// <summary>A stretch of sound at another level.</summary>
    Louder,

    /// <summary>Its words are others.</summary>
    Reworded,

    /// <summary>It lasts longer or shorter.</summary>
    Retimed,

    /// <summary>Another material is on it, or something else hangs on it.</summary>
    Remapped,

    /// <summary>A clip shows more or less of its medium, or another stretch of it.</summary>
    Trimmed,

    /// <summary>A clip plays another medium.</summary>
    Relinked,

    /// <summary>It is drawn alike in other colours, lines or the like.</summary>
    Restyled,

    /// <summary>A stretch of sound with other frequencies brought out, or with something laid over it.</summary>
    Filtered,
}

/// <summary>A way across a picture's plane.</summary>
/// <param name="X">Pixels to the right.</param>
/// <param name="Y">Pixels down.</param>
public readonly record struct PixelOffset(int X, int Y);

/// <param name="Name">The part's name, as its maker calls it; empty for a stretch of time.</param>
/// <param name="Kind">What happened to it.</param>
/// <param name="Share">How much of the part differs, from 0 to 1; null where that has no meaning.</param>
public sealed record PartChange(
    string Name,
    [property: JsonIgnore(Condition = JsonIgnoreCondition.Never)] PartChangeKind Kind,
    double? Share = null
)
{
    /// <summary>How far it moved; null where it did not.</summary>
    public PixelOffset? MovedBy { get; init; }

    /// <summary>What it was called before; null where that did not change.</summary>
    public string? FormerName { get; init; }

    /// <summary>Whether it is shown now; null where that did not change.</summary>
    public bool? IsShown { get; init; }

    /// <summary>From 0 to 1; null where it did not change.</summary>
    public double? OpacityBefore { get; init; }

    /// <summary>As <see cref="OpacityBefore"/>.</summary>
    public double? OpacityNow { get; init; }

    /// <summary>How it was laid over what is below; null where that did not change.</summary>
    public string? BlendBefore { get; init; }

    /// <summary>As <see cref="BlendBefore"/>.</summary>
    public string? BlendNow { get; init; }

    /// <summary>The groups that it lay in, joined by <c> / </c>; null where it lies in the same ones.</summary>
    public string? GroupBefore { get; init; }

    /// <summary>It stands above or below others of its group than before.</summary>
    public bool IsReordered { get; init; }

    /// <summary>Its words before; null where they did not change.</summary>
    public string? TextBefore { get; init; }

    /// <summary>As <see cref="TextBefore"/>.</summary>
    public string? TextNow { get; init; }

    /// <summary>It is a group of layers, told for what became of it and not for what lies in it.</summary>
    public bool IsGroup { get; init; }

    /// <summary>Of a layer: its place among those of the earlier file; null where it is not there.</summary>
    public int? LayerBefore { get; init; }

    /// <summary>As <see cref="LayerBefore"/>, of the later file.</summary>
    public int? LayerNow { get; init; }

    /// <summary>Of a scene: what the part is; null for anything else.</summary>
    public ScenePartKind? Scene { get; init; }

    /// <summary>Of a timeline: the track that the clip is on now, or was on; null for anything else.</summary>
    public string? Track { get; init; }

    /// <summary>Of a timeline: where the clip begins now, in seconds, or where it began.</summary>
    public double? At { get; init; }

    /// <summary>Of a clip that moved: where it began, in seconds; null where it did not.</summary>
    public double? AtBefore { get; init; }

    /// <summary>How long it lasted, in seconds; null where that did not change.</summary>
    public double? SecondsBefore { get; init; }

    /// <summary>As <see cref="SecondsBefore"/>.</summary>
    public double? SecondsNow { get; init; }

    /// <summary>What it used: a material, a medium; null where that did not change.</summary>
    public string? UsesBefore { get; init; }

    /// <summary>As <see cref="UsesBefore"/>.</summary>
    public string? UsesNow { get; init; }

    /// <summary>How much of the whole it is, from 0 to 1: what changed most is told first.</summary>
    public double Weight { get; init; }

    /// <summary>Of a file of a folder: what changed inside it, shortened; null where that was not looked at.</summary>
    public Comparison? Inside { get; init; }

    /// <summary>Of a sound: which stretch of time of which of the two; null for anything else.</summary>
    public SoundDifference? Stretch { get; init; }
}

/// <summary>Lines of a text that are others.</summary>
/// <param name="LineBefore">The first of them in the earlier text, from 1; where some were only added, the one that they stand before.</param>
/// <param name="LineNow">As <paramref name="LineBefore"/>, in the later text.</param>
/// <param name="Removed">The earlier lines, shortened. Not trusted.</param>
/// <param name="Added">The later ones.</param>
/// <param name="MoreRemoved">How many earlier lines more there are than are told.</param>
/// <param name="MoreAdded">How many later ones.</param>
public sealed record TextChange(
    int LineBefore,
    int LineNow,
    IReadOnlyList<string> Removed,
    IReadOnlyList<string> Added,
    int MoreRemoved = 0,
    int MoreAdded = 0
);

/// <summary>Which bytes two contents do not have in common. Of very many stretches those that lie close together are told as one.</summary>
/// <param name="LengthBefore">Bytes of the earlier.</param>
/// <param name="LengthAfter">Bytes of the later.</param>
/// <param name="Gone">What only the earlier has.</param>
/// <param name="New">What only the later has.</param>
public sealed record ByteStretches(long LengthBefore, long LengthAfter, IReadOnlyList<ByteRange> Gone, IReadOnlyList<ByteRange> New)
{
    /// <summary>So many of each are told.</summary>
    public const int Most = 400;

    /// <summary>As few as are told.</summary>
    public static IReadOnlyList<ByteRange> Few(IReadOnlyList<ByteRange> ranges)
    {
        if (ranges.Count <= Most)
            return ranges;
        // The widest gaps between them stay.
        var cuts = Enumerable
            .Range(1, ranges.Count - 1)
            .OrderByDescending(i => ranges[i].Offset - ranges[i - 1].End)
            .Take(Most - 1)
            .Order()
            .Append(ranges.Count);
        var few = new List<ByteRange>();
        var from = 0;
        foreach (var to in cuts)
        {
            few.Add(new ByteRange(ranges[from].Offset, ranges[to - 1].End - ranges[from].Offset));
            from = to;
        }
        return few;
    }
}

/// <summary>By what two contents were compared, or why they could not be.</summary>
public enum ComparisonBasis
{
    /// <summary>They are the same bytes.</summary>
    SameContent,

    /// <summary>There is nothing before it.</summary>
    First,

    /// <summary>The area of their layers.</summary>
    Layers,

    /// <summary>The area of flat pictures.</summary>
    PictureArea,

    /// <summary>They are pictures of different sizes, so all of it differs.</summary>
    PictureSize,

    /// <summary>The area of drawings as they look.</summary>
    DrawnArea,

    /// <summary>The time of sounds.</summary>
    Time,

    /// <summary>The bytes held in common.</summary>
    Bytes,

    /// <summary>Not measurable: one of the two cannot be read.</summary>
    Unreadable,

    /// <summary>Not measurable: they are compressed as a whole.</summary>
    Packed,

    /// <summary>Not measurable: they are of different kinds.</summary>
    DifferentKinds,

    /// <summary>Not measurable: it takes more memory or time than is given to it.</summary>
    TooHeavy,

    /// <summary>The share of the area of all pages that differs, page for page.</summary>
    Pages,

    /// <summary>The parts of scenes.</summary>
    Scene,

    /// <summary>The time of clips.</summary>
    Timeline,

    /// <summary>Lines of text.</summary>
    Lines,

    /// <summary>Lines of the text on the pages of documents.</summary>
    PageText,

    /// <summary>Not measurable: moving pictures, of which only length, size and rate are told.</summary>
    Film,
}

/// <summary>What changed between two contents, as values; whoever shows it finds the words.</summary>
/// <param name="Change">From 0 (nothing) to 1 (everything); null where it cannot be measured.</param>
/// <param name="Basis">What was measured, or why nothing was.</param>
public sealed record Comparison(double? Change, ComparisonBasis Basis)
{
    /// <summary>What changed in which part; empty where the format has none.</summary>
    public IReadOnlyList<PartChange> Parts { get; init; } = [];

    /// <summary>The files of a folder beside its main one that are in either, those that did not change included.</summary>
    public IReadOnlyList<PartChange> Companions { get; init; } = [];

    /// <summary>What was compared are the faces of the two, since the natives cannot be read.</summary>
    public bool IsByFaces { get; init; }

    /// <summary>Why one of the two could not be compared; null where that is not the file's own fault.</summary>
    public FileFault? Fault { get; init; }

    /// <summary>The earlier picture; null where that says nothing.</summary>
    public PictureFacts? Before { get; init; }

    /// <summary>The later picture.</summary>
    public PictureFacts? After { get; init; }

    /// <summary>How much louder the later sound is throughout, in decibels, where nothing else differs; null else.</summary>
    public double? GainDecibels { get; init; }

    /// <summary>What two sounds have in common; empty for anything else.</summary>
    public IReadOnlyList<SoundMatch> Matches { get; init; } = [];

    /// <summary>The earlier sound; null for anything else.</summary>
    public SoundFacts? SoundBefore { get; init; }

    /// <summary>The later sound.</summary>
    public SoundFacts? SoundAfter { get; init; }

    /// <summary>Of contents compared by their bytes, how long they are and which stretches only one has; null for anything else.</summary>
    public ByteStretches? Bytes { get; init; }

    /// <summary>The earlier moving pictures; null for anything else, or where nothing tells what they are.</summary>
    public FilmFacts? FilmBefore { get; init; }

    /// <summary>The later ones.</summary>
    public FilmFacts? FilmAfter { get; init; }

    /// <summary>Of texts, where their lines differ; empty for anything else.</summary>
    public IReadOnlyList<TextChange> TextChanges { get; init; } = [];

    /// <summary>How many parts that changed are not among <see cref="Parts"/>; 0 for a comparison that was not shortened.</summary>
    public int PartsLeftOut { get; init; }

    /// <summary>The few parts that changed most, for a line that says what happened.</summary>
    public Comparison Shortened()
    {
        const int told = 3;
        var changed = Parts.Where(p => p.Kind != PartChangeKind.Same).OrderByDescending(Extent).ToList();
        var files = Companions.Where(c => c.Kind != PartChangeKind.Same).ToList();
        return this with
        {
            Parts = [.. changed.Take(told)],
            PartsLeftOut = Math.Max(0, changed.Count - told),
            Companions = [.. files.OrderByDescending(Extent).Take(2 * told).Select(f => f with { Inside = f.Inside?.Shortened() })],
            FilesLeftOut = Math.Max(0, files.Count - 2 * told),
            Matches = [],
            TextChanges = [],
            Bytes = null,
        };
    }

    /// <summary>As <see cref="PartsLeftOut"/>, of the files beside the main one.</summary>
    public int FilesLeftOut { get; init; }

    private static double Extent(PartChange part) =>
        part.Stretch is { } stretch ? Math.Max(stretch.BeforeLength, stretch.AfterLength) : Math.Max(part.Weight, part.Share ?? 0);

    /// <summary>That two files cannot be measured against each other.</summary>
    public static Comparison NotMeasurable(ComparisonBasis why, FileFault? fault = null) => new(null, why) { Fault = fault };
}
