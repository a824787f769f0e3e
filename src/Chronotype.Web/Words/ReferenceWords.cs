using System.Text.RegularExpressions;
using Chronotype.Core.References;
using Chronotype.Studio.References;

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

    /// <summary>How many there are, as a heading.</summary>
    public static string Count(ReferenceState state, int count) =>
        state switch
        {
            ReferenceState.OtherCase => DisplayText.Count(count, "link is spelt otherwise", "links are spelt otherwise"),
            ReferenceState.Missing => DisplayText.Count(count, "link leads nowhere", "links lead nowhere"),
            ReferenceState.Absolute => DisplayText.Count(count, "link is absolute", "links are absolute"),
            ReferenceState.Outside => DisplayText.Count(count, "link leads out of the project", "links lead out of the project"),
            _ => DisplayText.Count(count, "link", "links"),
        };

    /// <summary>What a save refers to, in a line, what is wrong first.</summary>
    /// <param name="embedded">How many are inside the file itself.</param>
    public static string Sum(IReadOnlyList<ShownReference> references, int embedded)
    {
        var (broken, changed) = (references.Count(r => r.Now.IsBroken()), references.Count(r => r.IsChanged));
        return string.Join(
            ", ",
            new[]
            {
                broken > 0 ? $"{broken} of {DisplayText.Count(references.Count, "file", "files")} not found"
                : references.Count > 0 ? DisplayText.Count(references.Count, "file", "files")
                : null,
                changed > 0 ? $"{changed} changed since" : null,
                embedded > 0 ? $"{embedded:N0} embedded" : null,
            }.OfType<string>()
        );
    }

    /// <summary>Why a file may be what a reference means.</summary>
    public static string Of(LikelyReason reason) =>
        reason switch
        {
            LikelyReason.SameContent => "it holds what the link led to before",
            LikelyReason.FormerPlace => "it stood there before it was moved or renamed",
            LikelyReason.SameName => "it has the same name",
            LikelyReason.NearName => "its name is nearly the same",
            LikelyReason.OtherFormat => "it has the same name, in another format",
            _ => throw new ArgumentOutOfRangeException(nameof(reason), reason, "No one has found words for it."),
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

    /// <summary>A place in a file as its reader tells it, as a person looks for it.</summary>
    public static string Place(string place)
    {
        if (Line().Match(place) is { Success: true } line)
            return line.Value;
        // OpenTimelineIO's reader counts from 0, people do not.
        if (Track().Match(place) is { Success: true } track)
            return $"track {Number(track, 1)}, clip {Number(track, 2)}";
        if (Listed().Match(place) is { Success: true } listed)
            return $"{(listed.Groups[1].Value == "images" ? "picture" : "buffer")} {Number(listed, 2)}";
        return place;
    }

    private static int Number(Match match, int group) =>
        int.Parse(match.Groups[group].ValueSpan, System.Globalization.CultureInfo.InvariantCulture) + 1;

    [GeneratedRegex("line [0-9]+")]
    private static partial Regex Line();

    [GeneratedRegex("^tracks/([0-9]{1,6})/([0-9]{1,6})")]
    private static partial Regex Track();

    [GeneratedRegex("^/(images|buffers)/([0-9]{1,6})/uri$")]
    private static partial Regex Listed();
}
