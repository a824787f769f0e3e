using Chronotype.Core.Content;

namespace Chronotype.Core.Structure;

/// <summary>What sound must be; null for what may be as it is.</summary>
/// <param name="SampleRate">Hertz, exactly.</param>
/// <param name="Bits">Bits of a sample, or more.</param>
/// <param name="Channels">Channels of what is made here, exactly.</param>
public sealed record SoundSpec(int? SampleRate = null, int? Bits = null, int? Channels = null);

/// <summary>What pictures must be; null for what may be as it is.</summary>
/// <param name="Width">Pixels of what is made here, exactly; with <paramref name="Height"/>.</param>
/// <param name="Height">As <paramref name="Width"/>.</param>
/// <param name="Resolution">Pixels an inch, or more.</param>
/// <param name="Colour">Of what it is painted; grey goes with any.</param>
/// <param name="Depth">Bits of a channel, or more.</param>
public sealed record PictureSpec(
    int? Width = null,
    int? Height = null,
    int? Resolution = null,
    ColourModel? Colour = null,
    int? Depth = null
);

/// <summary>What moving pictures must be; null for what may be as it is.</summary>
/// <param name="Width">Pixels of what is made here, exactly; with <paramref name="Height"/>.</param>
/// <param name="Height">As <paramref name="Width"/>.</param>
/// <param name="FramesPerSecond">Exactly, to what is told of a film: 29.97 is not 30.</param>
public sealed record MotionSpec(int? Width = null, int? Height = null, double? FramesPerSecond = null);

/// <summary>One thing that a spec says.</summary>
public enum SpecPoint
{
    /// <summary><see cref="SoundSpec.SampleRate"/>.</summary>
    SampleRate,

    /// <summary><see cref="SoundSpec.Bits"/>.</summary>
    Bits,

    /// <summary><see cref="SoundSpec.Channels"/>.</summary>
    Channels,

    /// <summary><see cref="PictureSpec.Width"/> and <see cref="PictureSpec.Height"/>.</summary>
    PixelSize,

    /// <summary><see cref="PictureSpec.Resolution"/>.</summary>
    Resolution,

    /// <summary><see cref="PictureSpec.Colour"/>.</summary>
    Colour,

    /// <summary><see cref="PictureSpec.Depth"/>.</summary>
    Depth,

    /// <summary><see cref="MotionSpec.Width"/> and <see cref="MotionSpec.Height"/>.</summary>
    FrameSize,

    /// <summary><see cref="MotionSpec.FramesPerSecond"/>.</summary>
    FrameRate,
}

/// <summary>What was read in a file that a spec can speak of; null for what it has not, or does not say.</summary>
public sealed record FileMeasures
{
    /// <summary>Hertz.</summary>
    public int? SampleRate { get; init; }

    /// <summary>Bits of a sample; null where it is coded.</summary>
    public int? Bits { get; init; }

    /// <summary>Channels of its sound.</summary>
    public int? Channels { get; init; }

    /// <summary>Pixels; null for a drawing, which has any size.</summary>
    public int? Width { get; init; }

    /// <summary>As <see cref="Width"/>.</summary>
    public int? Height { get; init; }

    /// <summary>Pixels an inch.</summary>
    public double? Resolution { get; init; }

    /// <summary>Null for a drawing.</summary>
    public ColourModel? Colour { get; init; }

    /// <summary>Bits of a channel of a pixel.</summary>
    public int? Depth { get; init; }

    /// <summary>Pixels of a film.</summary>
    public int? FrameWidth { get; init; }

    /// <summary>As <see cref="FrameWidth"/>.</summary>
    public int? FrameHeight { get; init; }

    /// <summary>Of a film or a timeline.</summary>
    public double? FramesPerSecond { get; init; }

    /// <summary>Takes them out of what was read.</summary>
    public static FileMeasures Of(FileFacts facts)
    {
        var picture = facts.Format == FileFormat.Svg ? null : facts.Picture;
        return new FileMeasures
        {
            SampleRate = Known(facts.Sound?.SampleRate),
            Bits = Known(facts.Sound?.Bits),
            Channels = Known(facts.Sound?.Channels),
            Width = Known(picture?.Width),
            Height = Known(picture?.Height),
            Resolution = picture?.Resolution,
            Colour = picture?.Colour,
            Depth = Known(picture?.Depth),
            FrameWidth = Known(facts.Film?.Width),
            FrameHeight = Known(facts.Film?.Height),
            FramesPerSecond =
                facts.Film?.FramesPerSecond is > 0 and var film ? film
                : facts.Timeline?.Rate is > 0 and var rate ? rate
                : null,
        };
    }

    private static int? Known(int? value) => value is > 0 ? value : null;
}

/// <summary>What the files of a project must be.</summary>
public sealed record ProjectSpec
{
    // 30000/1001 is told as 29.97.
    private const double SameRate = 0.008;
    private const double SameResolution = 0.5;

    /// <summary>Null where sound may be as it is.</summary>
    public SoundSpec? Sound { get; init; }

    /// <summary>Null where pictures may be as they are.</summary>
    public PictureSpec? Picture { get; init; }

    /// <summary>Null where moving pictures may be as they are.</summary>
    public MotionSpec? Motion { get; init; }

    /// <summary>Whether it says nothing at all.</summary>
    public bool IsEmpty => this == new ProjectSpec();

    /// <summary>
    /// What of a file is not as it must be. Sizes and channels are asked of what is made here and of outputs alone: a texture has a size of
    /// its own, and a voice may be mono in a stereo mix. Documents are never asked. What a file does not say is no fault of it.
    /// </summary>
    /// <param name="file">What was read in it.</param>
    /// <param name="role">Of the folder that it stands in.</param>
    public IReadOnlyList<SpecPoint> FaultsOf(FileMeasures file, FolderRole role)
    {
        if (role == FolderRole.Documents)
            return [];
        var isMade = role.IsWorking() || role == FolderRole.Outputs;
        var faults = new List<SpecPoint>();
        void Check(bool isFault, SpecPoint point)
        {
            if (isFault)
                faults.Add(point);
        }
        Check(file.SampleRate is { } rate && Sound?.SampleRate is { } wanted && rate != wanted, SpecPoint.SampleRate);
        Check(file.Bits < Sound?.Bits, SpecPoint.Bits);
        Check(isMade && file.Channels is { } channels && Sound?.Channels is { } count && channels != count, SpecPoint.Channels);
        Check(isMade && IsOther((file.Width, file.Height), (Picture?.Width, Picture?.Height)), SpecPoint.PixelSize);
        Check(file.Resolution < Picture?.Resolution - SameResolution, SpecPoint.Resolution);
        Check(file.Colour is { } colour and not ColourModel.Grey && Picture?.Colour is { } model && colour != model, SpecPoint.Colour);
        Check(file.Depth < Picture?.Depth, SpecPoint.Depth);
        Check(isMade && IsOther((file.FrameWidth, file.FrameHeight), (Motion?.Width, Motion?.Height)), SpecPoint.FrameSize);
        Check(
            file.FramesPerSecond is { } frames && Motion?.FramesPerSecond is { } asked && Math.Abs(frames - asked) > SameRate,
            SpecPoint.FrameRate
        );
        return faults;
    }

    /// <summary>What of it is not within what can be meant: the first point that is out of range; null for none.</summary>
    public SpecPoint? OutOfRange() =>
        Sound?.SampleRate is < 1000 or > 1_000_000 ? SpecPoint.SampleRate
        : Sound?.Bits is < 1 or > 64 ? SpecPoint.Bits
        : Sound?.Channels is < 1 or > 128 ? SpecPoint.Channels
        : !IsSize(Picture?.Width, Picture?.Height) ? SpecPoint.PixelSize
        : Picture?.Resolution is < 1 or > 10_000 ? SpecPoint.Resolution
        : Picture?.Colour is { } colour && !Enum.IsDefined(colour) ? SpecPoint.Colour
        : Picture?.Depth is < 1 or > 64 ? SpecPoint.Depth
        : !IsSize(Motion?.Width, Motion?.Height) ? SpecPoint.FrameSize
        : Motion?.FramesPerSecond is { } rate && rate is not (>= 1 and <= 1000) ? SpecPoint.FrameRate
        : null;

    /// <summary>The same with nothing where a part of it says nothing.</summary>
    public ProjectSpec Trimmed() =>
        new()
        {
            Sound = Sound == new SoundSpec() ? null : Sound,
            Picture = Picture == new PictureSpec() ? null : Picture,
            Motion = Motion == new MotionSpec() ? null : Motion,
        };

    private static bool IsOther((int?, int?) size, (int?, int?) wanted) => size is ({ }, { }) && wanted is ({ }, { }) && size != wanted;

    private static bool IsSize(int? width, int? height) =>
        (width, height) is (null, null) or (>= 1 and <= 1_000_000, >= 1 and <= 1_000_000);
}

/// <summary>A spec that is usual in the trade.</summary>
/// <param name="Key">Its name in addresses.</param>
/// <param name="Title">Its name for people.</param>
/// <param name="Spec">One part of a spec.</param>
public sealed record SpecPreset(string Key, string Title, ProjectSpec Spec)
{
    /// <summary>For sound, pictures and moving pictures.</summary>
    public static readonly IReadOnlyList<SpecPreset> All =
    [
        Of("sound-for-picture", "Sound for picture", new SoundSpec(48_000, 24, 2)),
        Of("spoken-word", "Spoken word", new SoundSpec(44_100, 16, 1)),
        // IEC 60908.
        Of("compact-disc", "Compact disc", new SoundSpec(44_100, 16, 2)),
        Of("music-96", "Music, high rate", new SoundSpec(96_000, 24, 2)),
        // ISO 12647-2: four inks; twice a screen of 60 lines a centimetre.
        Of("offset-print", "Offset print", new PictureSpec(Resolution: 300, Colour: ColourModel.Cmyk, Depth: 8)),
        Of("large-format", "Large-format print", new PictureSpec(Resolution: 150, Colour: ColourModel.Cmyk, Depth: 8)),
        Of("screens", "Screens", new PictureSpec(Colour: ColourModel.Rgb, Depth: 8)),
        Of("scans", "Scans to keep", new PictureSpec(Resolution: 600, Depth: 16)),
        // Recommendation ITU-R BT.709, BT.2020; SMPTE ST 428-1.
        Of("hd-25", "HD, 25 frames", new MotionSpec(1920, 1080, 25)),
        Of("hd-24", "HD, 24 frames", new MotionSpec(1920, 1080, 24)),
        Of("hd-2997", "HD, 29.97 frames", new MotionSpec(1920, 1080, 29.97)),
        Of("uhd-25", "UHD, 25 frames", new MotionSpec(3840, 2160, 25)),
        Of("cinema-2k", "Cinema, 2K", new MotionSpec(2048, 1080, 24)),
        Of("upright", "Upright, for hand-held screens", new MotionSpec(1080, 1920, 30)),
    ];

    private static SpecPreset Of(string key, string title, SoundSpec sound) => new(key, title, new ProjectSpec { Sound = sound });

    private static SpecPreset Of(string key, string title, PictureSpec picture) => new(key, title, new ProjectSpec { Picture = picture });

    private static SpecPreset Of(string key, string title, MotionSpec motion) => new(key, title, new ProjectSpec { Motion = motion });
}
