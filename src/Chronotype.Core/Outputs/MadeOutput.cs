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

    /// <summary>The strokes that were made; null for anything but a drawing.</summary>
    public StrokeFacts? Strokes { get; init; }

    /// <summary>What became of the texts of a drawing; null where they stay as they are.</summary>
    public OutlinedTexts? Texts { get; init; }

    /// <summary>Pages of a document; 0 for anything else.</summary>
    public int Pages { get; init; }
}

/// <summary>What an output is made of, for what it says of itself.</summary>
/// <param name="Name">The version's exact name.</param>
/// <param name="Studio">Who makes it.</param>
/// <param name="At">When the version was kept.</param>
public sealed record MadeFrom(string Name, string Studio, DateTimeOffset At);

/// <summary>Strokes of a drawing that is drawn by a pen or cut by a knife.</summary>
/// <param name="Count">How many times the tool is put down.</param>
/// <param name="Length">Of all strokes, in millimetres.</param>
/// <param name="Width">Of what they lie in, in millimetres.</param>
/// <param name="Height">As <paramref name="Width"/>.</param>
/// <param name="Tools">What is drawn or cut together, such as layers or colours, by name.</param>
public sealed record StrokeFacts(int Count, double Length, double Width, double Height, IReadOnlyList<string> Tools);
