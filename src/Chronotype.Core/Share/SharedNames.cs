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
public static class SharedNames
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

    private static bool IsTrash(string name) => name.StartsWith(".Trash-", StringComparison.Ordinal);

    private static bool IsLock(string name) =>
        name.StartsWith("~$", StringComparison.Ordinal)
        || (name.StartsWith(".~lock.", StringComparison.Ordinal) && name.EndsWith('#'))
        || name.StartsWith("~lock", StringComparison.Ordinal)
        || name.EndsWith(".lck", StringComparison.OrdinalIgnoreCase)
        || name.EndsWith(".lock", StringComparison.OrdinalIgnoreCase);
}
