using Chronotype.Core.Content;

namespace Chronotype.Core.Comparing;

/// <summary>What became of layers, from what was read in them and how much of each was repainted.</summary>
public static class LayerChanges
{
    private const double SameOpacity = 0.001;

    /// <summary>What became of one layer.</summary>
    /// <param name="pair">The layer before and after.</param>
    /// <param name="isRepainted">What is on it is other than before.</param>
    /// <param name="share">The share of its painted pixels that are others, from 0 to 1; null where that is not known.</param>
    /// <param name="movedBy">How far it moved.</param>
    public static PartChange Of(LayerPair pair, bool isRepainted = false, double? share = null, PixelOffset movedBy = default)
    {
        var there = (pair.After ?? pair.Before)!.Facts;
        var part = new PartChange(there.Name, PartChangeKind.Same)
        {
            IsGroup = there.Kind == LayerKind.Group,
            LayerBefore = pair.Before?.Index,
            LayerNow = pair.After?.Index,
        };
        if (pair.Before?.Facts is not { } old || pair.After?.Facts is not { } now)
            return part with { Kind = pair.Before is null ? PartChangeKind.Added : PartChangeKind.Removed };
        var isFaded = Math.Abs(old.Opacity - now.Opacity) > SameOpacity;
        part = part with
        {
            // What is called by its own words has no name that changed.
            FormerName = old.Name != now.Name && (old.Name != old.Text || now.Name != now.Text) ? old.Name : null,
            IsShown = old.Visible != now.Visible ? now.Visible : null,
            OpacityBefore = isFaded ? old.Opacity : null,
            OpacityNow = isFaded ? now.Opacity : null,
            BlendBefore = old.Blend != now.Blend ? old.Blend : null,
            BlendNow = old.Blend != now.Blend ? now.Blend : null,
            GroupBefore = pair.IsRegrouped ? pair.Before.Group : null,
            IsReordered = pair.IsReordered,
            MovedBy = movedBy == default ? null : movedBy,
            Share = isRepainted ? share : null,
            TextBefore = old.Text != now.Text ? old.Text : null,
            TextNow = old.Text != now.Text ? now.Text : null,
        };
        var isTouched =
            isFaded
            || pair.IsReordered
            || pair.IsRegrouped
            || part is { FormerName: not null } or { IsShown: not null } or { BlendNow: not null };
        return part with
        {
            Kind =
                part.TextBefore is not null || part.TextNow is not null ? PartChangeKind.Reworded
                : isRepainted ? PartChangeKind.Repainted
                : movedBy != default ? PartChangeKind.Moved
                : isTouched ? PartChangeKind.Changed
                : PartChangeKind.Same,
        };
    }

    /// <summary>How much otherwise a layer is seen though no pixel of it was touched, from 0 to 1.</summary>
    public static double SeenOtherwise(LayerNode old, LayerNode now) =>
        Math.Max(Math.Abs(old.Shown - now.Shown), old.Facts.Blend != now.Facts.Blend ? Math.Max(old.Shown, now.Shown) : 0);
}
