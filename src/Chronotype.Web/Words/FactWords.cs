using Chronotype.Core.Comparing;
using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Versions;

namespace Chronotype.Web.Words;

/// <summary>What is known of files and of what changed in them, in sentences for whoever made them.</summary>
public static class FactWords
{
    private const string Kept = "Its bytes are kept as they came.";

    /// <param name="format">What the file says it is; it names the kind in the sentence.</param>
    public static string Of(FileFault fault, FileFormat format = FileFormat.Other)
    {
        var number = $"{fault.Number:N0}";
        var kind = KindOf(format);
        return fault.Code switch
        {
            FileFaultCode.Empty => "This file is empty: it has no bytes in it.",
            FileFaultCode.TooHeavy =>
                "This file is too heavy to read here: it takes more memory or time than is given to one file. It is stored, and can "
                    + "be kept and downloaded.",
            FileFaultCode.NotUnderstood => $"{kind} could not be read ({fault.Name}). {Kept}",
            FileFaultCode.PictureUnreadable =>
                $"This picture cannot be read: it is cut short, damaged, or of a kind that is not drawn here. {Kept}",
            FileFaultCode.PictureTooLarge =>
                $"This picture says that it is {number} × {fault.Second:N0} px, more than is drawn here. {Kept}",
            FileFaultCode.NoMergedPicture => $"{kind} has no picture of all its layers in it. {Kept}",
            FileFaultCode.ContainerUnreadable =>
                $"{kind} is cut short or damaged: its list of parts, which stands at the end, cannot be read. {Kept}",
            FileFaultCode.TooManyParts => $"{kind} has more than {number} parts. {Kept}",
            FileFaultCode.PartDamaged => fault.Name.Length == 0
                ? $"A part of this file is damaged. {Kept}"
                : $"The part “{fault.Name}” of this file is damaged. {Kept}",
            FileFaultCode.PartsTooLarge => $"The parts of this file unpack to more than is read here. {Kept}",
            FileFaultCode.NoStack => $"{kind} has no readable stack of layers. {Kept}",
            FileFaultCode.StackNotImage => $"The stack of layers in this file does not begin with an image. {Kept}",
            FileFaultCode.StackUnreadable => $"The stack of layers in this file cannot be read (line {number}). {Kept}",
            FileFaultCode.NoLayers => $"{kind} has no layers in it. {Kept}",
            FileFaultCode.NoCanvas => $"{kind} does not say how large its canvas is. {Kept}",
            FileFaultCode.TooManyLayers => $"{kind} has more than {number} layers. {Kept}",
            FileFaultCode.LayerWithoutPixels => $"The layer “{fault.Name}” of this file has lost its pixels. {Kept}",
            FileFaultCode.TextTooLong =>
                $"{kind} has more than {DisplayText.Size((long)fault.Number)} of text, more than is drawn here. {Kept}",
            FileFaultCode.WrongBeginning => fault.Name.Length == 0
                ? $"This file does not begin as its kind does. {Kept}"
                : $"This file begins with <{fault.Name}>, which its kind does not. {Kept}",
            FileFaultCode.DefinesEntities =>
                $"{kind} uses entities that it defines itself (line {number}); these can hide a file of any size, so it is not "
                    + $"drawn. {Kept}",
            FileFaultCode.NotWellFormed => $"{kind} cannot be read beyond line {number}. {Kept}",
            FileFaultCode.TooDeep => $"The groups in this file are nested more than {number} deep, more than is read here. {Kept}",
            FileFaultCode.TooManyElements => $"{kind} has more than {number} elements, more than are read here. {Kept}",
            FileFaultCode.TooManyAttributes => $"{kind} has more than {number} attributes, more than are read here. {Kept}",
            FileFaultCode.HeaderCutShort => $"{kind} is cut short within its header. {Kept}",
            FileFaultCode.NoSamples => $"{kind} is cut short: it ends before its samples begin. {Kept}",
            FileFaultCode.UnknownCoding =>
                $"The samples of this file are in a coding that is not read here (coding {fault.Name}, {number} bits, "
                    + $"{DisplayText.Count((int)fault.Second, "channel", "channels")}). {Kept}",
            FileFaultCode.SoundCutShort =>
                $"{kind} is cut short: it promises more sound than the {fault.Number:0.0} s that are in it. {Kept}",
            _ => throw new ArgumentOutOfRangeException(nameof(fault), fault.Code, "No one has found words for it."),
        };
    }

    public static string Of(FileNotice notice) =>
        notice.Code switch
        {
            FileNoticeCode.NotDrawn => $"This picture is {notice.Count:N0} × {notice.Second:N0} px, more than is drawn here. {Kept}",
            FileNoticeCode.NamesOutside => $"This file names {DisplayText.Count((int)notice.Count, "file", "files")} outside itself "
                + $"({string.Join(", ", notice.Names.Select(n => n.Length == 0 ? "one hidden in escapes" : n))}"
                + $"{(notice.Count > notice.Names.Count ? ", …" : "")}). Nothing is fetched, so it is drawn without.",
            _ => throw new ArgumentOutOfRangeException(nameof(notice), notice.Code, "No one has found words for it."),
        };

    public static string Of(ArrivalNotice notice)
    {
        const string asOne = "It is kept as the one file that it is.";
        var named = notice.Name.Length == 0 ? "" : $" (“{notice.Name}”)";
        return notice.Code switch
        {
            ArrivalNoticeCode.ZipDamaged => $"This zip is cut short or damaged, so it was not unpacked. {asOne}",
            ArrivalNoticeCode.ZipHasLink => $"This zip has a link in it{named}, and links are never followed. {asOne}",
            ArrivalNoticeCode.ZipLocked => $"This zip is locked with a password, so it was not unpacked. {asOne}",
            ArrivalNoticeCode.ZipFolderWithBytes =>
                $"This zip has bytes under the name of a folder{named}, which no folder can hold. {asOne}",
            ArrivalNoticeCode.ZipPathRefused =>
                $"A path in this zip{named} {(notice.Path is { } fault ? Of(fault) : "is not allowed")}, so it was not unpacked. {asOne}",
            ArrivalNoticeCode.ZipNameTwice => $"This zip has two files of one name{named}. {asOne}",
            ArrivalNoticeCode.ZipEmpty => $"This zip has no files in it. {asOne}",
            ArrivalNoticeCode.ZipTooManyFiles => $"This zip has more than {notice.Number:N0} files in it. {asOne}",
            ArrivalNoticeCode.ZipBomb => $"This zip unpacks to far more than its size. {asOne}",
            _ => throw new ArgumentOutOfRangeException(nameof(notice), notice.Code, "No one has found words for it."),
        };
    }

    /// <summary>Goes on from the path, without an end.</summary>
    public static string Of(PathFault fault) =>
        fault switch
        {
            PathFault.Empty => "is empty",
            PathFault.Illegible => "holds characters that no name may hold",
            PathFault.TooLong => $"is longer than {ProjectPath.MaxBytes:N0} bytes",
            PathFault.Absolute => "is an absolute path; only paths inside the folder are taken",
            PathFault.LeadsOut => "leads out of its folder",
            PathFault.EmptyPart => "has an empty part",
            PathFault.PartTooLong => $"has a name in it that is longer than {ProjectPath.MaxPartBytes} bytes",
            _ => throw new ArgumentOutOfRangeException(nameof(fault), fault, "No one has found words for it."),
        };

    public static string Of(SaveDoubt doubt) =>
        doubt.Code switch
        {
            SaveDoubtCode.Unreadable => Of(doubt.Fault!),
            SaveDoubtCode.Flattened => $"The last version had {DisplayText.Count((int)doubt.Before, "layer", "layers")}; this save has "
                + $"{(doubt.Now == 1 ? "one" : "none")}.",
            SaveDoubtCode.FewerLayers =>
                $"The last version had {DisplayText.Count((int)doubt.Before, "layer", "layers")}; of this save {doubt.Now:N0} are left.",
            SaveDoubtCode.OtherRate =>
                $"The last version ran at {doubt.Before / 1000.0:0.###} kHz; this save runs at {doubt.Now / 1000.0:0.###} kHz.",
            SaveDoubtCode.OtherBits => $"The last version had {doubt.Before} bits a sample; this save has {doubt.Now}.",
            SaveDoubtCode.OtherChannels =>
                $"The last version had {DisplayText.Count((int)doubt.Before, "channel", "channels")}; this save has {doubt.Now}.",
            SaveDoubtCode.OtherSize => $"The last version was {Size(doubt.PictureBefore)}; this save is {Size(doubt.PictureNow)}.",
            SaveDoubtCode.OtherResolution => $"The last version had {Resolution(doubt.Before)}; this save has {Resolution(doubt.Now)}.",
            SaveDoubtCode.OtherColour => $"The last version was {Colours(doubt.PictureBefore)}; this save is {Colours(doubt.PictureNow)}.",
            SaveDoubtCode.MuchShorter =>
                $"The last version was {DisplayText.Clock(doubt.Before / 1000.0)} long; this save is {DisplayText.Clock(doubt.Now / 1000.0)}.",
            SaveDoubtCode.FewerPages =>
                $"The last version had {DisplayText.Count((int)doubt.Before, "page", "pages")}; this save has {doubt.Now:N0}.",
            SaveDoubtCode.MuchEmptier =>
                $"Of what was painted on the layers of the last version, {Share(doubt.Before == 0 ? 0 : (double)doubt.Now / doubt.Before)} is "
                    + "left.",
            SaveDoubtCode.MuchSmaller =>
                $"The last version had {DisplayText.Size(doubt.Before)}; this save has {DisplayText.Size(doubt.Now)}.",
            SaveDoubtCode.Arrived => Of(doubt.Arrival!),
            SaveDoubtCode.OtherKind => $"This piece is {Kind(doubt.KindBefore)}; this save is {Kind(doubt.KindNow)}.",
            _ => throw new ArgumentOutOfRangeException(nameof(doubt), doubt.Code, "No one has found words for it."),
        };

    /// <summary>What is not asked about any more, within a list.</summary>
    public static string Of(SaveDoubtCode expected) =>
        expected switch
        {
            SaveDoubtCode.Unreadable => "a file that is not read here",
            SaveDoubtCode.Flattened => "flattened layers",
            SaveDoubtCode.FewerLayers => "far fewer layers",
            SaveDoubtCode.OtherRate => "another sample rate",
            SaveDoubtCode.OtherBits => "another bit depth",
            SaveDoubtCode.OtherChannels => "other channels",
            SaveDoubtCode.OtherSize => "another size",
            SaveDoubtCode.OtherResolution => "another resolution",
            SaveDoubtCode.OtherColour => "other colours",
            SaveDoubtCode.MuchShorter => "a much shorter sound",
            SaveDoubtCode.FewerPages => "far fewer pages",
            SaveDoubtCode.MuchEmptier => "much emptier layers",
            SaveDoubtCode.MuchSmaller => "a much smaller file",
            SaveDoubtCode.Arrived => "how it arrived",
            SaveDoubtCode.OtherKind => "another kind of file",
            _ => throw new ArgumentOutOfRangeException(nameof(expected), expected, "No one has found words for it."),
        };

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
            ComparisonBasis.Bytes => $"{share} of the bytes are not held in common.",
            ComparisonBasis.Unreadable => $"One of the two cannot be read, so what changed cannot be "
                + $"measured.{(comparison.Fault is { } fault ? $" {Of(fault)}" : "")}",
            ComparisonBasis.Packed => "Files of this kind are compressed as a whole, so what changed cannot be measured.",
            ComparisonBasis.DifferentKinds => "The two are of different kinds, so what changed cannot be measured.",
            ComparisonBasis.TooHeavy =>
                "The two are too heavy to compare here, so what changed cannot be measured. Both are stored as they came.",
            _ => throw new ArgumentOutOfRangeException(nameof(comparison), comparison.Basis, "No one has found words for it."),
        };
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
            return changed.ConvertAll(c => (c.Name, c.Kind.ToString().ToLowerInvariant()));
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
                            g.GroupBy(c => c.Kind).OrderBy(k => k.Key).Select(k => $"{k.Count():N0} {k.Key.ToString().ToLowerInvariant()}")
                        )
                    )
                ),
        ];
    }

    private const int MostFiles = 8;

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

    /// <summary>What a picture is, as it stands in the ledger.</summary>
    public static string Of(PictureFacts picture) =>
        string.Join(
            ", ",
            new[]
            {
                $"{picture.Width} × {picture.Height} px",
                picture.Resolution is { } resolution ? $"{resolution:0.#} dpi" : null,
                picture is { Colour: { } colour, Depth: { } depth } ? $"{Of(colour)} {depth} bit" : null,
                picture.Profile,
                picture.Seconds is { } seconds ? $"{picture.Pages:N0} frames in {seconds:0.0} s"
                : picture.Pages > 1 ? $"{picture.Pages:N0} pages"
                : null,
            }.OfType<string>()
        );

    /// <summary>What a sound is, as it stands in the ledger.</summary>
    public static string Of(SoundFacts sound) =>
        string.Join(
            ", ",
            new[]
            {
                $"{sound.SampleRate / 1000.0:0.###} kHz",
                sound.Bits == 0 ? null : $"{sound.Bits} bit{(sound.IsFloat ? " float" : "")}",
                sound.Channels switch
                {
                    1 => "mono",
                    2 => "stereo",
                    var n => $"{n} channels",
                },
                DisplayText.Clock(sound.Duration.TotalSeconds),
            }.OfType<string>()
        );

    private static string Of(ColourModel colour) =>
        colour switch
        {
            ColourModel.Grey => "grey",
            ColourModel.Rgb => "RGB",
            ColourModel.Cmyk => "CMYK",
            ColourModel.Lab => "L*a*b*",
            _ => "other colours",
        };

    private static string Used(string what) => what.Length == 0 ? "nothing" : what[(what.LastIndexOf('/') + 1)..];

    /// <summary>What a scene holds, as it stands in the ledger.</summary>
    public static string Of(SceneFacts scene) =>
        string.Join(
            ", ",
            new[]
            {
                DisplayText.Count(scene.Count(ScenePartKind.Node), "node", "nodes"),
                DisplayText.Count(scene.Count(ScenePartKind.Mesh), "mesh", "meshes"),
                $"{scene.Triangles:N0} triangles",
                DisplayText.Count(scene.Count(ScenePartKind.Material), "material", "materials"),
                scene.Count(ScenePartKind.Animation) is > 0 and var moving ? DisplayText.Count(moving, "animation", "animations") : null,
                scene.Count(ScenePartKind.Camera) is > 0 and var cameras ? DisplayText.Count(cameras, "camera", "cameras") : null,
                scene.Count(ScenePartKind.Picture) is > 0 and var pictures ? DisplayText.Count(pictures, "picture", "pictures") : null,
            }.OfType<string>()
        );

    /// <summary>What a timeline holds, as it stands in the ledger.</summary>
    public static string Of(TimelineFacts timeline)
    {
        var clips = timeline.Tracks.Sum(t => t.Items.Count(i => i.Kind is TimelineItemKind.Clip or TimelineItemKind.Nested));
        return $"{DisplayText.Count(timeline.Tracks.Count, "track", "tracks")}, {DisplayText.Count(clips, "clip", "clips")}, "
            + $"{DisplayText.Clock(timeline.Length)}{(timeline.Rate > 0 ? $" at {timeline.Rate:0.###} frames a second" : "")}";
    }

    /// <summary>What a text is, as it stands in the ledger.</summary>
    public static string Of(TextFacts text) =>
        $"{DisplayText.Count(text.Lines, "line", "lines")}, {DisplayText.Count(text.Words, "word", "words")}, {text.Encoding}";

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

    private static string Size(PictureFacts? picture) => picture is null ? "unknown" : $"{picture.Width} × {picture.Height} px";

    private static string Resolution(long hundredths) => hundredths == 0 ? "no resolution written in it" : $"{hundredths / 100.0:0.##} dpi";

    private static string Colours(PictureFacts? picture) =>
        picture is null
            ? "unknown"
            : $"{Of(picture.Colour ?? ColourModel.Other)} at {picture.Depth?.ToString() ?? "unknown"} bit"
                + $"{(picture.Profile is { } profile ? $", {profile}" : ", without a profile")}"
                + $"{(picture.HasAlpha ? ", with transparency" : "")}";

    private static string Kind(string extension) => extension.Length == 0 ? "a file without an extension" : $"a {extension} file";

    private static string KindOf(FileFormat format) =>
        format switch
        {
            FileFormat.OpenRaster => "This OpenRaster file",
            FileFormat.Svg => "This SVG",
            FileFormat.Wave => "This WAVE file",
            FileFormat.Aiff => "This AIFF file",
            FileFormat.Gif => "This GIF",
            FileFormat.Flac => "This FLAC file",
            FileFormat.Vorbis or FileFormat.Opus => "This Ogg file",
            FileFormat.Mpeg => "This MP3 file",
            FileFormat.Gltf => "This scene",
            FileFormat.Timeline => "This timeline",
            FileFormat.Pdf => "This PDF",
            FileFormat.Text => "This text",
            _ => "This file",
        };

    internal static string Share(double share) =>
        share switch
        {
            0 => "Nothing",
            < 0.001 => "Less than 0.1 %",
            < 0.1 => $"{share * 100:0.0} %",
            _ => $"{share * 100:0} %",
        };
}
