using Chronotype.Core.Content;

namespace Chronotype.Core.Versions;

/// <summary>What speaks against numbering a save without asking: it cannot be read, or it lost what the last version had.</summary>
public static class SaveDoubts
{
    /// <param name="previous">The newest version's reading; null when there is none.</param>
    /// <param name="save">The save's reading.</param>
    /// <returns>Sentences; empty when nothing speaks against it.</returns>
    public static IReadOnlyList<string> Find(Reading? previous, Reading save)
    {
        if (save.Problem is not null) return [save.Problem];
        if (previous is null || previous.Problem is not null) return [];
        var doubts = new List<string>();
        if (previous.Layers.Count > 1 && save.Layers.Count <= 1)
            doubts.Add($"The last version had {previous.Layers.Count} layers; this save has {(save.Layers.Count == 1 ? "one" : "none")}.");
        if (previous.Sound is { } before && save.Sound is { } now)
        {
            if (now.SampleRate < before.SampleRate)
                doubts.Add($"The last version ran at {Kilohertz(before.SampleRate)}; this save runs at {Kilohertz(now.SampleRate)}.");
            if (now.Bits < before.Bits) doubts.Add($"The last version had {before.Bits} bits a sample; this save has {now.Bits}.");
            if (now.Channels < before.Channels) doubts.Add($"The last version had {before.Channels} channels; this save has {now.Channels}.");
        }
        return doubts;
    }

    private static string Kilohertz(int hertz) => $"{hertz / 1000.0:0.###} kHz";
}
