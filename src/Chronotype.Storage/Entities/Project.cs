using Chronotype.Core.Versions;

namespace Chronotype.Storage.Entities;

/// <summary>The studio itself: one row.</summary>
public sealed class StudioRecord
{
    public int Id { get; set; } = 1;
    public required string Name { get; set; }

    /// <summary>Its convention for new projects, as JSON without the lists of codes; null for the one that studios begin with.</summary>
    public string? Convention { get; set; }

    /// <summary>The convention before it, so that the last change can be taken back.</summary>
    public string? ConventionBefore { get; set; }

    /// <summary>What programs keep for themselves in files of open formats is left out of what leaves the studio.</summary>
    public bool LeavesSettingsBehind { get; set; }

    /// <summary>Endings of the studio's own that make a file the companion of another, a line each; null for the usual ones alone.</summary>
    public string? Companions { get; set; }

    /// <summary>How text formats of the studio's own say what they refer to, as JSON; null for none.</summary>
    public string? ReferencePatterns { get; set; }

    /// <summary>What the studio says of file formats, by their extensions, as JSON; null for nothing.</summary>
    public string? Formats { get; set; }

    /// <summary>A studio of made-up people, who sign in without a password of their own.</summary>
    public bool IsDemo { get; set; }
}

/// <summary>Whom the studio works for.</summary>
public sealed class Client
{
    public Guid Id { get; set; } = Guid.CreateVersion7();

    /// <summary>The code in names: capitals and digits, unique.</summary>
    public required string Code { get; set; }

    public required string Name { get; set; }
}

/// <summary>A code of one of the studio's lists, with its meaning.</summary>
public sealed class CodeEntry
{
    public int Id { get; set; }
    public required string List { get; set; }
    public required string Code { get; set; }
    public required string Meaning { get; set; }
}

/// <summary>A folder plan of the studio's own, or what became of one that every studio begins with.</summary>
public sealed class StudioPlan
{
    public Guid Id { get; set; } = Guid.CreateVersion7();

    /// <summary>Unique; one that every studio begins with stands behind this.</summary>
    public required string Key { get; set; }

    /// <summary>The plan as a file; null for one that every studio begins with, as that is.</summary>
    public string? File { get; set; }

    /// <summary>What it was before the last change, so that this can be taken back.</summary>
    public string? FileBefore { get; set; }

    /// <summary>When it was taken off the list; null for one that projects can start with.</summary>
    public DateTimeOffset? RemovedAt { get; set; }

    public DateTimeOffset ChangedAt { get; set; }
    public Guid ChangedById { get; set; }
}

/// <summary>A job for a client.</summary>
public sealed class Project
{
    public Guid Id { get; set; } = Guid.CreateVersion7();

    /// <summary>Unique without regard to case; stands in addresses.</summary>
    public required string Code { get; set; }

    public required string Title { get; set; }
    public Guid ClientId { get; set; }
    public Client Client { get; set; } = null!;

    /// <summary>The folder plan that it began with. What its folders are for now, its tree says.</summary>
    public required string Plan { get; set; }

    /// <summary>That plan as it was, as a file; null for one of those that every studio begins with.</summary>
    public string? PlanFile { get; set; }

    /// <summary>What its files must be, as JSON; null where they may be anything.</summary>
    public string? Spec { get; set; }

    /// <summary>The convention that it began with, or that it was moved to, as JSON without the lists of codes.</summary>
    public required string Convention { get; set; }

    /// <summary>When the saves of its pieces take a number, where a piece does not say otherwise.</summary>
    public KeepSetting Keep { get; set; }

    public DateTimeOffset StartedAt { get; set; }
    public Guid StartedById { get; set; }

    /// <summary>As <see cref="Piece.PutAwayAt"/>, for all of its pieces.</summary>
    public DateTimeOffset? PutAwayAt { get; set; }

    /// <summary>As <see cref="Piece.DeletedAt"/>; the pieces that went with it were deleted at the same moment.</summary>
    public DateTimeOffset? DeletedAt { get; set; }

    public Guid? DeletedById { get; set; }
    public List<Piece> Pieces { get; set; } = [];

    /// <summary>Its tree.</summary>
    public List<TreeEntry> Entries { get; set; } = [];
}
