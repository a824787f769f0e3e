using Chronotype.Core.Comparing;
using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Timeline;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Readers;
using Chronotype.Studio.Saves;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Uploads;
using Chronotype.Web.Words;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Pieces;

/// <summary>One save as the strip and the table show it.</summary>
public sealed record SaveRow(
    Guid Id,
    int Sequence,
    int? Number,
    ContentHash Identity,
    DateTimeOffset ArrivedAt,
    DateTimeOffset? KeptAt,
    string ArrivedBy,
    string? KeptBy,
    long Size,
    double? Change,
    bool IsMeasured,
    string? Note,
    int? Milestone,
    string? Reason,
    bool IsRead,
    bool IsFaulty,
    int? BroughtBackFrom,
    string ReceivedName,
    Comparison? Changed,
    bool IsOneFile,
    bool IsMarkDeclined,
    bool IsClosed
)
{
    /// <summary>How the address names it.</summary>
    public string Key =>
        Elsewhere is not null ? Id.ToString()
        : Number is { } n ? n.ToString()
        : $"s{Sequence}";

    /// <summary>The other piece that it is a save of; null for one of this piece.</summary>
    public string? Elsewhere { get; init; }

    /// <summary>Why it is no save that anybody made; null for one that is.</summary>
    public SaveAside? Aside { get; init; }

    /// <summary>It is a master of the piece.</summary>
    public bool IsMaster { get; init; }

    /// <summary>What changed since the version before, in a line; empty where that is not known.</summary>
    public string Summary => Changed is null ? "" : ChangeSummary.Of(Changed);

    public string Label => (Elsewhere is null ? "" : $"{Elsewhere} ") + (Number is { } n ? new VersionNumber(n).ToString() : "loose");
    public DateTimeOffset At => KeptAt ?? ArrivedAt;
}

/// <summary>One save as the stage and the ledger show it.</summary>
/// <param name="Facts">What is in it, or in the face that stands in for it; null where that was not read yet.</param>
/// <param name="Page">Of a picture with pages, the one that is shown, from 0.</param>
public sealed record ShownSave(SaveRow Row, Save Record, FileFacts? Facts, int Page = 0)
{
    /// <summary>What stands in for it, since its native cannot be read; null for nothing.</summary>
    public Face? Face => AttachFace.Standing(Record);

    /// <summary>Its native is carried as it is, so that it may be given a face.</summary>
    public bool MayHaveFace => Face is not null || Facts is { Format: FileFormat.Other };

    public int Pages => Facts?.Document?.Pages ?? Math.Min(Facts?.Picture?.Pages ?? 1, Previews.MostPages);
    public bool HasPicture => Facts is { Fault: null, Picture: not null };

    /// <summary>It is drawn as one picture that is not looked at pixel by pixel: a scene, a timeline.</summary>
    public bool IsDrawn => Facts is { Fault: null } and ({ Scene: not null } or { Timeline: not null });

    /// <summary>Its pages are drawn by the browser.</summary>
    public bool IsDocument => Facts is { Fault: null, Document: not null };

    /// <summary>Moving pictures, which the browser plays.</summary>
    public bool IsFilm => Facts is { Fault: null, Format: FileFormat.Film };

    /// <summary>Nothing is known of what is in it.</summary>
    public bool IsClosed => Facts is { Fault: null, Format: FileFormat.Other, IsPacked: false };

    public bool IsText => Facts is { Fault: null, Text: not null };
    public bool HasSound => Facts?.Sound is { Frames: > 0 };

    public string Picture => PreviewAddress.Of(Row.Id, Record.SeenHash, 1600, Page);
    public SaveFile Main => Record.Files.First(f => f.IsMain);

    /// <summary>The files of it that are damaged or missing on disk here; none where nothing is known to be.</summary>
    public IReadOnlyList<string> Damaged { get; set; } = [];

    /// <summary>Bytes that this save added on disk when it arrived; null where nobody counted.</summary>
    public long? NewOnDisk { get; set; }
}
