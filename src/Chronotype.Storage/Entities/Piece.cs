using Chronotype.Core.Versions;

namespace Chronotype.Storage.Entities;

/// <summary>One thing being made, and all of its versions.</summary>
public sealed class Piece
{
    public Guid Id { get; set; } = Guid.CreateVersion7();
    public Guid ProjectId { get; set; }
    public Project Project { get; set; } = null!;

    /// <summary>What it is called by, slot by slot as it stands in names, as a JSON object: its subject, its function.</summary>
    public required string Slots { get; set; }

    /// <summary>The stable name without its extension; unique in the project without regard to case.</summary>
    public required string CurrentName { get; set; }

    /// <summary>Of the main file, with its dot; empty until the first content, or where the file had none.</summary>
    public string Extension { get; set; } = "";

    /// <summary>Null: as the project says.</summary>
    public KeepSetting? Keep { get; set; }

    /// <summary>What about its saves was said to be expected from now on, so that nobody is asked again, as JSON; null for nothing.</summary>
    public string? Expected { get; set; }

    /// <summary>From how much change on a save is a great one, from 0 to 1; null where it is learned from the piece's past.</summary>
    public double? GreatChange { get; set; }

    /// <summary>The highest number of a milestone ever given.</summary>
    public int HighestMilestone { get; set; }

    /// <summary>How many saves ever arrived.</summary>
    public int HighestSequence { get; set; }

    public DateTimeOffset StartedAt { get; set; }
    public Guid StartedById { get; set; }

    /// <summary>The original that it was started from, with that content as its first save; null for any other.</summary>
    public Guid? FromEntryId { get; set; }

    /// <summary>The save of another piece that it was started from; null for any other.</summary>
    public Guid? FromSaveId { get; set; }

    /// <summary>What of that save it was started with, as JSON; null for all of it.</summary>
    public string? FromPart { get; set; }

    /// <summary>Since when it is offered to start other pieces from; null for a piece that is no template.</summary>
    public DateTimeOffset? TemplateSince { get; set; }

    /// <summary>When it was put away: nobody works on it now, and nothing of it goes. Null for a piece on the go.</summary>
    public DateTimeOffset? PutAwayAt { get; set; }

    /// <summary>When it was deleted; it can be taken back until the grace period ends. Null for a piece that is there.</summary>
    public DateTimeOffset? DeletedAt { get; set; }

    public Guid? DeletedById { get; set; }
    public List<Save> Saves { get; set; } = [];

    /// <summary>The main line and the alts.</summary>
    public List<Line> Lines { get; set; } = [];

    /// <summary>The line on which work goes on.</summary>
    /// <exception cref="InvalidOperationException">The lines were not loaded.</exception>
    public Line Line => Lines.Single(l => l.IsCurrent);
}
