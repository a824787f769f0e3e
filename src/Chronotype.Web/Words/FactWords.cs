using Chronotype.Core.Comparing;
using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Versions;

namespace Chronotype.Web.Words;

/// <summary>What is known of files and of what changed in them, in sentences for whoever made them.</summary>
public static partial class FactWords
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
            FileFaultCode.DocumentCutShort => $"{kind} is cut short: it ends before the mark of its end. {Kept}",
            FileFaultCode.DocumentUnreadable => $"The parts of this document cannot be found in it. {Kept}",
            FileFaultCode.DocumentLocked => $"{kind} opens with a password only, so it is carried as it is.",
            FileFaultCode.TooManyPages => $"{kind} has more than {number} pages. {Kept}",
            FileFaultCode.TooLongForFormat => "It would be longer than this format has room for: choose WAVE or FLAC.",
            FileFaultCode.OutsideOfIt => "The stretch that the recipe cuts out lies behind the end of it.",
            FileFaultCode.ProfileUnreadable => "The colour profile of the recipe cannot be used: hand it in again, or choose another.",
            FileFaultCode.NeedsTool =>
                $"{fault.Name} does not stand on this machine, or cannot write this; whoever runs the studio can install it.",
            FileFaultCode.RecipeGone => $"The recipe {fault.Name} was taken away before its turn came.",
            FileFaultCode.NoStrokes => "There are no lines in it that could be cut: texts and pictures are not.",
            FileFaultCode.ReferenceMissing => $"It refers to {fault.Name}, which is not there.",
            FileFaultCode.FilmUnreadable => $"The moving pictures in this file cannot be decoded: it may be cut short or damaged. {Kept}",
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
            FileFormat.Text => "This text",
            FileFormat.Pdf => "This PDF",
            FileFormat.Film => "This film",
            _ => "This file",
        };
}
