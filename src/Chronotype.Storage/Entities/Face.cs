using Chronotype.Core.Content;
using Chronotype.Core.Versions;

namespace Chronotype.Storage.Entities;

/// <summary>
/// A flat picture, a mix or a film that stands in for a save whose native cannot be read. The one that was attached last is shown;
/// those before it stay for as long as the save.
/// </summary>
public sealed class Face
{
    public Guid Id { get; set; } = Guid.CreateVersion7();
    public Guid SaveId { get; set; }
    public ContentHash Hash { get; set; }

    /// <summary>What its file was called when it came.</summary>
    public required string Name { get; set; }

    public long Size { get; set; }
    public FaceOrigin Origin { get; set; }
    public DateTimeOffset AttachedAt { get; set; }
    public Guid AttachedById { get; set; }

    /// <summary>When it was taken off; null while it stands.</summary>
    public DateTimeOffset? TakenOffAt { get; set; }
}
