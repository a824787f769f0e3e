using Chronotype.Core.Content;

namespace Chronotype.Core.Structure;

/// <summary>A file or a folder, with all that lies in it, goes from one path to another.</summary>
/// <param name="From">Where it stands.</param>
/// <param name="To">Where it is to stand, with the name that it is to have.</param>
public sealed record TreeMove(ProjectPath From, ProjectPath To);

/// <summary>Why a plan of moves does not hold.</summary>
public enum MoveFault
{
    /// <summary>Nothing stands there to be moved.</summary>
    NotThere,

    /// <summary>Two things would stand at one place, or at two that some file systems take for one.</summary>
    Taken,

    /// <summary>A folder would lie in itself.</summary>
    IntoItself,

    /// <summary>The folder that it leads into is not there, or is a file.</summary>
    NoFolder,

    /// <summary>What lies in a folder would have a path that is too long.</summary>
    TooLong,
}

/// <summary>
/// Moves that are made together: as a whole, or not at all. Each sees the tree as it was before all of them, so that two files can
/// change places; of what lies in a folder that is moved, what is moved by itself goes its own way.
/// </summary>
public sealed class MovePlan
{
    private MovePlan(IReadOnlyList<TreeMove> moves, IReadOnlyList<TreeMove> all) => (Moves, All) = (moves, all);

    /// <summary>What was asked for.</summary>
    public IReadOnlyList<TreeMove> Moves { get; }

    /// <summary>Every file and folder whose path changes, those that lie in moved folders among them.</summary>
    public IReadOnlyList<TreeMove> All { get; }

    /// <summary>The moves that give the old tree back.</summary>
    public IReadOnlyList<TreeMove> Back => [.. Moves.Select(m => new TreeMove(m.To, m.From))];

    /// <summary>Checks moves against a tree.</summary>
    /// <param name="tree">Every path of it; true for folders.</param>
    /// <param name="moves">At most one of each path.</param>
    /// <param name="plan">What becomes of every path, where the moves hold.</param>
    /// <returns>The first fault with its path; null where the moves hold.</returns>
    public static (MoveFault Fault, ProjectPath Path)? Make(
        IReadOnlyDictionary<ProjectPath, bool> tree,
        IReadOnlyList<TreeMove> moves,
        out MovePlan? plan
    )
    {
        plan = null;
        var to = new Dictionary<string, TreeMove>(StringComparer.Ordinal);
        foreach (var move in moves)
        {
            if (!tree.ContainsKey(move.From) || !to.TryAdd(move.From.Key, move))
                return (MoveFault.NotThere, move.From);
            if (tree[move.From] && move.To.IsIn(move.From))
                return (MoveFault.IntoItself, move.From);
        }
        var all = new List<TreeMove>();
        var after = new Dictionary<string, bool>(tree.Count, StringComparer.Ordinal);
        foreach (var (path, isFolder) in tree)
        {
            if (Moved(path, to) is not { } text)
            {
                if (!after.TryAdd(path.Key, isFolder))
                    return (MoveFault.Taken, path);
                continue;
            }
            if (!ProjectPath.TryParse(text, out var there, out _))
                return (MoveFault.TooLong, path);
            if (there != path)
                all.Add(new TreeMove(path, there));
            if (!after.TryAdd(there.Key, isFolder))
                return (MoveFault.Taken, there);
        }
        foreach (var move in moves)
        {
            if (move.To.Folder is { } folder && !(after.TryGetValue(folder.Key, out var isFolder) && isFolder))
                return (MoveFault.NoFolder, folder);
        }
        plan = new MovePlan(moves, all);
        return null;
    }

    // The nearest of itself and its folders that is moved takes it along, also where it names that folder in other capitals.
    private static string? Moved(ProjectPath path, Dictionary<string, TreeMove> to)
    {
        for (var at = path; at is not null; at = at.Folder)
        {
            if (to.TryGetValue(at.Key, out var move))
                return move.To.Text + path.Text[at.Text.Length..];
        }
        return null;
    }
}
