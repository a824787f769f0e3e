using Chronotype.Core.Content;
using Chronotype.Core.Outputs;

namespace Chronotype.Web.Pages.Outputs;

/// <summary>A picture as it lies in an output.</summary>
/// <param name="Own">The address of the version's picture.</param>
/// <param name="Done">The address of the output's own picture, which is laid over it; null where there is none.</param>
/// <param name="Says">For who does not see it.</param>
public sealed record FramedView(PictureFrame Frame, string? Background, string Own, string? Done, string Says)
{
    /// <summary>What is seen of the version's picture: a region, and the pixels of all of it; null for all.</summary>
    public (PictureRegion Region, int Width, int Height)? Part { get; private init; }

    /// <summary>As it will lie by a recipe.</summary>
    public FramedView By(PictureRecipe recipe, FileFacts facts) =>
        PictureFrame.Seen(facts) is { } seen && recipe.Region?.Within(seen.Width, seen.Height) is { } region
            ? this with
            {
                Part = (region, seen.Width, seen.Height),
            }
            : this;
}
