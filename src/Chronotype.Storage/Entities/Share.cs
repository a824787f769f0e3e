using Chronotype.Core.Content;

namespace Chronotype.Storage.Entities;

/// <summary>A key that one of a person's programs signs in with. It is shown once, when it is made; only what it hashes to is kept.</summary>
public sealed class DeviceKey
{
    public Guid Id { get; set; } = Guid.CreateVersion7();
    public Guid PersonId { get; set; }

    /// <summary>What the person calls it: the machine or the program that has it.</summary>
    public required string Name { get; set; }

    /// <summary>SHA-256 of the key, which is random and long enough that nobody finds it by trying.</summary>
    public ContentHash Hash { get; set; }

    public DateTimeOffset MadeAt { get; set; }

    /// <summary>About when it was last used; null for never.</summary>
    public DateTimeOffset? UsedAt { get; set; }

    /// <summary>The network address that it was last used from; empty for none.</summary>
    public string Address { get; set; } = "";

    /// <summary>What the program that used it last calls itself; not trusted.</summary>
    public string Program { get; set; } = "";

    /// <summary>When it was revoked; null while it counts.</summary>
    public DateTimeOffset? EndedAt { get; set; }
}

/// <summary>
/// What a program has put on the share and what is not part of the tree, or not yet: a save that is still being written, a temporary file,
/// a lock file, what a desktop leaves behind. It stands before what the tree has at its path.
/// </summary>
public sealed class SharedFile
{
    public Guid Id { get; set; } = Guid.CreateVersion7();
    public Guid ProjectId { get; set; }

    /// <summary>From the project's top.</summary>
    public required ProjectPath Path { get; set; }

    /// <summary>As of <see cref="TreeEntry.PathKey"/>; of what stands unique in the project.</summary>
    public required string PathKey { get; set; }

    /// <summary>The key of the folder that it stands in; empty at the top.</summary>
    public required string FolderKey { get; set; }

    /// <summary>What it holds; null for what was taken off the share: then nothing stands at the path.</summary>
    public ContentHash? Hash { get; set; }

    /// <summary>Bytes.</summary>
    public long Size { get; set; }

    /// <summary>It is a folder, in a piece that is one, or that piece itself, which was made anew then; it holds nothing by itself.</summary>
    public bool IsFolder { get; set; }

    /// <summary>
    /// Its path within the piece that is a folder, <see cref="PieceId"/>, and empty for that folder itself; null for what stands in none.
    /// </summary>
    public string? Within { get; set; }

    /// <summary>When a program last wrote it, or took it off.</summary>
    public DateTimeOffset At { get; set; }

    public Guid ById { get; set; }

    /// <summary>Bytes that it added to the content store when it was put, 0 where all was there; null where nobody counted.</summary>
    public long? NewBytes { get; set; }

    /// <summary>When what it holds became a save, or was found to be one that nobody can place but a person; null while it is looked at.</summary>
    public DateTimeOffset? SettledAt { get; set; }

    /// <summary>
    /// When it was deleted, or written over, while it waited for a person to say what it is; null for what stands. It can be taken back until
    /// its grace period ends.
    /// </summary>
    public DateTimeOffset? DeletedAt { get; set; }

    public Guid? DeletedById { get; set; }

    /// <summary>The alt in whose folder it stands; null for the line on which work goes on, and for what stands in none.</summary>
    public Guid? LineId { get; set; }

    /// <summary>The piece that it is a save of, by its name or as somebody said; null where that is not known.</summary>
    public Guid? PieceId { get; set; }
}

/// <summary>A property that a program gave something on the share (RFC 4918, 4), as it was written.</summary>
public sealed class SharedProperty
{
    public Guid Id { get; set; } = Guid.CreateVersion7();
    public Guid ProjectId { get; set; }

    /// <summary>Of what it is a property of; empty for the project's top.</summary>
    public required string PathKey { get; set; }

    /// <summary>Its XML name: the namespace in braces, and the local name.</summary>
    public required string Name { get; set; }

    /// <summary>The whole element.</summary>
    public required string Xml { get; set; }
}
