namespace Chronotype.Core.Structure;

/// <summary>
/// Which files belong to another by what they are called: what programs write beside a file for themselves, such as
/// <c>moon.tif.xmp</c> or <c>moon.xmp</c> (ISO 16684-1, annex A), and what goes with it, such as <c>film.srt</c>.
/// </summary>
public static class Companions
{
    /// <summary>The extensions of companions, with their dot and in lower case, where a studio says nothing else.</summary>
    public static readonly IReadOnlyList<string> Usual = [".xmp", ".srt", ".vtt", ".cue"];

    // Those that are in a language, which may stand before them.
    private static readonly string[] Spoken = [".srt", ".vtt"];

    /// <summary>
    /// Reads a companion's name as the name of its file, with or without that one's extension, and what follows it: its ending, and before
    /// it the language of subtitles (BCP 47), as in <c>film.en.srt</c>.
    /// </summary>
    /// <param name="name">The companion's.</param>
    /// <param name="endings">Those of companions.</param>
    /// <returns>Null for what does not end as companions do.</returns>
    public static (string Of, string Tail)? Split(string name, IReadOnlyCollection<string> endings)
    {
        var dot = name.LastIndexOf('.');
        if (dot <= 0 || !endings.Contains(name[dot..].ToLowerInvariant()))
            return null;
        var before = name[..dot];
        var language = before.LastIndexOf('.');
        return language > 0 && Spoken.Contains(name[dot..].ToLowerInvariant()) && IsLanguage(before[(language + 1)..])
            ? (before[..language], name[language..])
            : (before, name[dot..]);
    }

    /// <summary>Finds the file that a companion belongs to, among those of its folder.</summary>
    /// <param name="name">The companion's.</param>
    /// <param name="others">The names of the other files of the folder.</param>
    /// <param name="endings">Those of companions.</param>
    /// <returns>Its name; null where it is no companion, or might belong to several.</returns>
    public static string? OwnerOf(string name, IReadOnlyCollection<string> others, IReadOnlyCollection<string> endings)
    {
        if (Split(name, endings) is not { } split)
            return null;
        // "moon.tif.xmp" belongs to "moon.tif", whatever else is called moon.
        var whole = name[..name.LastIndexOf('.')];
        var exact = others.FirstOrDefault(o => Same(o, whole)) ?? others.FirstOrDefault(o => Same(o, split.Of));
        if (exact is not null)
            return exact;
        return Only(whole) ?? Only(split.Of);

        string? Only(string stem)
        {
            var owners = others
                .Where(o => o.LastIndexOf('.') is > 0 and var at && Same(o[..at], stem) && !endings.Contains(o[at..].ToLowerInvariant()))
                .Take(2)
                .ToList();
            return owners.Count == 1 ? owners[0] : null;
        }
    }

    /// <summary>What of a companion's name follows its file's name without the extension: <c>.svg.xmp</c>, <c>.en.srt</c>.</summary>
    /// <param name="name">The companion's.</param>
    /// <param name="owner">Its file's; the companion's own name where that does not begin as it does.</param>
    public static string TailOf(string name, string owner)
    {
        var stem = owner.LastIndexOf('.') is > 0 and var dot ? owner[..dot] : owner;
        return name.Length > stem.Length && Same(name[..stem.Length], stem) ? name[stem.Length..] : name[name.LastIndexOf('.')..];
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
        return stem + TailOf(name, owner);
    }

    private static bool IsLanguage(string text)
    {
        var parts = text.Split('-');
        return parts is [{ Length: 2 }] or [{ Length: 2 }, { Length: 2 or 4 }] && parts.All(p => p.All(char.IsAsciiLetter));
    }

    private static bool Same(string a, string b) => string.Equals(a, b, StringComparison.OrdinalIgnoreCase);
}
