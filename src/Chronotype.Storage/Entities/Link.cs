using Chronotype.Core.Content;
using Chronotype.Core.References;

namespace Chronotype.Storage.Entities;

/// <summary>
/// A reference of a save's file, or of a content of a project's own file, with what it led to when that was kept, or came. What it
/// leads to now follows from <see cref="TargetKey"/>; what a version saw never changes.
/// </summary>
public sealed class Link
{
    public long Id { get; set; }

    /// <summary>The file of a save that it stands in; null where it stands in a file of the project's own.</summary>
    public long? SaveFileId { get; set; }

    /// <summary>The content of a file of its own that it stands in; null where it stands in a save.</summary>
    public Guid? FileContentId { get; set; }

    /// <summary>The save that it is of, so that a version's links are found at once.</summary>
    public Guid? SaveId { get; set; }

    public Guid ProjectId { get; set; }

    /// <summary>As it stands in the file; not trusted.</summary>
    public required string Written { get; set; }

    /// <summary>Where in the file it is written first.</summary>
    public required string Place { get; set; }

    /// <summary>How often it is written there.</summary>
    public int Times { get; set; }

    /// <summary>The key of the path in the project that it leads to; null where it leads to none.</summary>
    public string? TargetKey { get; set; }

    /// <summary>What became of it at that moment.</summary>
    public ReferenceState State { get; set; }

    /// <summary>The path that it led to then, spelt as the file was; of what was missing, the place where none was.</summary>
    public ProjectPath? SeenPath { get; set; }

    /// <summary>The entry that stood there; null where none did, and for a file that came in the save itself.</summary>
    public Guid? SeenEntryId { get; set; }

    /// <summary>What that held; it is kept for as long as a version needs it.</summary>
    public ContentHash? SeenHash { get; set; }

    /// <summary>Bytes of that.</summary>
    public long SeenSize { get; set; }
}
