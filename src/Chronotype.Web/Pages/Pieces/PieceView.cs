using Chronotype.Core.Comparing;
using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Timeline;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio;
using Chronotype.Studio.Lines;
using Chronotype.Studio.Outputs;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Readers;
using Chronotype.Studio.References;
using Chronotype.Studio.Saves;
using Chronotype.Studio.Share;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Uploads;
using Chronotype.Web.Words;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Pieces;

/// <summary>Everything that a piece's screen shows.</summary>
public sealed partial class PieceView(StudioDb db, StudioClock clock, PieceAsked asked)
{
    public PieceAsked Asked => asked;
    public Piece Piece { get; private set; } = null!;

    /// <summary>The line that is looked at: the one on which work goes on, where the address asks for no other.</summary>
    public Line Line { get; private set; } = null!;

    /// <summary>Its other lines.</summary>
    public IReadOnlyList<OtherLine> OtherLines { get; private set; } = [];

    private PieceNames Names => PieceNames.Of(Piece).On(Line.Name);

    /// <summary>The folder of its current file; empty for the project's top.</summary>
    public string StandsIn { get; private set; } = "";
    public IReadOnlyList<SaveRow> Saves { get; private set; } = [];

    /// <summary>What is no save that anybody made: copies that programs made by themselves, beginnings of files that broke off.</summary>
    public IReadOnlyList<SaveRow> Beside { get; private set; } = [];
    public PieceStanding Standing { get; private set; }
    public NameView Name { get; private set; } = null!;

    /// <summary>What was made of the piece.</summary>
    public IReadOnlyList<ShownOutput> Outputs { get; private set; } = [];
    public VersionNumber Next { get; private set; }
    public string NextName { get; private set; } = "";
    public string MilestoneName { get; private set; } = "";

    /// <summary>What B is called when it is marked as the master now.</summary>
    public string MasterName { get; private set; } = "";
    public Strip Strip { get; private set; } = null!;
    public DateTimeOffset Now { get; private set; }
    public DateTimeOffset StartedAt => clock.At(Piece.StartedAt);
    public ShownSave? A { get; private set; }
    public ShownSave? B { get; private set; }

    /// <summary>Against what B is measured in the ledger: A, or the version before B.</summary>
    public SaveRow? Against { get; private set; }

    /// <summary>Null where it has to be measured first.</summary>
    public Comparison? Comparison { get; private set; }

    /// <summary>Why it could not be measured, where that was tried just now; null else.</summary>
    public JobError? NotMeasured { get; private set; }

    /// <summary>Whether the stage itself shows what changed, and so has to wait for it, too.</summary>
    public bool IsLinedUp =>
        (A is { HasSound: true } && B is { HasSound: true })
        || (A is { IsText: true } && B is { IsText: true })
        || (A is { Facts.Timeline: not null } && B is { Facts.Timeline: not null })
        || (A is { IsClosed: true } && B is { IsClosed: true });

    /// <summary>How A and B are laid beside one another.</summary>
    public string Look => Asked.Look is { } look && PieceAsked.Looks.Contains(look) ? look : PieceAsked.Looks[0];

    /// <summary>The layer that is looked at alone; null for the whole picture.</summary>
    public PartChange? Layer =>
        A is not null
        && Asked.Layer is { } index
        && Comparison?.Parts.ElementAtOrDefault(index) is { } part
        && (part.LayerBefore ?? part.LayerNow) is not null
            ? part
            : null;

    /// <summary>It was measured for this very page.</summary>
    public void Measured((Comparison? Comparison, JobError Error) found) =>
        (Comparison, NotMeasured) = (found.Comparison, found.Comparison is null ? found.Error : null);

    public SaveRow? Newest => Saves.Count == 0 ? null : Saves[^1];

    /// <summary>What the current file holds: the newest save that is not known to be cut short or damaged.</summary>
    public SaveRow? Current => Saves.LastOrDefault(s => !s.IsFaulty) ?? Newest;

    /// <summary>A newer save that cannot be read, and waits beside the current one; null for none.</summary>
    public SaveRow? Waiting => Newest is { Number: null, IsFaulty: true } && Newest != Current ? Newest : null;

    public SaveRow? NewestLoose => Current is { Number: null } ? Current : null;
    public int Kept => Saves.Count(s => s.Number is not null);
    public string Address => Places.Of(Piece);

    /// <summary>Where it is renamed, moved, put away and deleted.</summary>
    public string TidyAddress => Places.TidyOf(Piece);

    public string CurrentFile => Piece.CurrentName + Piece.Extension;
    public KeepSetting Setting => Piece.Keep ?? Piece.Project.Keep;

    /// <summary>What speaks against numbering the newest loose save, where that was not answered; empty for nothing.</summary>
    public IReadOnlyList<SaveDoubt> Question { get; private set; } = [];

    /// <summary>The studio's other pieces, as they are asked for when one is compared with this; those of its project first.</summary>
    public IReadOnlyList<string> OtherPieces { get; private set; } = [];

    /// <summary>The version whose face the newest save may be, since its native cannot be read; null for none.</summary>
    public string? FaceFor { get; private set; }

    /// <summary>The version to be marked, since the newest save changed a great part of it; null where there is nothing to offer.</summary>
    public SaveRow? WorthMarking =>
        Newest is { IsMarkDeclined: false, Changed: { Change: { } change } } newest
        && change >= GreatFrom
        // The first few versions of a piece change much, as they should.
        && (Piece.GreatChange is not null || Kept > FirstFew)
        && Saves.Where(s => s.Number is not null && s.Id != newest.Id).MaxBy(s => s.Number) is { Milestone: null } before
            ? before
            : null;

    private const int FirstFew = 2;

    /// <summary>From how much change on, from 0 to 1.</summary>
    public double GreatFrom =>
        Piece.GreatChange
        ?? GreatChange.Threshold([
            .. Saves.Where(s => s.Number is not null && s.Id != Newest?.Id).Skip(1).Select(s => s.Change).OfType<double>(),
        ]);

    /// <summary>What was said to be expected of its saves.</summary>
    public IReadOnlyList<SaveDoubtCode> Expected => SaveQuestion.ExpectedOf(Piece);

    /// <summary>The number that keeping a loose save gives.</summary>
    public VersionNumber NextOf(SaveRow loose) => Names.Next(Line.HighestNumber, loose.ReceivedName);

    /// <summary>The next number in order, where the newest loose save's name says a later one; null else.</summary>
    public VersionNumber? InOrder =>
        NewestLoose is { } loose && Names.Next(Line.HighestNumber) is var next && next != NextOf(loose) ? next : null;

    /// <returns>False when there is no such piece.</returns>
    public async Task<bool> LoadAsync(string project, string piece, string hand, CancellationToken cancel)
    {
        var found = await db
            .Pieces.AsNoTracking()
            .Include(p => p.Lines)
            .Include(p => p.Project)
                .ThenInclude(p => p.Client)
            .FirstOrDefaultAsync(p => p.Project.Code == project && p.CurrentName == piece, cancel);
        if (found is null)
            return false;
        Piece = found;
        Line = found.Lines.Find(l => l.Name.Equals(Asked.Line, StringComparison.OrdinalIgnoreCase)) ?? found.Line;
        var current = await db
            .Entries.AsNoTracking()
            .FirstOrDefaultAsync(e => e.PieceId == found.Id && e.Kind == EntryKind.CurrentFile, cancel);
        StandsIn = current?.Path.Folder?.Text ?? "";
        if (current is not null)
            UsedBy = await new WhoUses(db).TodayAsync(current, cancel);
        Begun = await db
            .Pieces.Where(p => db.Saves.Any(s => s.Id == p.FromSaveId && s.PieceId == found.Id))
            .OrderBy(p => p.CurrentName)
            .Select(p => new { p.Project.Code, p.CurrentName })
            .ToListAsync(cancel)
            is { Count: > 0 } begun
            ? begun.ConvertAll(p => (p.Code, p.CurrentName))
            : [];
        Now = clock.Now;
        var left = await db
            .Saves.Where(s => s.LineId == Line.LeftLineId && s.Number == Line.LeftAt)
            .Select(s => (ContentHash?)s.Identity)
            .FirstOrDefaultAsync(cancel);
        AltFile = Line.Name.Length == 0 ? null : await AltFiles.Of(db, Line.Id).Select(e => e.Path).FirstOrDefaultAsync(cancel);
        Saves = await new SaveRows(db, clock).LoadAsync(db.Saves.Where(s => s.LineId == Line.Id && s.Aside == null), cancel, left);
        var loose = Saves.Where(s => s.Number is null).Select(s => s.Id.ToString()).ToList();
        IsNumberComing =
            loose.Count > 0
            && await db.Jobs.AnyAsync(
                j =>
                    j.Kind == JobKind.KeepBySetting
                    && loose.Contains(j.Subject)
                    && (j.State == JobState.Waiting || j.State == JobState.Running),
                cancel
            );
        Beside = await new SaveRows(db, clock).LoadAsync(db.Saves.Where(s => s.PieceId == found.Id && s.Aside != null), cancel);
        OtherLines = await OtherLine.OfAsync(db, found, Line, cancel);
        // What another line has kept is at no risk here.
        var kept =
            OtherLines.Count == 0
                ? []
                : await db
                    .Saves.Where(s => s.PieceId == found.Id && s.LineId != Line.Id && s.Number != null)
                    .Select(s => s.Identity)
                    .ToListAsync(cancel);
        Standing = PieceStanding.Of(
            Saves
                .Where(s => !IsBeginning(s))
                .Select(s => new SaveMark(s.Sequence, s.Identity, s.ArrivedAt, s.Number, kept.Contains(s.Identity)))
        );
        LoadNames(hand);
        await LoadShownAsync(cancel);
        await LoadQuestionAsync(cancel);
        From = await FromAsync(cancel);
        OffShare = await ShareFiles.OffAsync(db, found, cancel);
        Strip = StripLayout.Lay(StripOf(StripWidth));
        OtherPieces = await db
            .Pieces.Where(p => p.Id != found.Id && p.Saves.Any())
            .OrderByDescending(p => p.ProjectId == found.ProjectId)
            .ThenBy(p => p.Project.Code)
            .ThenBy(p => p.CurrentName)
            .Select(p => p.Project.Code + "/" + p.CurrentName)
            .Take(MostOthers)
            .ToListAsync(cancel);
        return true;
    }

    public StudioClock Clock => clock;

    /// <summary>The newest of all its saves; null for none.</summary>
    public Guid? NewestSave => Saves.MaxBy(s => s.Sequence)?.Id;

    /// <summary>A save is being read, and takes its number by itself, or has a question, when that is done.</summary>
    public bool IsNumberComing { get; private set; }

    /// <summary>What it was started from, and where that is looked at; null where it began by itself.</summary>
    public (string Name, string Link)? From { get; private set; }

    /// <summary>The files that refer to its current file.</summary>
    public IReadOnlyList<UsedBy> UsedBy { get; private set; } = [];

    /// <summary>The pieces that were started from a save of it.</summary>
    public IReadOnlyList<(string Project, string Name)> Begun { get; private set; } = [];

    /// <summary>What became, from one to the other, of the files that they refer to.</summary>
    public IReadOnlyList<SeenChange> Seen { get; private set; } = [];

    /// <summary>What the shown save refers to, in other files.</summary>
    public IReadOnlyList<ShownReference> References { get; private set; } = [];

    private async Task<(string Name, string Link)?> FromAsync(CancellationToken cancel)
    {
        if (Piece.FromEntryId is { } entry)
            return
                await db.Entries.Where(e => e.Id == entry).Select(e => new { e.Path, e.DeletedAt }).FirstOrDefaultAsync(cancel) is { } from
                ? (from.Path.Text, Places.OfTree(Piece.Project.Code, from.Path.Folder, from.DeletedAt is null ? entry : null))
                : null;
        if (Piece.FromSaveId is not { } save)
            return null;
        return
            await db
                .Saves.Where(s => s.Id == save)
                .Select(s => new
                {
                    s.Piece.Project.Code,
                    s.Piece.CurrentName,
                    s.Number,
                    s.ExactName,
                    s.Sequence,
                })
                .FirstOrDefaultAsync(cancel)
                is { } before
            ? (
                before.ExactName ?? before.CurrentName,
                $"{Places.OfPiece(before.Code, before.CurrentName)}?b={(before.Number is { } n ? $"{n}" : $"s{before.Sequence}")}"
            )
            : null;
    }

    private const int MostOthers = 400;

    private async Task LoadQuestionAsync(CancellationToken cancel)
    {
        if (Newest is not { Number: null } newest)
            return;
        var save = await db.Saves.AsNoTracking().Include(s => s.Files).FirstAsync(s => s.Id == newest.Id, cancel);
        if (save.IsLeftLoose || Saves.Any(s => s.Number is not null && s.Identity == save.Identity))
            return;
        var facts = await ContentReader.KnownAsync(db, save.MainHash, cancel);
        Question = await SaveQuestion.FindAsync(db, Piece, save, facts, cancel);
        if (
            Question.Count > 0
            && newest.IsOneFile
            && FaceRule.CanBeFace(facts?.Format ?? FileFormat.Other)
            && Saves.LastOrDefault(s => s.Number is not null) is { IsClosed: true } native
        )
            FaceFor = native.Label;
    }
}
