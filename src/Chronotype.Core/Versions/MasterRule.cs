using Chronotype.Core.Content;

namespace Chronotype.Core.Versions;

/// <summary>Why a version cannot be a piece's master.</summary>
public enum MasterFault
{
    /// <summary>It cannot be read: it may be damaged.</summary>
    NotReadable,

    /// <summary>Its format is for copies: what is in it cannot be taken apart again.</summary>
    CopyFormat,

    /// <summary>It has one layer, and a version before it had more.</summary>
    LayersGone,
}

/// <summary>A master is the native, layered file: what everything else can be made from again.</summary>
public static class MasterRule
{
    /// <param name="facts">What was read in the version; null for what could not be looked into.</param>
    /// <param name="note">What is known of its format; null for nothing, as of a closed native that nobody has spoken of.</param>
    /// <param name="mostLayers">The most layers that a version up to this one had.</param>
    /// <returns>Null where it can be the master.</returns>
    public static MasterFault? Check(FileFacts? facts, FormatNote? note, int mostLayers)
    {
        if (facts?.Fault is { IsBeyondReading: false })
            return MasterFault.NotReadable;
        if (note is { IsNative: false })
            return MasterFault.CopyFormat;
        return facts?.LayerCount <= 1 && mostLayers > 1 ? MasterFault.LayersGone : null;
    }
}
