using Chronotype.Core.Content;

namespace Chronotype.Core.Outputs;

/// <summary>What was made.</summary>
/// <param name="Frame">Where a picture came to lie; null for a sound.</param>
public sealed record MadeOutput(PictureFrame? Frame)
{
    /// <summary>The sound that was made; null for a picture.</summary>
    public SoundFacts? Sound { get; init; }

    /// <summary>In dB, by how much its level was changed; null for not at all.</summary>
    public double? Gain { get; init; }

    /// <summary>It is less loud than the recipe asks, for its peaks would come too high.</summary>
    public bool IsHeldBack { get; init; }
}
