using System.Text.RegularExpressions;
using Chronotype.Core.References;

namespace Chronotype.Web.Words;

/// <summary>References in words.</summary>
public static partial class ReferenceWords
{
    public static string Of(ReferenceState state) =>
        state switch
        {
            ReferenceState.Found => "found",
            ReferenceState.OtherCase => "found, spelt otherwise",
            ReferenceState.Missing => "leads nowhere",
            ReferenceState.Absolute => "absolute",
            ReferenceState.Outside => "leads out of the project",
            ReferenceState.Web => "a web address",
            ReferenceState.Embedded => "inside the file",
            _ => throw new ArgumentOutOfRangeException(nameof(state), state, "No one has found words for it."),
        };

    /// <summary>What is wrong with it, and why that matters, in a sentence.</summary>
    public static string Why(ReferenceState state) =>
        state switch
        {
            ReferenceState.OtherCase => "Some systems do not tell the two spellings apart, others will not find it.",
            ReferenceState.Missing => "There is no file where it leads.",
            ReferenceState.Absolute => "It leads to a place on one computer, and nowhere on another.",
            ReferenceState.Outside => "It leads out of the project, so it will not go along when the project is sent.",
            ReferenceState.Web => "Nothing is fetched here; whoever opens the file may need the network.",
            _ => "",
        };

    /// <summary>A place in a file as its reader tells it, shortened to what a person looks for.</summary>
    public static string Place(string place) => Line().Match(place) is { Success: true } line ? line.Value : place;

    [GeneratedRegex("line [0-9]+")]
    private static partial Regex Line();
}
