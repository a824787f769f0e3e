using System.Globalization;
using Chronotype.Core.Naming;
using Chronotype.Core.Naming.Checking;
using Chronotype.Studio.Pieces;

namespace Chronotype.Web.Words;

/// <summary>What a name says of its file, in sentences without an end.</summary>
public static class NameWords
{
    public static string Of(PlaceReason reason) =>
        reason switch
        {
            PlaceReason.OwnName { Number: { } number } => $"it is this piece's own name, with the number {number}",
            PlaceReason.OwnName => "it is this piece's own name",
            PlaceReason.GoesWith => "it goes with this piece's file, by its name",
            PlaceReason.FormerName => "it is a name that this piece had before its names were changed",
            PlaceReason.WordInSlot(var word, var slot) => $"“{word}” is in its {slot}",
            _ => throw new NotSupportedException($"No words for {reason.GetType().Name}."),
        };

    /// <param name="name">The name that the mark stands in.</param>
    public static string Of(string name, NameMark mark)
    {
        var text = name[mark.TextAt..mark.TextEnd];
        return mark.Kind switch
        {
            NameMarkKind.Copy => $"“{text}” is a copy mark",
            NameMarkKind.Date =>
                $"“{text}” is {string.Join(" or ", mark.Dates.Select(d => d.ToString(DisplayText.Dates.Year, CultureInfo.InvariantCulture)))}",
            _ => $"“{text}” says that a number follows",
        };
    }
}
