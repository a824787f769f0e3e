namespace Chronotype.Core.References;

/// <summary>What became of looking for what a reference leads to. Nothing is ever fetched.</summary>
public enum ReferenceState
{
    /// <summary>It leads to a file of the project, spelt as that is.</summary>
    Found,

    /// <summary>It leads to a file only where cases, or the forms that Unicode writes a letter in, are not told apart.</summary>
    OtherCase,

    /// <summary>It leads to a place in the project where no file is.</summary>
    Missing,

    /// <summary>It begins at a root, a drive or a computer, and leads nowhere on another one.</summary>
    Absolute,

    /// <summary>It is relative, and leads out of the project.</summary>
    Outside,

    /// <summary>It is an address of the web, or of another scheme.</summary>
    Web,

    /// <summary>What it stands for is inside the file itself.</summary>
    Embedded,
}

/// <summary>In what a name that is nearly the right one differs from it.</summary>
[Flags]
public enum SpellingDifference
{
    /// <summary>In nothing.</summary>
    None = 0,

    /// <summary>In capitals and small letters.</summary>
    Case = 1,

    /// <summary>In the form that Unicode writes letters in (UAX #15): as one character, or as a letter and its accent.</summary>
    UnicodeForm = 2,
}

/// <summary>What follows from a state.</summary>
public static class ReferenceStates
{
    /// <summary>It leads to something: a file of the project, or what is inside.</summary>
    public static bool IsWhole(this ReferenceState state) =>
        state is ReferenceState.Found or ReferenceState.OtherCase or ReferenceState.Embedded;

    /// <summary>Whoever opens the file elsewhere will not find what it refers to.</summary>
    public static bool IsBroken(this ReferenceState state) =>
        state is ReferenceState.Missing or ReferenceState.Absolute or ReferenceState.Outside;
}
