using Chronotype.Core.Content;
using Chronotype.Core.Structure;

namespace Chronotype.Storage.Entities;

/// <summary>A series of a piece's versions with its own numbers.</summary>
public sealed class Line
{
    public Guid Id { get; set; } = Guid.CreateVersion7();
    public Guid PieceId { get; set; }

    /// <summary>Empty for the main line; else the alt's name, unique in its piece without regard to case.</summary>
    public string Name { get; set; } = "";

    /// <summary>Work goes on here: what arrives for the piece is a save of this line. True of one line of a piece.</summary>
    public bool IsCurrent { get; set; }

    /// <summary>The highest number ever given; it only grows, so that no number is used twice.</summary>
    public int? HighestNumber { get; set; }

    /// <summary>The line that it left; null for the main line.</summary>
    public Guid? LeftLineId { get; set; }

    /// <summary>The version at which it left.</summary>
    public int? LeftAt { get; set; }

    public DateTimeOffset StartedAt { get; set; }
    public Guid StartedById { get; set; }

    /// <summary>When it was dropped, with its saves; it can be taken back until the grace period ends. Null for one that is there.</summary>
    public DateTimeOffset? DroppedAt { get; set; }

    public Guid? DroppedById { get; set; }
}

/// <summary>What stands at a place of a project's tree.</summary>
public enum EntryKind
{
    Folder,

    /// <summary>A piece under its stable name, as its newest save is.</summary>
    CurrentFile,

    /// <summary>A kept version, under its exact name.</summary>
    Version,

    /// <summary>The copy of a version that is marked.</summary>
    MilestoneCopy,

    /// <summary>A file of its own, with its past: an original, an asset, a document, an output.</summary>
    OwnFile,

    /// <summary>A file that goes with a piece's current file, and is named and moved with it. It has its past.</summary>
    Companion,

    /// <summary>The copy of a version that is a master.</summary>
    MasterCopy,

    /// <summary>An alt of a piece under a name of its own, as the newest save of that line is, whatever line work goes on on.</summary>
    AltFile,
}

/// <summary>What the kinds have in common.</summary>
public static class EntryKinds
{
    /// <summary>It holds what was saved last, and what is written over it is the next save.</summary>
    public static bool IsCurrent(this EntryKind kind) => kind is EntryKind.CurrentFile or EntryKind.AltFile;
}

/// <summary>One place of a project's tree, and what stands there.</summary>
public sealed class TreeEntry
{
    public Guid Id { get; set; } = Guid.CreateVersion7();
    public Guid ProjectId { get; set; }
    public EntryKind Kind { get; set; }

    /// <summary>From the project's top.</summary>
    public required ProjectPath Path { get; set; }

    /// <summary>Equal for paths that file systems may take for one; unique in the project among what is not deleted.</summary>
    public required string PathKey { get; set; }

    /// <summary>The key of the folder that it stands in; empty at the top. It follows the path by itself.</summary>
    public string FolderKey { get; set; } = "";

    /// <summary>A folder's own; of what stands in a folder, that folder's.</summary>
    public FolderRole Role { get; set; }

    /// <summary>What goes into a folder, in a few words.</summary>
    public string Purpose { get; set; } = "";

    /// <summary>It can be made again from others (a preview, a proof, a cache), and is left out first where room or weight counts.</summary>
    public bool CanBeMadeAgain { get; set; }

    /// <summary>A folder's place among those of its plan; others come behind them, by name.</summary>
    public int Order { get; set; }

    /// <summary>The piece whose current file, version or copy it is; null for folders and files of their own.</summary>
    public Guid? PieceId { get; set; }

    /// <summary>The alt whose file it is; null for anything else.</summary>
    public Guid? LineId { get; set; }

    /// <summary>The version that stands there, or is copied there.</summary>
    public Guid? SaveId { get; set; }

    public Guid? MilestoneId { get; set; }

    /// <summary>An output that came is of no version, as somebody said; it is not asked about again.</summary>
    public bool IsOfNoVersion { get; set; }

    /// <summary>Since when it stands there; where it stood before, <see cref="PastPlace"/> says.</summary>
    public DateTimeOffset StandsSince { get; set; }

    /// <summary>When it was deleted; it can be taken back. Null for what is there.</summary>
    public DateTimeOffset? DeletedAt { get; set; }

    public Guid? DeletedById { get; set; }

    /// <summary>It may be given other content: what it held before stays in its past.</summary>
    public bool MayReplace => Kind == EntryKind.Companion || (Kind == EntryKind.OwnFile && Role.MayReplace());

    /// <summary>The past of a file of its own, the last of it what it holds now.</summary>
    public List<FileContent> Contents { get; set; } = [];
}

/// <summary>What a file of its own held from a moment on.</summary>
public sealed class FileContent
{
    public Guid Id { get; set; } = Guid.CreateVersion7();
    public Guid EntryId { get; set; }

    /// <summary>Its place in the file's past, from 1.</summary>
    public int Sequence { get; set; }

    public ContentHash Hash { get; set; }

    /// <summary>Bytes.</summary>
    public long Size { get; set; }

    /// <summary>What the file was called when it came.</summary>
    public required string ReceivedName { get; set; }

    public DateTimeOffset At { get; set; }
    public Guid ById { get; set; }

    /// <summary>The earlier content that it brings back; null for what arrived.</summary>
    public int? BroughtBackFrom { get; set; }

    /// <summary>When it was last told what it refers to; null where it was not read yet.</summary>
    public DateTimeOffset? LinkedAt { get; set; }
}

/// <summary>Where an entry stood before it was moved, renamed, or deleted and taken back: what a tree was like then follows from it.</summary>
public sealed class PastPlace
{
    public long Id { get; set; }
    public Guid EntryId { get; set; }
    public Guid ProjectId { get; set; }
    public required ProjectPath Path { get; set; }
    public required string PathKey { get; set; }
    public FolderRole Role { get; set; }
    public DateTimeOffset From { get; set; }
    public DateTimeOffset Until { get; set; }
}
