using Chronotype.Core.Content;

namespace Chronotype.Storage.Entities;

/// <summary>A copy for use that was made from a version by a recipe.</summary>
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

    public required string RecipeKey { get; set; }

    /// <summary>The recipe as it was, as JSON: the same on the same content makes the same.</summary>
    public required string Recipe { get; set; }

    /// <summary>What was made.</summary>
    public ContentHash Hash { get; set; }

    public DateTimeOffset At { get; set; }
    public Guid ById { get; set; }
}
