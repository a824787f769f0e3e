using Chronotype.Core.Sound;

namespace Chronotype.Core.Readers;

/// <summary>Where the parts of a <see cref="SoundChart"/> lie in the file that it was written to. All numbers are little-endian.</summary>
/// <param name="SampleRate">Hertz.</param>
/// <param name="Channels">Of a frame.</param>
/// <param name="Frames">Frames that were read.</param>
/// <param name="Levels">By scale, the finest first, where it begins and how many bins it has: two numbers of 16 bits each.</param>
/// <param name="LoudnessAt">Where the loudness begins: a number of 16 bits a step.</param>
/// <param name="SpectrumAt">Where the bands begin: a byte each, <see cref="SoundChart.Bands"/> a step.</param>
/// <param name="Steps">How many steps there are, of a tenth of a second.</param>
public sealed record ChartedSound(
    int SampleRate,
    int Channels,
    long Frames,
    IReadOnlyList<ChartedLevel> Levels,
    long LoudnessAt,
    long SpectrumAt,
    int Steps
)
{
    /// <summary>Frames of a block of samples.</summary>
    public const int BlockFrames = 1 << 16;

    /// <summary>Channels of a block of samples at most.</summary>
    public const int BlockChannels = 2;
}

/// <param name="At">Bytes from the file's beginning.</param>
/// <param name="Bins">How many there are.</param>
public sealed record ChartedLevel(long At, int Bins);
