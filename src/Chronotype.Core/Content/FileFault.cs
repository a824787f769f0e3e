namespace Chronotype.Core.Content;

/// <summary>Why a file cannot be read or drawn.</summary>
public enum FileFaultCode
{
    /// <summary>It has no bytes.</summary>
    Empty,

    /// <summary>It takes more memory or time than is given to one file.</summary>
    TooHeavy,

    /// <summary>The reader met something that nobody thought of. <see cref="FileFault.Name"/>: its kind.</summary>
    NotUnderstood,

    /// <summary>The picture library cannot read it: cut short, damaged, or of a kind that is not drawn.</summary>
    PictureUnreadable,

    /// <summary>It claims to be larger than is drawn. <see cref="FileFault.Number"/> by <see cref="FileFault.Second"/> pixels.</summary>
    PictureTooLarge,

    /// <summary>A layered file without the picture of all its layers.</summary>
    NoMergedPicture,

    /// <summary>The list of parts at the container's end cannot be read.</summary>
    ContainerUnreadable,

    /// <summary>More parts than are read. <see cref="FileFault.Number"/>: how many are.</summary>
    TooManyParts,

    /// <summary>A part is damaged. <see cref="FileFault.Name"/>: which; empty where that is not known.</summary>
    PartDamaged,

    /// <summary>Its parts unpack to more than is read.</summary>
    PartsTooLarge,

    /// <summary>The description of the layers is missing or too long.</summary>
    NoStack,

    /// <summary>The description of the layers does not begin with an image.</summary>
    StackNotImage,

    /// <summary>The description of the layers cannot be read. <see cref="FileFault.Number"/>: the line.</summary>
    StackUnreadable,

    /// <summary>No layers are described.</summary>
    NoLayers,

    /// <summary>It is not said how large the canvas is.</summary>
    NoCanvas,

    /// <summary>More layers than are read. <see cref="FileFault.Number"/>: how many are.</summary>
    TooManyLayers,

    /// <summary>A layer without pixels. <see cref="FileFault.Name"/>: which.</summary>
    LayerWithoutPixels,

    /// <summary>More text than is drawn. <see cref="FileFault.Number"/>: how many bytes are.</summary>
    TextTooLong,

    /// <summary>
    /// It does not begin as its format does. <see cref="FileFault.Name"/>: what it begins with; empty where that says nothing.
    /// </summary>
    WrongBeginning,

    /// <summary>It defines entities, which can hide a file of any size. <see cref="FileFault.Number"/>: the line.</summary>
    DefinesEntities,

    /// <summary>Its text is not well formed. <see cref="FileFault.Number"/>: the line.</summary>
    NotWellFormed,

    /// <summary>Its groups are nested deeper than is read. <see cref="FileFault.Number"/>: how deep is.</summary>
    TooDeep,

    /// <summary>More elements than are read. <see cref="FileFault.Number"/>: how many are.</summary>
    TooManyElements,

    /// <summary>More attributes than are read. <see cref="FileFault.Number"/>: how many are.</summary>
    TooManyAttributes,

    /// <summary>It ends within its header.</summary>
    HeaderCutShort,

    /// <summary>It ends before its samples begin.</summary>
    NoSamples,

    /// <summary>
    /// Samples in a coding that is not read. <see cref="FileFault.Name"/>: the coding's number; <see cref="FileFault.Number"/> bits;
    /// <see cref="FileFault.Second"/> channels.
    /// </summary>
    UnknownCoding,

    /// <summary>It promises more sound than there is. <see cref="FileFault.Number"/>: seconds that are there.</summary>
    SoundCutShort,

    /// <summary>A document that ends before its mark of the end.</summary>
    DocumentCutShort,

    /// <summary>A document whose parts cannot be found.</summary>
    DocumentUnreadable,

    /// <summary>A document that opens with a password only.</summary>
    DocumentLocked,

    /// <summary>A document of more than <see cref="FileFault.Number"/> pages.</summary>
    TooManyPages,

    /// <summary>Moving pictures that cannot be decoded.</summary>
    FilmUnreadable,

    /// <summary>It would be longer than the format that is to be made has room for.</summary>
    TooLongForFormat,

    /// <summary>A stretch is asked for that lies outside of it.</summary>
    OutsideOfIt,

    /// <summary>The colour profile is none, or none that colours can be told by.</summary>
    ProfileUnreadable,

    /// <summary>A program that does it does not stand on this machine. <see cref="FileFault.Name"/>: which.</summary>
    NeedsTool,

    /// <summary>The recipe was taken away before its turn came. <see cref="FileFault.Name"/>: its key.</summary>
    RecipeGone,

    /// <summary>There are no lines in it that could be drawn or cut.</summary>
    NoStrokes,

    /// <summary>What it refers to is not there. <see cref="FileFault.Name"/>: the first.</summary>
    ReferenceMissing,
}

/// <summary>Why a file cannot be read or drawn, as values; whoever shows it finds the words.</summary>
/// <param name="Code">What is wrong.</param>
/// <param name="Name">As the code says; not trusted.</param>
/// <param name="Number">As the code says.</param>
/// <param name="Second">As the code says.</param>
public sealed record FileFault(FileFaultCode Code, string Name = "", double Number = 0, double Second = 0)
{
    /// <summary>It says what this program does not read or draw, and nothing about whether the file is whole.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public bool IsBeyondReading =>
        Code
            is FileFaultCode.TooHeavy
                or FileFaultCode.NotUnderstood
                or FileFaultCode.PictureTooLarge
                or FileFaultCode.NoMergedPicture
                or FileFaultCode.TooManyParts
                or FileFaultCode.PartsTooLarge
                or FileFaultCode.TooManyLayers
                or FileFaultCode.TextTooLong
                or FileFaultCode.DefinesEntities
                or FileFaultCode.TooDeep
                or FileFaultCode.TooManyElements
                or FileFaultCode.TooManyAttributes
                or FileFaultCode.DocumentLocked
                or FileFaultCode.TooManyPages
                or FileFaultCode.UnknownCoding;
}

/// <summary>What a person should know about a file that could be read.</summary>
public enum FileNoticeCode
{
    /// <summary>It is read, and too large to be drawn. <see cref="FileNotice.Count"/> by <see cref="FileNotice.Second"/> pixels.</summary>
    NotDrawn,

    /// <summary>
    /// It names files outside itself, which are not fetched. <see cref="FileNotice.Names"/>: the first few; <see
    /// cref="FileNotice.Count"/>: how many.
    /// </summary>
    NamesOutside,
}

/// <param name="Code">What there is to know.</param>
/// <param name="Names">As the code says; not trusted.</param>
/// <param name="Count">As the code says.</param>
/// <param name="Second">As the code says.</param>
public sealed record FileNotice(FileNoticeCode Code, IReadOnlyList<string> Names, long Count, long Second = 0);
