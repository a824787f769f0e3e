namespace Chronotype.Storage.Entities;

/// <summary>What a plan of renames followed from.</summary>
public enum RenameCause
{
    /// <summary>The project was moved from one convention to another.</summary>
    Convention,

    /// <summary>A piece was called by something else, or came to another project.</summary>
    Piece,

    /// <summary>The project was given another code, or another client.</summary>
    Project,
}

/// <summary>A plan of renames that was carried out as a whole.</summary>
public sealed class RenameRun
{
    public Guid Id { get; set; } = Guid.CreateVersion7();

    /// <summary>The project that the names are of; of a piece that came to another project, the one that it came to.</summary>
    public Guid ProjectId { get; set; }

    public RenameCause Cause { get; set; }

    /// <summary>Of a piece's renames, the piece; else null.</summary>
    public Guid? PieceId { get; set; }

    public DateTimeOffset At { get; set; }
    public Guid ById { get; set; }

    /// <summary>
    /// What was changed, as JSON, as it was before: the project's convention; where and by what the piece is called; or the project's
    /// code and client.
    /// </summary>
    public required string Before { get; set; }

    /// <summary>As <see cref="Before"/>, as it is since.</summary>
    public required string After { get; set; }

    /// <summary>When the old names were given back; null while the new ones stand.</summary>
    public DateTimeOffset? UndoneAt { get; set; }

    public List<RenamedName> Names { get; set; } = [];
}

/// <summary>What a name is the name of.</summary>
public enum NamedThing
{
    /// <summary>A piece's current file; its name has no extension here.</summary>
    Current,

    Version,
    MilestoneCopy,

    /// <summary>A project, by its code.</summary>
    Project,

    MasterCopy,
}

/// <summary>One name that a run changed. It stays, so that the old name still finds what it named.</summary>
public sealed class RenamedName
{
    public long Id { get; set; }
    public Guid RunId { get; set; }

    /// <summary>Where the old name was found.</summary>
    public Guid ProjectId { get; set; }

    /// <summary>The piece that it is of; of a project's code, the project.</summary>
    public Guid PieceId { get; set; }

    /// <summary>The version, or the version that a milestone copy is of; null for a current file.</summary>
    public Guid? SaveId { get; set; }

    public NamedThing Thing { get; set; }
    public required string From { get; set; }
    public required string To { get; set; }
}
