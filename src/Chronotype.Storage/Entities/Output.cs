using Chronotype.Core.Content;

namespace Chronotype.Storage.Entities;

/// <summary>A copy for use of a version: made by a recipe, or received and matched to it.</summary>
public sealed class Output
{
    public Guid Id { get; set; } = Guid.CreateVersion7();

    /// <summary>The file in the tree. Two versions may make one and the same.</summary>
    public Guid EntryId { get; set; }

    public Guid PieceId { get; set; }

    /// <summary>The version.</summary>
    public Guid SaveId { get; set; }

    /// <summary>What the version's main file held.</summary>
    public ContentHash Source { get; set; }

    /// <summary>Empty for one that was received.</summary>
    public required string RecipeKey { get; set; }

    /// <summary>The recipe as it was, as JSON: the same on the same content makes the same. Empty for one that was received.</summary>
    public required string Recipe { get; set; }

    /// <summary>Why it was taken to be of this version, as JSON; null for one that was made, or whose version a person said.</summary>
    public string? Reasons { get; set; }

    /// <summary>What was made, or what came.</summary>
    public ContentHash Hash { get; set; }

    public DateTimeOffset At { get; set; }
    public Guid ById { get; set; }
}

/// <summary>A recipe of the studio's, or of one project's.</summary>
public sealed class RecipeEntry
{
    public Guid Id { get; set; } = Guid.CreateVersion7();

    /// <summary>Null for one of the studio's.</summary>
    public Guid? ProjectId { get; set; }

    /// <summary>Unique among those of its project, or of the studio. It stands before one of ours that has the same.</summary>
    public required string Key { get; set; }

    /// <summary>As JSON.</summary>
    public required string File { get; set; }

    public DateTimeOffset At { get; set; }
    public Guid ById { get; set; }
}

/// <summary>A colour profile (ISO 15076-1) that was handed in, for outputs.</summary>
public sealed class ColourProfileEntry
{
    public Guid Id { get; set; } = Guid.CreateVersion7();

    /// <summary>Of the file, without its ending; unique without regard to case.</summary>
    public required string Name { get; set; }

    /// <summary>What its colours are told in: <c>RGB</c>, <c>CMYK</c> or <c>GRAY</c>.</summary>
    public required string Space { get; set; }

    public ContentHash Hash { get; set; }

    /// <summary>Bytes.</summary>
    public long Size { get; set; }

    public DateTimeOffset At { get; set; }
    public Guid ById { get; set; }
}
