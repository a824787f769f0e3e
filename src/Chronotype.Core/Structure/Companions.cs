namespace Chronotype.Core.Structure;

/// <summary>
/// Which files belong to another by what they are called: what programs write beside a file for themselves, such as
/// <c>moon.tif.xmp</c> or <c>moon.xmp</c> (ISO 16684-1, annex A), and what goes with it, such as <c>film.srt</c>.
/// </summary>
public static class Companions
{
    /// <summary>The extensions of companions, with their dot and in lower case, where a studio says nothing else.</summary>
    public static readonly IReadOnlyList<string> Usual = [".xmp", ".srt", ".vtt", ".cue"];

    /// <summary>Finds the file that a companion belongs to, among those of its folder.</summary>
    /// <param name="name">The companion's.</param>
    /// <param name="others">The names of the other files of the folder.</param>
    /// <param name="extensions">Those of companions.</param>
    /// <returns>Its name; null where it is no companion, or might belong to several.</returns>
    public static string? OwnerOf(string name, IReadOnlyCollection<string> others, IReadOnlyCollection<string> extensions)
    {
        var dot = name.LastIndexOf('.');
        if (dot <= 0 || !extensions.Contains(name[dot..].ToLowerInvariant()))
            return null;
        var stem = name[..dot];
        // "moon.tif.xmp" belongs to "moon.tif", whatever else is called moon.
        var exact = others.FirstOrDefault(o => Same(o, stem));
        if (exact is not null)
            return exact;
        var owners = others
            .Where(o => o.LastIndexOf('.') is > 0 and var at && Same(o[..at], stem) && !extensions.Contains(o[at..].ToLowerInvariant()))
            .Take(2)
            .ToList();
        return owners.Count == 1 ? owners[0] : null;
    }

    /// <summary>What a companion is called when its file is called otherwise.</summary>
    /// <param name="name">The companion's.</param>
    /// <param name="owner">Its file's.</param>
    /// <param name="renamed">Its file's from now on.</param>
    public static string Renamed(string name, string owner, string renamed)
    {
        if (name.Length > owner.Length && Same(name[..owner.Length], owner))
            return renamed + name[owner.Length..];
        var stem = renamed.LastIndexOf('.') is > 0 and var dot ? renamed[..dot] : renamed;
        return stem + name[name.LastIndexOf('.')..];
    }

    private static bool Same(string a, string b) => string.Equals(a, b, StringComparison.OrdinalIgnoreCase);
}
