namespace Chronotype.Core.Naming.Checking;

/// <summary>One fault of a name, with its place.</summary>
/// <param name="Slot">The label of the slot that it concerns; null where it concerns the name as a whole.</param>
/// <param name="At">Where it begins in the name, in UTF-16 units.</param>
/// <param name="Length">In UTF-16 units; 0 where something is missing.</param>
/// <param name="Code">For programs: one of <see cref="NameFaultCodes"/>.</param>
/// <param name="Message">For people: what stands there, and what may.</param>
public sealed record NameFault(string? Slot, int At, int Length, string Code, string Message);

/// <summary>What a fault may be.</summary>
public static class NameFaultCodes
{
    /// <summary>The codes of faults, as programs and tests know them.</summary>
    public const string Missing = "missing",
        NotOnList = "not-on-list",
        Case = "case",
        Accent = "accent",
        Character = "character",
        Mark = "mark",
        Number = "number",
        Date = "date",
        Value = "value",
        TooLong = "too-long",
        Join = "join",
        Order = "order",
        Extra = "extra",
        CopyMark = "copy-mark",
        Empty = "empty",
        NameTooLong = "name-too-long",
        LineBreak = "line-break",
        Control = "control",
        DirectionMark = "direction-mark",
        Invisible = "invisible",
        CombiningMark = "combining-mark",
        HalfCharacter = "half-character",
        RefusedCharacter = "refused-character",
        DeviceName = "device-name",
        EndsInDot = "ends-in-dot",
        EndsInSpace = "ends-in-space",
        NeighbourCase = "neighbour-case",
        NeighbourForm = "neighbour-form",
        NeighbourSame = "neighbour-same",
        PathTooLong = "path-too-long";
}
