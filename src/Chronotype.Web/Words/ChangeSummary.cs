using Chronotype.Core.Comparing;

namespace Chronotype.Web.Words;

/// <summary>What changed, in a line: the largest changes first, short and always the same for the same two contents.</summary>
public static class ChangeSummary
{
    private const int Told = 3;

    /// <param name="comparison">Whole or <see cref="Comparison.Shortened"/>.</param>
    /// <returns>Without a capital or a stop; empty where nothing can be said.</returns>
    public static string Of(Comparison comparison)
    {
        var shortened = comparison.PartsLeftOut > 0 ? comparison : comparison.Shortened();
        string[] told = [Whole(shortened), Files(shortened)];
        return string.Join("; ", told.Where(t => t.Length > 0));
    }

    /// <summary>Why the version before a great change is marked: "before Sky is repainted".</summary>
    public static string Reason(Comparison comparison)
    {
        if (comparison.Shortened().Parts is not [var largest, ..])
            return "before a great change";
        var what = largest.Stretch is null ? $"{largest.Name} is {FactWords.KindOf(largest)}" : $"{Stretch(largest)}";
        if (comparison.Basis is ComparisonBasis.Pages or ComparisonBasis.PageText)
            what = $"page {what}";
        const int most = 70;
        return what.Length <= most ? $"before {what}" : $"before {what[..most].TrimEnd()}…";
    }

    private static string Whole(Comparison comparison)
    {
        var share = FactWords.Share(comparison.Change ?? 0);
        return comparison.Basis switch
        {
            ComparisonBasis.SameContent => comparison.Companions.Count == 0 ? "nothing changed" : "",
            ComparisonBasis.Layers or ComparisonBasis.DrawnArea when comparison.Parts.Count > 0 => Parts(comparison, Layer),
            ComparisonBasis.Layers or ComparisonBasis.DrawnArea or ComparisonBasis.PictureArea when comparison.Change == 0 =>
                "nothing that is seen changed",
            ComparisonBasis.Layers or ComparisonBasis.DrawnArea or ComparisonBasis.PictureArea =>
                $"{char.ToLowerInvariant(share[0])}{share[1..]} of the picture changed",
            ComparisonBasis.PictureSize =>
                $"{comparison.Before?.Width:N0} × {comparison.Before?.Height:N0} px made {comparison.After?.Width:N0} × "
                    + $"{comparison.After?.Height:N0} px",
            ComparisonBasis.Time when comparison.GainDecibels is { } gain =>
                $"{Math.Abs(gain):0.#} dB {(gain > 0 ? "louder" : "quieter")} throughout",
            ComparisonBasis.Time => comparison.Parts.Count == 0 ? "nothing that is heard changed" : Parts(comparison, Stretch),
            ComparisonBasis.Pages => comparison.Parts.Count == 0 ? "no page changed" : Parts(comparison, Page),
            ComparisonBasis.PageText => comparison.Parts.Count == 0 ? "no word changed" : Parts(comparison, Page),
            ComparisonBasis.Film
                when comparison is { FilmBefore: { } was, FilmAfter: { } film } && Math.Abs(was.Seconds - film.Seconds) >= 0.05 =>
                $"{Math.Abs(film.Seconds - was.Seconds):0.0} s {(film.Seconds > was.Seconds ? "longer" : "shorter")}",
            ComparisonBasis.Scene or ComparisonBasis.Timeline => comparison.Parts.Count == 0
                ? "nothing in it changed"
                : Parts(comparison, Named),
            ComparisonBasis.Lines when comparison.Change == 0 => "no line changed",
            ComparisonBasis.Lines => $"{char.ToLowerInvariant(share[0])}{share[1..]} of the lines changed",
            ComparisonBasis.Bytes => comparison.Change == 0 ? "" : $"{char.ToLowerInvariant(share[0])}{share[1..]} of the bytes changed",
            _ => "",
        };
    }

    private static string Parts(Comparison comparison, Func<PartChange, string> said)
    {
        var parts = string.Join(", ", comparison.Parts.Take(Told).Select(said));
        return comparison.PartsLeftOut == 0 ? parts : $"{parts} and {comparison.PartsLeftOut:N0} more";
    }

    private static string Layer(PartChange part) =>
        $"{part.Name} "
        + part switch
        {
            { Kind: PartChangeKind.Added } => "added",
            { Kind: PartChangeKind.Removed } => "removed",
            { MovedBy: { } by, Kind: PartChangeKind.Repainted } => $"repainted and moved {FactWords.Way(by)}",
            { MovedBy: { } by } => $"moved {FactWords.Way(by)}",
            { Kind: PartChangeKind.Restyled } => "restyled",
            { Kind: PartChangeKind.Reworded } => "reworded",
            { Kind: PartChangeKind.Repainted, Share: null } => "redrawn",
            { Kind: PartChangeKind.Repainted } => "repainted",
            { IsShown: { } shown } => shown ? "shown" : "hidden",
            { BlendNow: { } blend } => $"blended by {blend}",
            { OpacityNow: { } opacity } => $"at {opacity:P0}",
            { FormerName: { } name } => $"renamed from {name}",
            { GroupBefore: not null } => "put in another group",
            _ => "put elsewhere in the order",
        };

    private static string Stretch(PartChange part)
    {
        var stretch = part.Stretch!;
        var length = $"{Math.Max(stretch.BeforeLength, stretch.AfterLength):0.0} s";
        var at = DisplayText.Clock(part.Kind == PartChangeKind.Removed ? stretch.Before : stretch.After);
        return part.Kind switch
        {
            PartChangeKind.Louder when stretch.Gain is { } gain =>
                $"{length} {Math.Abs(gain):0.#} dB {(gain > 0 ? "louder" : "quieter")} at {at}",
            PartChangeKind.Moved => $"{length} moved from {DisplayText.Clock(stretch.Before)} to {at}",
            _ => $"{length} {FactWords.KindOf(part)} at {at}",
        };
    }

    private static string Named(PartChange part) => $"{part.Name} {FactWords.KindOf(part)}";

    private static string Page(PartChange part) =>
        $"page {part.Name} "
        + part.Kind switch
        {
            PartChangeKind.Added => "added",
            PartChangeKind.Removed => "removed",
            PartChangeKind.Reworded => "reworded",
            _ => "changed",
        };

    // Few are told one by one; of many only how many there are of each kind.
    private static string Files(Comparison comparison)
    {
        const int few = 2;
        var changed = comparison.Companions.Where(c => c.Kind != PartChangeKind.Same).ToList();
        if (changed.Count <= few && comparison.FilesLeftOut == 0)
            return string.Join("; ", changed.Select(c => $"{FileName(c)} {FactWords.FileChange(c)}"));
        var kinds = changed
            .GroupBy(FactWords.KindOf)
            .OrderBy(g => g.Key, StringComparer.Ordinal)
            .Select(g => $"{DisplayText.Count(g.Count(), "file", "files")} {g.Key}");
        var told = string.Join(", ", kinds);
        return comparison.FilesLeftOut == 0 ? told : $"{told} and {comparison.FilesLeftOut:N0} more";
    }

    private static string FileName(PartChange file) =>
        $"{file.Name[(file.Name.LastIndexOf('/') + 1)..]}{(file is { Inside: not null, FormerName: null } ? ":" : "")}";
}
