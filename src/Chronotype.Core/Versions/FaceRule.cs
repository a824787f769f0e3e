using Chronotype.Core.Content;

namespace Chronotype.Core.Versions;

/// <summary>Why a file is taken as the face of a save.</summary>
public enum FaceOrigin
{
    /// <summary>It has the save's own name, under another extension.</summary>
    SameName,

    /// <summary>It came within the sitting of the save.</summary>
    SameSitting,

    /// <summary>Somebody said so.</summary>
    ByHand,

    /// <summary>It lies beside the main file in the save's own folder, and has its name.</summary>
    Companion,
}

/// <summary>A save whose native cannot be read here.</summary>
/// <param name="ReceivedName">What its file was called when it came.</param>
/// <param name="ExactName">Its name as a version; null for a loose save.</param>
/// <param name="ArrivedAt">When it came.</param>
public sealed record ClosedSave(string ReceivedName, string? ExactName, DateTimeOffset ArrivedAt);

/// <summary>
/// Which save a flat picture, a mix or a film stands in for. Most natives are closed, so that they are seen, heard and compared by
/// what was exported beside them.
/// </summary>
public static class FaceRule
{
    /// <summary>Whether a content of this format can be looked at or heard in place of another.</summary>
    public static bool CanBeFace(FileFormat format) =>
        IsSound(format)
        || format
            is FileFormat.Film
                or FileFormat.Png
                or FileFormat.Jpeg
                or FileFormat.Tiff
                or FileFormat.Gif
                or FileFormat.WebP
                or FileFormat.Svg;

    /// <summary>Whether a content of this format is heard.</summary>
    public static bool IsSound(FileFormat format) =>
        format is FileFormat.Wave or FileFormat.Aiff or FileFormat.Flac or FileFormat.Vorbis or FileFormat.Opus or FileFormat.Mpeg;

    /// <summary>Whether a content of this format needs one.</summary>
    public static bool NeedsFace(FileFormat format) => format == FileFormat.Other;

    /// <summary>Which save a file that arrives for a piece is the face of.</summary>
    /// <param name="stem">The file's name without its extension.</param>
    /// <param name="pieceStem">The piece's own name.</param>
    /// <param name="at">When it arrives.</param>
    /// <param name="saves">The piece's saves, the newest first, none that can be read.</param>
    /// <returns>The save's place in <paramref name="saves"/> and why; null where it is the face of none.</returns>
    public static (int Index, FaceOrigin Origin)? Find(string stem, string pieceStem, DateTimeOffset at, IReadOnlyList<ClosedSave> saves)
    {
        if (saves.Count == 0)
            return null;
        if (At(saves, s => s.ExactName is { } name && Same(StemOf(name), stem)) is { } exact)
            return (exact, FaceOrigin.SameName);
        if (Same(stem, pieceStem))
            return (0, FaceOrigin.SameName);
        if (At(saves, s => Same(StemOf(s.ReceivedName), stem)) is { } received)
            return (received, FaceOrigin.SameName);
        return Sittings.Together(saves[0].ArrivedAt, at) ? (0, FaceOrigin.SameSitting) : null;
    }

    /// <summary>Whether a face has a version's exact name, under whatever extension.</summary>
    public static bool IsNamed(string? exactName, string face) => exactName is not null && Same(StemOf(exactName), StemOf(face));

    /// <summary>Of a folder's files, those that have the main file's name and so may be its face; the likeliest first.</summary>
    /// <param name="main">The main file.</param>
    /// <param name="files">All files.</param>
    public static IReadOnlyList<ProjectPath> Companions(ProjectPath main, IEnumerable<ProjectPath> files) =>
        [
            .. files
                .Where(f => f != main && Same(StemOf(f.Name), StemOf(main.Name)))
                .OrderBy(f => f.Folder != main.Folder)
                .ThenBy(f => f.Text, StringComparer.Ordinal),
        ];

    private static int? At(IReadOnlyList<ClosedSave> saves, Func<ClosedSave, bool> fits)
    {
        for (var i = 0; i < saves.Count; i++)
        {
            if (fits(saves[i]))
                return i;
        }
        return null;
    }

    private static string StemOf(string name) => Naming.FileNames.Stem(name);

    private static bool Same(string one, string other) => string.Equals(one, other, StringComparison.OrdinalIgnoreCase);
}
