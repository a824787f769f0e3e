using Chronotype.Core.Content;

namespace Chronotype.Core.Versions;

/// <summary>What speaks against numbering a save without asking.</summary>
public enum SaveDoubtCode
{
    /// <summary>It cannot be read. <see cref="SaveDoubt.Fault"/> says why.</summary>
    Unreadable,

    /// <summary>Layers, from more than one to at most one.</summary>
    FewerLayers,

    /// <summary>Samples a second, in hertz.</summary>
    LowerRate,

    /// <summary>Bits of a sample.</summary>
    FewerBits,

    /// <summary>The sound has fewer channels than the one before.</summary>
    FewerChannels,

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
}

/// <summary>What speaks against numbering a save without asking: it cannot be read, or it lost what the last version had.</summary>
public static class SaveDoubts
{
    /// <param name="previous">What was read in the newest version; null when there is none.</param>
    /// <param name="save">What was read in the save.</param>
    /// <returns>Empty when nothing speaks against it.</returns>
    public static IReadOnlyList<SaveDoubt> Find(FileFacts? previous, FileFacts save)
    {
        if (save.Fault is { } fault)
            return [new SaveDoubt(SaveDoubtCode.Unreadable) { Fault = fault }];
        if (previous is null || previous.Fault is not null)
            return [];
        var doubts = new List<SaveDoubt>();
        if (previous.LayerCount > 1 && save.LayerCount <= 1)
            doubts.Add(new(SaveDoubtCode.FewerLayers, previous.LayerCount, save.LayerCount));
        if (previous.Sound is { } before && save.Sound is { } now)
        {
            if (now.SampleRate < before.SampleRate)
                doubts.Add(new(SaveDoubtCode.LowerRate, before.SampleRate, now.SampleRate));
            if (now.Bits < before.Bits)
                doubts.Add(new(SaveDoubtCode.FewerBits, before.Bits, now.Bits));
            if (now.Channels < before.Channels)
                doubts.Add(new(SaveDoubtCode.FewerChannels, before.Channels, now.Channels));
        }
        return doubts;
    }
}
