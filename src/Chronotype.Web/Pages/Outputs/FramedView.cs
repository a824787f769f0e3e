using Chronotype.Core.Outputs;

namespace Chronotype.Web.Pages.Outputs;

/// <summary>A picture as it lies in an output.</summary>
/// <param name="Own">The address of the version's picture.</param>
/// <param name="Done">The address of the output's own picture, which is laid over it; null where there is none.</param>
/// <param name="Says">For who does not see it.</param>
public sealed record FramedView(PictureFrame Frame, string? Background, string Own, string? Done, string Says);
