namespace Chronotype.Storage.Entities;

/// <summary>A plan of renames that was carried out as a whole: a project moved from one convention to another.</summary>
public sealed class RenameRun
{
    public Guid Id { get; set; } = Guid.CreateVersion7();
    public Guid ProjectId { get; set; }
    public DateTimeOffset At { get; set; }
    public Guid ById { get; set; }

    /// <summary>The project's convention before, as JSON, and after.</summary>
    public required string Before { get; set; }

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
}

/// <summary>One name that a run changed. It stays, so that the old name still finds what it named.</summary>
public sealed class RenamedName
{
    public long Id { get; set; }
    public Guid RunId { get; set; }
    public Guid ProjectId { get; set; }
    public Guid PieceId { get; set; }

    /// <summary>The version, or the version that a milestone copy is of; null for a current file.</summary>
    public Guid? SaveId { get; set; }

    public NamedThing Thing { get; set; }
    public required string From { get; set; }
    public required string To { get; set; }
}
