using Chronotype.Core.Naming;

namespace Chronotype.Web.Pages.Shared;

/// <summary>A name as a headline: each slot with its meaning below it.</summary>
/// <param name="Live">The slot in the live colour; null for none.</param>
/// <param name="IsNext">The live slot shows a number that is not given yet.</param>
/// <param name="Tag">The element's tag: h1 on the piece's own page.</param>
public sealed record NameView(FormattedName Name, string? Live = "version", bool IsNext = false, string Tag = "p")
{
    /// <summary>The class of the type's size: a long name is set smaller before it is ever cut.</summary>
    public string Size =>
        Name.ToString().Length switch
        {
            <= 40 => "l",
            <= 54 => "m",
            <= 72 => "s",
            _ => "xs",
        };

    public string SlotClass(NameSegment segment) =>
        segment.Label != Live ? "slot"
        : IsNext ? "slot next"
        : "slot num";
}
