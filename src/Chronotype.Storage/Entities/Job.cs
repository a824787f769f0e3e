namespace Chronotype.Storage.Entities;

/// <summary>What is done.</summary>
public enum JobKind
{
    /// <summary>Reads what is inside a content. Subject: its hash.</summary>
    ReadContent,

    /// <summary>Draws a content for the screen. Subject: its hash and the longer side in pixels, as <c>hash/480</c>, and of a picture
    /// with pages the page from 0, where it is not the first: <c>hash/480/2</c>.</summary>
    DrawPreview,

    /// <summary>Says what changed between two saves. Subject: the identities, as <c>before/after</c>.</summary>
    CompareContents,

    /// <summary>Gives a save its number where the piece's setting says so. Subject: the save.</summary>
    KeepBySetting,

    /// <summary>Reads all of the content store and holds it against what was written. Subject: none.</summary>
    VerifyStore,

    /// <summary>Reads a sample of it. Subject: none.</summary>
    VerifySample,

    /// <summary>Frees what nothing needs. Subject: none.</summary>
    CompactStore,

    /// <summary>Counts what the content takes on disk, and whose it is. Subject: none.</summary>
    CountStorage,

    /// <summary>Lets go of what was deleted longer ago than the grace period. Subject: none.</summary>
    EndGrace,

    /// <summary>
    /// Cuts a picture into tiles, or the difference of two. Subject: the content, the page from 0 and the layer where one is asked for by
    /// itself, as <c>hash-0</c> or <c>hash-0-3</c>; of a difference both, with a slash between.
    /// </summary>
    CutTiles,

    /// <summary>
    /// Makes a sound ready to be shown or played. Subject: what is made and of what, as <c>chart/hash</c>, <c>samples/hash/block</c>,
    /// <c>playable/hash</c>, or <c>residue/before/after</c> with the identities of two saves.
    /// </summary>
    PrepareSound,

    /// <summary>Makes a copy for use of a version. Subject: the version and the recipe's key, as <c>save/key</c>.</summary>
    MakeOutput,

    /// <summary>Finds the version that a copy for use was made from elsewhere. Subject: the file in the tree.</summary>
    MatchOutput,

    /// <summary>
    /// Puts parts of a save into a piece. Subject: the piece, the save, the layers, of a sound the stretch and the place, as
    /// <c>piece/save/0,3///0</c>.
    /// </summary>
    PutParts,

    /// <summary>Converts a file to what its project's files must be. Subject: the file in the tree.</summary>
    MendSpec,
}

public enum JobState
{
    Waiting,
    Running,

    /// <summary>It came to its end. Only jobs whose result is looked at later stay.</summary>
    Done,

    /// <summary>It could not be done, and is not tried again by itself.</summary>
    Failed,

    /// <summary>A person stopped it.</summary>
    Stopped,
}

/// <summary>What goes first.</summary>
public enum JobPriority
{
    /// <summary>Nobody waits for it.</summary>
    Background,

    /// <summary>It follows something that a person just did.</summary>
    Follows,

    /// <summary>Somebody looks at a page and waits.</summary>
    Looked,
}

/// <summary>Why a job was not done.</summary>
public enum JobError
{
    None,

    /// <summary>What it needs could not be read from the disk, or written to it.</summary>
    Disk,

    /// <summary>A content that it needs is damaged or missing.</summary>
    Damaged,

    /// <summary>The disk is full.</summary>
    Full,

    /// <summary>The records could not be read or written.</summary>
    Records,

    /// <summary>Nobody thought of it.</summary>
    Unexpected,

    /// <summary>The studio refused its result: something that it needs was changed or taken away meanwhile.</summary>
    Refused,
}

/// <summary>
/// Something that takes time, from when it is asked for until it is done. Of one kind and subject at most one waits or runs.
/// </summary>
public sealed class Job
{
    public long Id { get; set; }
    public JobKind Kind { get; set; }

    /// <summary>What it is done with; as the kind says.</summary>
    public required string Subject { get; set; }

    /// <summary>Of one lane, one job runs at a time, in the order in which they were asked for: a piece's.</summary>
    public required string Lane { get; set; }

    public JobState State { get; set; }
    public JobPriority Priority { get; set; }

    /// <summary>It is wanted also when nobody looks any more.</summary>
    public bool IsNeeded { get; set; }

    /// <summary>Bytes or steps that are done.</summary>
    public long Done { get; set; }

    /// <summary>Of so many; 0 where that is not known.</summary>
    public long Total { get; set; }

    public int Tries { get; set; }

    /// <summary>It waits until then before it is tried again.</summary>
    public DateTimeOffset NotBefore { get; set; }

    public JobError Error { get; set; }

    /// <summary>What the program itself said; for those who look after it.</summary>
    public string? ErrorDetail { get; set; }

    /// <summary>Who asked for it; null where the studio did by itself.</summary>
    public Guid? AskedById { get; set; }

    public DateTimeOffset AskedAt { get; set; }
    public DateTimeOffset? StartedAt { get; set; }
    public DateTimeOffset? EndedAt { get; set; }

    /// <summary>What it came to, as JSON; null for most.</summary>
    public string? Result { get; set; }
}
