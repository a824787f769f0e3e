using Chronotype.Core.Content;
using Chronotype.Core.Versions;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Tree;

namespace Chronotype.Studio.Saves;

/// <summary>What content arrives for.</summary>
public abstract record SaveTarget
{
    /// <summary>A piece that is there.</summary>
    /// <param name="LineId">The line that it is a save of; null for the one on which work goes on.</param>
    public sealed record OfPiece(Guid PieceId, Guid? LineId = null) : SaveTarget;

    /// <summary>A piece that begins with it.</summary>
    /// <param name="Slots">By label, what the piece is called by.</param>
    /// <param name="From">What it is started from, with that content as its first; null for nothing.</param>
    public sealed record NewPiece(Guid ProjectId, IReadOnlyDictionary<string, string> Slots, PieceOrigin? From = null) : SaveTarget;
}

/// <summary>Content as it arrives.</summary>
/// <param name="Name">As the browser or program gave it; not trusted.</param>
/// <param name="Bytes">Read to its end in constant memory.</param>
public sealed record ArrivingContent(string Name, Stream Bytes)
{
    /// <summary>It was said to be a save, and is taken for neither the face nor the companion of one.</summary>
    public bool IsASave { get; init; }

    /// <summary>It is content of the piece and no save of anybody's; null for a save.</summary>
    public SaveAside? Aside { get; init; }

    /// <summary>Where it is in the store already, and held there by a record: what it holds, and what it added. Its bytes are not read then.</summary>
    public (ContentHash Hash, long Size, long? NewBytes)? Stored { get; init; }

    /// <summary>A folder of files that are in the store already, and held there by records; null for a file. Its bytes are not read then.</summary>
    public StoredFolder? Folder { get; init; }

    /// <summary>A record holds it until it is a save, so that it becomes one again should that not last.</summary>
    public bool IsHeld => Stored is not null || Folder is not null;

    /// <summary>Nobody waits for what is read in it: a program that saves is answered when it is stored.</summary>
    public bool IsByItself { get; init; }
}

/// <summary>A folder of files whose contents are stored.</summary>
/// <param name="NewBytes">What they added to the store.</param>
public sealed record StoredFolder(IReadOnlyList<ContentFile> Files, IReadOnlyList<ProjectPath> EmptyFolders, long NewBytes);

/// <param name="Save">The save that holds the content: the new one, or the newest when that holds it already.</param>
/// <param name="IsNew">False when nothing was added, since the newest save holds the same content.</param>
/// <param name="Notice">What the person should know about how it arrived; null for nothing.</param>
/// <param name="NotTaken">The number that the file's name gives itself, where it does not take it; null where there is none.</param>
/// <param name="Next">The number that the next keep gives.</param>
/// <param name="Keep">What came of keeping it at once; null where that was not to be done.</param>
public sealed record ReceivedSave(
    Piece Piece,
    Save Save,
    bool IsNew,
    ArrivalNotice? Notice,
    VersionNumber? NotTaken,
    VersionNumber Next,
    KeepResult? Keep
)
{
    /// <summary>The number that the file's name gives itself, where it may take it and it is not the next in order; null else.</summary>
    public VersionNumber? ByName => Next == InOrder ? null : Next;

    /// <summary>The next number in order.</summary>
    public VersionNumber InOrder { get; init; }

    /// <summary>The newest version that has exactly this content; null where none has.</summary>
    public VersionNumber? SameAs { get; init; }

    /// <summary>What it became where it is no save but the face of one, <see cref="Save"/>; null else.</summary>
    public Face? Face { get; init; }

    /// <summary>What it became where it is no save but goes with the piece's file as its companion; null else.</summary>
    public PlacedFile? Companion { get; init; }
}
