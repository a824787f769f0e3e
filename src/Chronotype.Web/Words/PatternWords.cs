using Chronotype.Core.References;

namespace Chronotype.Web.Words;

/// <summary>Why a line is no pattern for references.</summary>
public static class PatternWords
{
    public static string Of(string ending, string line, PatternFault fault) =>
        fault switch
        {
            PatternFault.NoFile => $"“{line}” does not say where the path stands. Write {ReferencePattern.FileMark} in its place.",
            PatternFault.SeveralFiles => $"“{line}” holds {ReferencePattern.FileMark} more than once. Give each place a line of its own.",
            PatternFault.TooLong => $"A pattern is a piece of one line, of {ReferencePattern.MaxLength} letters at most.",
            PatternFault.Ending => $"“{ending}” is no ending of file names: a dot, and 1 to 16 letters or digits, such as .scene.",
            PatternFault.IsRead => $"Files that end with {ending} are read for what they refer to already.",
            _ => throw new ArgumentOutOfRangeException(nameof(fault)),
        };
}
