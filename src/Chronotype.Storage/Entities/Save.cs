using Chronotype.Core.Content;

namespace Chronotype.Storage.Entities;

/// <summary>Content that arrived for a piece. With a number it is a version, and what it holds never changes.</summary>
public sealed class Save
{
    public Guid Id { get; set; } = Guid.CreateVersion7();
    public Guid PieceId { get; set; }
    public Piece Piece { get; set; } = null!;

    /// <summary>The line that it arrived on; its number is one of that line's.</summary>
    public Guid LineId { get; set; }

    public Line Line { get; set; } = null!;

    /// <summary>
    /// It is what the piece's current file holds: the newest that is sound on the line on which work goes on. True of one save of a piece
    /// that has any; the records see to it themselves.
    /// </summary>
    public bool IsCurrent { get; set; }

    /// <summary>Why it stands beside the saves that people made, and never in the current file; null for a save that somebody made.</summary>
    public SaveAside? Aside { get; set; }

    /// <summary>Its place among the piece's saves, from 1.</summary>
    public int Sequence { get; set; }

    public DateTimeOffset ArrivedAt { get; set; }
    public Guid ArrivedById { get; set; }

    /// <summary>What the file was called when it came.</summary>
    public required string ReceivedName { get; set; }

    /// <summary>Equal for equal content, whatever it was called.</summary>
    public ContentHash Identity { get; set; }

    public ContentHash MainHash { get; set; }

    /// <summary>The content of the face that stands in for it; null for a save that can be read itself, or has none.</summary>
    public ContentHash? FaceHash { get; set; }

    /// <summary>The faces that it was ever given.</summary>
    public List<Face> Faces { get; set; } = [];

    /// <summary>What goes with it.</summary>
    public List<SaveCompanion> Companions { get; set; } = [];

    /// <summary>What is looked at, heard and compared in its place.</summary>
    public ContentHash SeenHash => FaceHash ?? MainHash;

    /// <summary>Bytes of all its files.</summary>
    public long Size { get; set; }

    public List<SaveFile> Files { get; set; } = [];

    /// <summary>The newest version when it arrived; null before the first.</summary>
    public int? BaseNumber { get; set; }

    /// <summary>The version that it brings back; null for work from a program.</summary>
    public int? BroughtBackFrom { get; set; }

    /// <summary>What the person should know about how it arrived, as JSON; null for nothing.</summary>
    public string? ArrivalNotice { get; set; }

    /// <summary>Folders of the save that have no file in them, one a line; null for none.</summary>
    public string? EmptyFolders { get; set; }

    /// <summary>Bytes that it added to the content store when it arrived, 0 where all was there; null where nobody counted.</summary>
    public long? NewBytes { get; set; }

    /// <summary>When a loose save was discarded; it can be taken back until the grace period ends. Null for any other.</summary>
    public DateTimeOffset? DiscardedAt { get; set; }

    public Guid? DiscardedById { get; set; }

    /// <summary>Null for a loose save.</summary>
    public int? Number { get; set; }

    /// <summary>With its extension; null for a loose save.</summary>
    public string? ExactName { get; set; }

    public DateTimeOffset? KeptAt { get; set; }
    public Guid? KeptById { get; set; }
    public string? Note { get; set; }
    public Milestone? Milestone { get; set; }
    public Master? Master { get; set; }

    /// <summary>What spoke against numbering it was answered with "leave it loose"; it is not asked about again until it is kept.</summary>
    public bool IsLeftLoose { get; set; }

    /// <summary>Somebody was offered to mark the version before it, since it changed a great part, and refused.</summary>
    public bool IsMarkDeclined { get; set; }
}

/// <summary>Why content of a piece is no save that anybody made: it is at no risk, takes no number by itself, and has a limit of its own.</summary>
public enum SaveAside
{
    /// <summary>A program made it by itself, of what it had before.</summary>
    Backup,

    /// <summary>It is the beginning of a file that never arrived whole.</summary>
    CutShort,
}

/// <summary>One file of a save.</summary>
public sealed class SaveFile
{
    public long Id { get; set; }
    public Guid SaveId { get; set; }
    public required string Path { get; set; }
    public ContentHash Hash { get; set; }
    public long Size { get; set; }
    public bool IsMain { get; set; }

    /// <summary>
    /// When it was last changed, as the zip that it came in said, in the zone of whoever made the zip; null where nothing said so.
    /// </summary>
    public DateTime? ChangedAt { get; set; }

    /// <summary>When it was last told what it refers to; null where it was not read yet.</summary>
    public DateTimeOffset? LinkedAt { get; set; }
}

/// <summary>What a companion of a piece's file held with a save, whatever became of it since.</summary>
public sealed class SaveCompanion
{
    public long Id { get; set; }
    public Guid SaveId { get; set; }

    /// <summary>The companion in the tree.</summary>
    public Guid EntryId { get; set; }

    /// <summary>What of its name follows the name of its file without the extension: <c>.svg.xmp</c>, <c>.srt</c>.</summary>
    public required string Tail { get; set; }

    public ContentHash Hash { get; set; }
    public long Size { get; set; }

    /// <summary>When the content came: before the save for one that was carried over from the save before it.</summary>
    public DateTimeOffset CameAt { get; set; }
}

/// <summary>A version marked as the finished piece. A piece that was opened again has one for each time that it was finished.</summary>
public sealed class Master
{
    public Guid Id { get; set; } = Guid.CreateVersion7();
    public Guid SaveId { get; set; }

    /// <summary>The copy's name, with its extension.</summary>
    public required string ExactName { get; set; }

    public DateTimeOffset MarkedAt { get; set; }
    public Guid MarkedById { get; set; }
}

/// <summary>A version marked with a reason.</summary>
public sealed class Milestone
{
    public Guid Id { get; set; } = Guid.CreateVersion7();
    public Guid SaveId { get; set; }

    /// <summary>In the piece's own series, from 1.</summary>
    public int Number { get; set; }

    public required string Reason { get; set; }

    /// <summary>The copy's name, with its extension.</summary>
    public required string ExactName { get; set; }

    public DateTimeOffset MarkedAt { get; set; }
    public Guid MarkedById { get; set; }
}
