using System.Text.Json.Serialization;
using Chronotype.Core.Naming;

namespace Chronotype.Core.Content;

/// <summary>The formats that are read for what is inside. Anything else is <see cref="Other"/>, and no second-class citizen.</summary>
public enum FileFormat
{
    /// <summary>Any that is not read here.</summary>
    Other,

    /// <summary>OpenRaster: a zip with a stack of layers.</summary>
    OpenRaster,

    /// <summary>SVG, plain or compressed as a whole.</summary>
    Svg,

    /// <summary>PNG (ISO/IEC 15948).</summary>
    Png,

    /// <summary>JPEG (ISO/IEC 10918).</summary>
    Jpeg,

    /// <summary>TIFF 6.0.</summary>
    Tiff,

    /// <summary>GIF (GIF89a), still or moving.</summary>
    Gif,

    /// <summary>WebP (RFC 9649).</summary>
    WebP,

    /// <summary>WAV: PCM sound in RIFF, RF64 or BW64.</summary>
    Wave,

    /// <summary>AIFF and AIFC with PCM sound.</summary>
    Aiff,

    /// <summary>FLAC (RFC 9639).</summary>
    Flac,

    /// <summary>Vorbis in Ogg.</summary>
    Vorbis,

    /// <summary>Opus in Ogg (RFC 7845).</summary>
    Opus,

    /// <summary>MPEG audio, layers I to III: MP3.</summary>
    Mpeg,

    /// <summary>glTF 2.0 (ISO/IEC 12113), as text or as GLB.</summary>
    Gltf,

    /// <summary>OpenTimelineIO.</summary>
    Timeline,

    /// <summary>Plain text.</summary>
    Text,

    /// <summary>PDF (ISO 32000).</summary>
    Pdf,

    /// <summary>Moving pictures: MP4, MOV, Matroska, WebM.</summary>
    Film,
}

/// <summary>What was read inside one content. It belongs to the content's bytes, whatever save holds them.</summary>
public sealed record FileFacts
{
    /// <summary>What the content says it is, whatever its name says.</summary>
    public FileFormat Format { get; init; }

    /// <summary>Why the file could not be read; null when it could.</summary>
    public FileFault? Fault { get; init; }

    /// <summary>What a person should know about a file that could be read; empty when nothing.</summary>
    public IReadOnlyList<FileNotice> Notices { get; init; } = [];

    /// <summary>The picture in it; null where it has none, or none that can be read.</summary>
    public PictureFacts? Picture { get; init; }

    /// <summary>
    /// From the top of the stack down, each group before what lies in it, so that with <see cref="LayerFacts.Depth"/> they are a tree;
    /// empty where the format has no layers.
    /// </summary>
    public IReadOnlyList<LayerFacts> Layers { get; init; } = [];

    /// <summary>How many layers there are, groups not counted.</summary>
    [JsonIgnore]
    public int LayerCount => Layers.Count(l => l.Kind != LayerKind.Group);

    /// <summary>What it refers to or carries inside, in the order of the file.</summary>
    public IReadOnlyList<ReferenceFacts> References { get; init; } = [];

    /// <summary>The links of it that hold under a name: what patterns find in a text depends on what the file is called.</summary>
    /// <param name="name">The file's, or its path.</param>
    public IEnumerable<ReferenceFacts> ReferencesOf(string name) =>
        References.Where(r => r.Ending is null || r.Ending == FileNames.Extension(name));

    /// <summary>The sound in it; null where it has none, or none that can be read.</summary>
    public SoundFacts? Sound { get; init; }

    /// <summary>The scene in it; null where it has none.</summary>
    public SceneFacts? Scene { get; init; }

    /// <summary>The timeline in it; null where it has none.</summary>
    public TimelineFacts? Timeline { get; init; }

    /// <summary>The pages of it; null where it is no document of pages.</summary>
    public DocumentFacts? Document { get; init; }

    /// <summary>The moving pictures in it; null where it has none, or nothing here tells what they are.</summary>
    public FilmFacts? Film { get; init; }

    /// <summary>The text that it is; null where it is something else.</summary>
    public TextFacts? Text { get; init; }

    /// <summary>What its maker wrote about it, in the order of the file.</summary>
    public IReadOnlyList<TagFacts> Tags { get; init; } = [];

    /// <summary>How loud its sound is; null where it has none.</summary>
    public LevelFacts? Level { get; init; }

    /// <summary>The places that are marked in its sound, in order.</summary>
    public IReadOnlyList<MarkerFacts> Markers { get; init; } = [];

    /// <summary>
    /// Equal for two files that differ only in times or the order of their parts; null where the inside is not told apart from the
    /// bytes.
    /// </summary>
    public ContentHash? Inside { get; init; }

    /// <summary>The bytes are compressed as a whole, so that a small change within changes nearly all of them.</summary>
    public bool IsPacked { get; init; }
}

/// <param name="SampleRate">Hertz.</param>
/// <param name="Bits">Bits of a sample; 0 where it is coded, so that samples have none of their own.</param>
/// <param name="Channels">Channels of a frame.</param>
/// <param name="Frames">Frames in all.</param>
/// <param name="IsFloat">IEEE floating point rather than integers.</param>
public sealed record SoundFacts(int SampleRate, int Bits, int Channels, long Frames, bool IsFloat)
{
    /// <summary>How long it plays.</summary>
    public TimeSpan Duration => TimeSpan.FromSeconds(SampleRate == 0 ? 0 : (double)Frames / SampleRate);
}

/// <summary>How loud a sound is (ITU-R BS.1770-5, EBU R 128).</summary>
/// <param name="Loudness">Of the whole programme, in LUFS; null for silence, or for less than 0.4 s.</param>
/// <param name="Range">In LU (EBU Tech 3342); null for silence, or for less than 3 s.</param>
/// <param name="Peak">The largest sample, in decibels of full scale; null for silence.</param>
/// <param name="TruePeak">The largest point between the samples, too, in decibels of full scale; null for silence.</param>
public sealed record LevelFacts(double? Loudness, double? Range, double? Peak, double? TruePeak);

/// <summary>A marked place in a sound.</summary>
/// <param name="At">Seconds from the beginning.</param>
/// <param name="Name">As its maker named it; empty where it has none. Not trusted.</param>
/// <param name="Length">Seconds, for a region; null for a point.</param>
public sealed record MarkerFacts(double At, string Name, double? Length = null);

/// <summary>Something that a maker wrote about a file, into it.</summary>
/// <param name="Name">What it is about, as the format calls it. Not trusted.</param>
/// <param name="Value">What it says. Not trusted.</param>
public sealed record TagFacts(string Name, string Value)
{
    /// <summary>So many of a file are told.</summary>
    public const int Most = 100;

    /// <summary>Bytes of a file's tags that are looked at.</summary>
    public const int MostBytes = 1 << 20;

    private const int MostLetters = 500;

    /// <summary>Shortened to what a person reads.</summary>
    public static TagFacts Of(string name, string value) => new(Short(name), Short(value));

    private static string Short(string text) => text.Length > MostLetters ? text[..MostLetters] : text;
}
