using System.Text.RegularExpressions;
using Chronotype.Core.Content;
using Chronotype.Core.Naming;

namespace Chronotype.Core.Share;

/// <summary>What a name on the share tells of what a program or a desktop means by it.</summary>
public enum SharedNameKind
{
    /// <summary>A file that somebody works with.</summary>
    Work,

    /// <summary>Written on the way to a file that somebody works with: it is renamed over it, or goes again.</summary>
    Passing,

    /// <summary>Says that somebody has a file open.</summary>
    Lock,

    /// <summary>What a desktop leaves behind for itself.</summary>
    Litter,

    /// <summary>A copy that a program makes of what it had before.</summary>
    Backup,
}

/// <summary>Tells by names what programs and desktops write beside the files that people work with.</summary>
public static partial class SharedNames
{
    private static readonly HashSet<string> Litter = new(StringComparer.OrdinalIgnoreCase)
    {
        ".DS_Store",
        ".localized",
        "Thumbs.db",
        "ehthumbs.db",
        "desktop.ini",
        ".directory",
        ".Spotlight-V100",
        ".Trashes",
        ".fseventsd",
        ".TemporaryItems",
        ".VolumeIcon.icns",
        ".metadata_never_index",
        ".hidden",
        "lost+found",
    };

    private static readonly string[] Passing = [".tmp", ".temp", ".part", ".partial", ".crdownload", ".swp", ".swx", ".new", ".saving"],
        Backups = [".bak", ".old", ".orig", ".backup"];

    /// <param name="name">Of a file or a folder, without the folders that it stands in.</param>
    public static SharedNameKind Of(string name)
    {
        if (Litter.Contains(name) || name.StartsWith("._", StringComparison.Ordinal) || IsTrash(name))
            return SharedNameKind.Litter;
        if (IsLock(name))
            return SharedNameKind.Lock;
        var lower = name.ToLowerInvariant();
        if (
            Array.Exists(Passing, lower.EndsWith)
            || lower.StartsWith(".goutputstream-", StringComparison.Ordinal)
            || lower.StartsWith("~wr", StringComparison.Ordinal)
            || lower.StartsWith(".nfs", StringComparison.Ordinal)
            || lower.StartsWith(".fuse_hidden", StringComparison.Ordinal)
            || lower.StartsWith(".~", StringComparison.Ordinal)
            || lower.StartsWith(".sb-", StringComparison.Ordinal)
            || (lower.StartsWith('~') && lower.Length > 1)
        )
            return SharedNameKind.Passing;
        return lower.EndsWith('~') || Array.Exists(Backups, lower.EndsWith) ? SharedNameKind.Backup : SharedNameKind.Work;
    }

    /// <summary>Whether a file is one that somebody works with: neither it nor a folder that it stands in is there for a program alone.</summary>
    public static bool IsWork(ProjectPath path) => path.Text.Split('/').All(part => Of(part) == SharedNameKind.Work);

    /// <summary>
    /// Of which file a program has made a copy of what it had before: by a suffix (<c>poster.ora~</c>, <c>poster.ora.bak</c>), a number
    /// (<c>poster.ora.2</c>, <c>poster.ora.~2~</c>), a word (<c>poster_autosave3.ora</c>), or by standing in a folder for such copies.
    /// </summary>
    /// <param name="name">Of the file, without the folders that it stands in.</param>
    /// <param name="folder">The name of the folder that it stands in; null for none.</param>
    /// <param name="files">The names of the files that it may be a copy of.</param>
    /// <returns>One of <paramref name="files"/>; null where it is a copy of none, or could be of several.</returns>
    public static string? BackupOf(string name, string? folder, IReadOnlyCollection<string> files)
    {
        var bare = Numbered().Replace(name.Trim('#'), "");
        var isMarked = bare != name;
        var (stem, extension) = (FileNames.Stem(bare), FileNames.Extension(bare));
        var plain = Saved().Replace(stem, "");
        isMarked |= plain != stem;
        if (!isMarked && !IsForBackups(folder))
            return null;
        if (
            Only(f => f.Equals(bare, Compare) || (FileNames.Stem(f).Equals(plain, Compare) && FileNames.Extension(f) == extension)) is
            { } same
        )
            return same;
        // The suffix may stand in the place of the extension.
        if (isMarked && Only(f => FileNames.Stem(f).Equals(bare, Compare)) is { } replaced)
            return replaced;
        return IsForBackups(folder)
            ? files
                .Where(f => stem.StartsWith(FileNames.Stem(f), Compare) && (FileNames.Extension(f) == extension || isMarked))
                .OrderByDescending(f => f.Length)
                .FirstOrDefault()
            : null;

        string? Only(Func<string, bool> fits) => files.Where(fits).Take(2).ToList() is [var one] ? one : null;
    }

    /// <summary>Whether a folder is one in which programs put copies of what they had before.</summary>
    public static bool IsForBackups(string? folder) => folder is not null && ForBackups().IsMatch(folder);

    private const StringComparison Compare = StringComparison.OrdinalIgnoreCase;

    [GeneratedRegex(@"(?:~|\.~\d{1,4}~|\.(?:bak|backup|old|orig)\d{0,4}|\.\d{1,4})+$", RegexOptions.IgnoreCase)]
    private static partial Regex Numbered();

    [GeneratedRegex(@"[-_. (]+(?:auto[-_ ]?save|back[-_ ]?up|bak|recover(?:y|ed))[-_ ]?[\d_-]*\)?$", RegexOptions.IgnoreCase)]
    private static partial Regex Saved();

    [GeneratedRegex(@"auto[-_ ]?sav|back[-_ ]?up|recover", RegexOptions.IgnoreCase)]
    private static partial Regex ForBackups();

    private static bool IsTrash(string name) => name.StartsWith(".Trash-", StringComparison.Ordinal);

    private static bool IsLock(string name) =>
        name.StartsWith("~$", StringComparison.Ordinal)
        || (name.StartsWith(".~lock.", StringComparison.Ordinal) && name.EndsWith('#'))
        || name.StartsWith("~lock", StringComparison.Ordinal)
        || name.EndsWith(".lck", StringComparison.OrdinalIgnoreCase)
        || name.EndsWith(".lock", StringComparison.OrdinalIgnoreCase);
}
