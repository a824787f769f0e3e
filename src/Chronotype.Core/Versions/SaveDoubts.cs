using Chronotype.Core.Content;

namespace Chronotype.Core.Versions;

/// <summary>What speaks against numbering a save without asking.</summary>
public enum SaveDoubtCode
{
    /// <summary>It cannot be read. <see cref="SaveDoubt.Fault"/> says why.</summary>
    Unreadable,

    /// <summary>Layers, from more than one to at most one.</summary>
    Flattened,

    /// <summary>Layers, of which fewer than half are left.</summary>
    FewerLayers,

    /// <summary>Samples a second, in hertz.</summary>
    OtherRate,

    /// <summary>Bits of a sample.</summary>
    OtherBits,

    /// <summary>The channels of a sound.</summary>
    OtherChannels,

    /// <summary>The size of a picture. <see cref="SaveDoubt.PictureBefore"/> and <see cref="SaveDoubt.PictureNow"/>.</summary>
    OtherSize,

    /// <summary>Pixels an inch, in hundredths; 0 where one of the two does not say.</summary>
    OtherResolution,

    /// <summary>
    /// Colour model, depth, profile or transparency. <see cref="SaveDoubt.PictureBefore"/> and <see cref="SaveDoubt.PictureNow"/>.
    /// </summary>
    OtherColour,

    /// <summary>Milliseconds of sound, of which fewer than half are left.</summary>
    MuchShorter,

    /// <summary>Pages, of which fewer than half are left.</summary>
    FewerPages,

    /// <summary>Painted pixels of all layers, of which fewer than a quarter are left.</summary>
    MuchEmptier,

    /// <summary>Bytes of a file that is not read inside, of which fewer than a third are left.</summary>
    MuchSmaller,

    /// <summary>It did not arrive as it was meant to. <see cref="SaveDoubt.Arrival"/> says how.</summary>
    Arrived,

    /// <summary>
    /// Another kind of file than the piece is. <see cref="SaveDoubt.KindBefore"/> and <see cref="SaveDoubt.KindNow"/>: extensions with
    /// their dot.
    /// </summary>
    OtherKind,
}

/// <summary>One thing that speaks against a save, as values; whoever shows it finds the words.</summary>
/// <param name="Code">What it is.</param>
/// <param name="Before">What the last version had, as the code says.</param>
/// <param name="Now">What the save has.</param>
public sealed record SaveDoubt(SaveDoubtCode Code, long Before = 0, long Now = 0)
{
    /// <summary>What is wrong with the file; null where that is not the doubt.</summary>
    public FileFault? Fault { get; init; }

    /// <summary>What was noticed as it came; null where that is not the doubt.</summary>
    public ArrivalNotice? Arrival { get; init; }

    /// <summary>The kind that the piece’s files had.</summary>
    public string KindBefore { get; init; } = "";

    /// <summary>The kind of this one.</summary>
    public string KindNow { get; init; } = "";

    /// <summary>The picture of the last version; null where that is not the doubt.</summary>
    public PictureFacts? PictureBefore { get; init; }

    /// <summary>The picture of the save.</summary>
    public PictureFacts? PictureNow { get; init; }

    /// <summary>
    /// Whether a person may say that it is to be expected of this piece from now on. A file that is cut short or damaged, or did not arrive
    /// whole, is asked about every time.
    /// </summary>
    public bool MayBeExpected =>
        Code switch
        {
            SaveDoubtCode.Unreadable => Fault?.IsBeyondReading == true,
            SaveDoubtCode.Arrived => false,
            _ => true,
        };
}

/// <summary>What speaks against numbering a save without asking: it cannot be read, or it lost what the last version had.</summary>
public static class SaveDoubts
{
    // Below this many bytes a file says nothing by its size.
    private const long LeastBytes = 64 << 10;

    /// <param name="previous">What was read in the newest version; null when there is none.</param>
    /// <param name="save">What was read in the save.</param>
    /// <param name="bytesBefore">Bytes of the newest version's main file.</param>
    /// <param name="bytesNow">Bytes of the save's.</param>
    /// <returns>Empty when nothing speaks against it.</returns>
    public static IReadOnlyList<SaveDoubt> Find(FileFacts? previous, FileFacts save, long bytesBefore = 0, long bytesNow = 0)
    {
        if (save.Fault is { } fault)
            return [new SaveDoubt(SaveDoubtCode.Unreadable) { Fault = fault }];
        if (previous is null || previous.Fault is not null)
            return [];
        var doubts = new List<SaveDoubt>();
        if (previous.LayerCount > 1)
            Layers(previous, save, doubts);
        if (previous.Sound is { } soundBefore && save.Sound is { } soundNow)
            Sound(soundBefore, soundNow, doubts);
        if (previous.Picture is { } pictureBefore && save.Picture is { } pictureNow)
            Picture(pictureBefore, pictureNow, previous.Format == save.Format, doubts);
        if (previous.Document is { } documentBefore && save.Document is { } documentNow && documentNow.Pages * 2 < documentBefore.Pages)
            doubts.Add(new(SaveDoubtCode.FewerPages, documentBefore.Pages, documentNow.Pages));
        if (previous.Film is { } filmBefore && save.Film is { } filmNow)
            Film(filmBefore, filmNow, doubts);
        var isClosed = previous.Format == FileFormat.Other && save.Format == FileFormat.Other;
        if (isClosed && bytesBefore >= LeastBytes && bytesNow < bytesBefore / 3)
            doubts.Add(new(SaveDoubtCode.MuchSmaller, bytesBefore, bytesNow));
        return doubts;
    }

    private static void Layers(FileFacts previous, FileFacts save, List<SaveDoubt> doubts)
    {
        var (before, now) = (previous.LayerCount, save.LayerCount);
        if (now <= 1)
            doubts.Add(new(SaveDoubtCode.Flattened, before, now));
        else if (now * 2 < before)
            doubts.Add(new(SaveDoubtCode.FewerLayers, before, now));
        var (painted, left) = (previous.Layers.Sum(l => l.Area), save.Layers.Sum(l => l.Area));
        if (now > 1 && left < painted / 4)
            doubts.Add(new(SaveDoubtCode.MuchEmptier, painted, left));
    }

    private static void Sound(SoundFacts before, SoundFacts now, List<SaveDoubt> doubts)
    {
        if (now.SampleRate != before.SampleRate)
            doubts.Add(new(SaveDoubtCode.OtherRate, before.SampleRate, now.SampleRate));
        if (now.Bits != before.Bits && now.Bits > 0 && before.Bits > 0)
            doubts.Add(new(SaveDoubtCode.OtherBits, before.Bits, now.Bits));
        if (now.Channels != before.Channels)
            doubts.Add(new(SaveDoubtCode.OtherChannels, before.Channels, now.Channels));
        if (now.Duration < before.Duration / 2)
            doubts.Add(new(SaveDoubtCode.MuchShorter, (long)before.Duration.TotalMilliseconds, (long)now.Duration.TotalMilliseconds));
    }

    private static void Film(FilmFacts before, FilmFacts now, List<SaveDoubt> doubts)
    {
        if ((now.Width, now.Height) != (before.Width, before.Height))
            doubts.Add(
                new(SaveDoubtCode.OtherSize)
                {
                    PictureBefore = new PictureFacts(before.Width, before.Height),
                    PictureNow = new PictureFacts(now.Width, now.Height),
                }
            );
        if (now.Seconds < before.Seconds / 2)
            doubts.Add(new(SaveDoubtCode.MuchShorter, (long)(before.Seconds * 1000), (long)(now.Seconds * 1000)));
    }

    private static void Picture(PictureFacts before, PictureFacts now, bool isOneFormat, List<SaveDoubt> doubts)
    {
        SaveDoubt Of(SaveDoubtCode code) => new(code) { PictureBefore = before, PictureNow = now };
        if ((now.Width, now.Height) != (before.Width, before.Height))
            doubts.Add(Of(SaveDoubtCode.OtherSize));
        // Another format tells other things of itself; that it is another is asked about for itself.
        if (!isOneFormat)
            return;
        // A resolution is written as a fraction or in metres; what differs by less than a twentieth of a dot is the same.
        if (Math.Abs((before.Resolution ?? 0) - (now.Resolution ?? 0)) > 0.05)
            doubts.Add(new(SaveDoubtCode.OtherResolution, Hundredths(before.Resolution), Hundredths(now.Resolution)));
        if (
            (now.Colour, now.Depth, now.Profile, now.HasAlpha) != (before.Colour, before.Depth, before.Profile, before.HasAlpha)
            && before.Colour is not null
            && now.Colour is not null
        )
            doubts.Add(Of(SaveDoubtCode.OtherColour));
        if (now.Pages * 2 < before.Pages)
            doubts.Add(new(SaveDoubtCode.FewerPages, before.Pages, now.Pages));
    }

    private static long Hundredths(double? resolution) => (long)Math.Round((resolution ?? 0) * 100);
}
