using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Jobs;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Readers;
using Chronotype.Studio.References;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Saves;

/// <summary>What came of asking for a number.</summary>
public abstract record KeepResult
{
    /// <param name="NewerThanBase">The version that was newest when this one's base was not; null where it was.</param>
    /// <param name="OutgrownWidth">
    /// The digits that numbers have had so far, when this is the first that needs more; null for any other.
    /// </param>
    public sealed record Kept(
        Guid SaveId,
        VersionNumber Number,
        string ExactName,
        VersionNumber? BasedOn,
        VersionNumber? NewerThanBase,
        int? OutgrownWidth = null
    ) : KeepResult
    {
        /// <summary>What was kept, counted; null where it was kept before.</summary>
        public KeptCount? Count { get; init; }
    }

    /// <summary>The save has a number already.</summary>
    public sealed record Already(VersionNumber Number) : KeepResult;

    public sealed record Same(Guid SaveId, VersionNumber As, bool InsideOnly, bool MayInsist, VersionNumber Next) : KeepResult;

    public sealed record Question(Guid SaveId, IReadOnlyList<SaveDoubt> Doubts, VersionNumber Next) : KeepResult;

    /// <summary>It is being read first, and takes its number then if nothing speaks against it.</summary>
    public sealed record Pending(Guid SaveId) : KeepResult;

    /// <summary>There is no loose save to keep.</summary>
    public sealed record Nothing : KeepResult;
}

/// <summary>What a version holds, beside what the one before it held.</summary>
/// <param name="Now">What was read in it; null where that is not known yet.</param>
/// <param name="Before">What was read in the version before; null for the first, or where that is not known.</param>
/// <param name="Files">How many files it has.</param>
/// <param name="FilesBefore">As <paramref name="Files"/>, of the version before; null for the first.</param>
/// <param name="Bytes">Of all its files.</param>
/// <param name="NewBytes">Bytes that it added on disk; null where nobody counted.</param>
public sealed record KeptCount(FileFacts? Now, FileFacts? Before, int Files, int? FilesBefore, long Bytes, long? NewBytes);

/// <summary>Gives a loose save the next number.</summary>
public sealed class KeepSave(DeedRunner deeds, IDbContextFactory<StudioDb> contexts, JobQueue queue, StudioClock clock)
{
    public const int MaxNote = 2000;

    /// <summary>How long a person waits for the save to be read; then the number, or the question, follows by itself.</summary>
    public static readonly TimeSpan Patience = TimeSpan.FromSeconds(4);

    /// <param name="saveId">Null: the newest.</param>
    /// <param name="insist">The person has seen the objection and wants the number all the same.</param>
    /// <param name="inOrder">It takes the next number, also where the file's name says a later one.</param>
    public async Task<Outcome<KeepResult>> DoAsync(
        Actor actor,
        Guid pieceId,
        Guid? saveId,
        string? note,
        bool insist = false,
        bool inOrder = false,
        CancellationToken cancel = default
    )
    {
        // What is inside decides, so it is read before the number is asked for, and before anyone has to wait for us.
        await WaitUntilReadAsync(pieceId, saveId, cancel);
        return await deeds.DoAsync(actor, Right.Work, deed => WithinAsync(deed, pieceId, saveId, note, insist, inOrder, cancel), cancel);
    }

    /// <summary>As <see cref="DoAsync"/>, as part of a deed that does more.</summary>
    internal async Task<Outcome<KeepResult>> WithinAsync(
        Deed deed,
        Guid pieceId,
        Guid? saveId,
        string? note,
        bool insist,
        bool inOrder,
        CancellationToken cancel
    )
    {
        if (!await deed.Db.Pieces.AnyAsync(p => p.Id == pieceId, cancel))
            return new Refusal.NoSuchPiece();
        var (answer, asked) = await LookAsync(deed.Db, pieceId, saveId, insist, inOrder, cancel);
        if (answer is not null)
            return answer;
        return insist || inOrder || await MayBeKeptAsync(deed.Db, asked!.Save, cancel)
            ? await GiveAsync(deed, asked!, note, cancel)
            : await FollowAsync(deed, asked!.Save, note, cancel);
    }

    // An unread save may have lost its layers. A person may go on where reading it failed for another reason.
    private static async Task<bool> MayBeKeptAsync(StudioDb db, Save save, CancellationToken cancel)
    {
        var subject = save.Id.ToString();
        return await ContentReader.KnownAsync(db, save.MainHash, cancel) is not null
            || await db.Jobs.AnyAsync(j => j.Kind == JobKind.KeepBySetting && j.Subject == subject && j.State == JobState.Failed, cancel);
    }

    // It is kept for who asked when it has been read, unless something speaks against it then.
    private static async Task<KeepResult> FollowAsync(Deed deed, Save save, string? note, CancellationToken cancel)
    {
        save.Note = WriteNote.Clean(note) ?? save.Note;
        await deed.QueueAsync(JobRequest.Keep(save.Id, save.PieceId), cancel);
        return new KeepResult.Pending(save.Id);
    }

    /// <summary>What became of a save that was to be kept without being asked: its number, or what speaks against it.</summary>
    internal async Task<KeepResult> AnswerAsync(Guid pieceId, Guid saveId, CancellationToken cancel)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var save = await db.Saves.AsNoTracking().FirstOrDefaultAsync(s => s.Id == saveId, cancel);
        // Somebody discarded it, or deleted its piece, in this very moment.
        if (save is null || !await db.Pieces.AnyAsync(p => p.Id == pieceId, cancel))
            return new KeepResult.Nothing();
        if (save.Number is { } number)
            return new KeepResult.Kept(saveId, new VersionNumber(number), save.ExactName!, Number(save.BaseNumber), null);
        return (await LookAsync(db, pieceId, saveId, insist: false, inOrder: false, cancel)).Answer ?? new KeepResult.Pending(saveId);
    }

    private sealed record Asked(Piece Piece, Line Line, Save Save, PieceNames Names, KeepVerdict.Keep Keep);

    /// <returns>What is to be answered, or what may be kept.</returns>
    private static async Task<(KeepResult? Answer, Asked? Asked)> LookAsync(
        StudioDb db,
        Guid pieceId,
        Guid? saveId,
        bool insist,
        bool inOrder,
        CancellationToken cancel
    )
    {
        var piece = await db
            .Pieces.Include(p => p.Lines)
            .Include(p => p.Project)
                .ThenInclude(p => p.Client)
            .FirstAsync(p => p.Id == pieceId, cancel);
        var saves = db.Saves.Include(s => s.Files).Where(s => s.PieceId == pieceId);
        var save = saveId is { } id
            ? await saves.FirstOrDefaultAsync(s => s.Id == id, cancel)
            : await saves.Where(s => s.Line.IsCurrent && s.Aside == null).OrderByDescending(s => s.Sequence).FirstOrDefaultAsync(cancel);
        if (save is null)
            return (new KeepResult.Nothing(), null);
        if (save.Number is { } number)
            return (new KeepResult.Already(new VersionNumber(number)), null);

        var line = await db.Lines.FirstAsync(l => l.Id == save.LineId, cancel);
        var names = PieceNames.Of(piece).On(line.Name);
        var facts = await ContentReader.KnownAsync(db, save.MainHash, cancel);
        var verdict = KeepRule.Decide(
            save.Identity,
            InsideOf(save.Identity, save.MainHash, facts?.Inside),
            Number(save.BaseNumber),
            await LineAsync(db, line.Id, cancel),
            Number(line.HighestNumber),
            names.Convention.Version.Start,
            inOrder ? null : names.NumberByHand(save.ReceivedName),
            await SaveQuestion.FindAsync(db, piece, save, facts, cancel),
            insist
        );
        var next = names.Next(line.HighestNumber, inOrder ? null : save.ReceivedName);
        return verdict switch
        {
            KeepVerdict.Same same => (new KeepResult.Same(save.Id, same.As, same.InsideOnly, same.MayInsist, next), null),
            KeepVerdict.Question question => (new KeepResult.Question(save.Id, question.Doubts, next), null),
            KeepVerdict.Keep keep => (null, new Asked(piece, line, save, names, keep)),
            _ => throw new InvalidOperationException($"No one has said what to do about {verdict}."),
        };
    }

    /// <summary>Has the save read, for somebody who waits, but not for longer than they have patience.</summary>
    internal async Task WaitUntilReadAsync(Guid pieceId, Guid? saveId, CancellationToken cancel)
    {
        ContentHash content;
        await using (var db = await contexts.CreateDbContextAsync(cancel))
        {
            var asked = await db
                .Saves.Where(s => s.PieceId == pieceId && (saveId == null ? s.Line.IsCurrent && s.Aside == null : s.Id == saveId))
                .OrderByDescending(s => s.Sequence)
                .Select(s => new { s.MainHash, s.Number })
                .FirstOrDefaultAsync(cancel);
            if (asked is null or { Number: not null } || await ContentReader.KnownAsync(db, asked.MainHash, cancel) is not null)
                return;
            content = asked.MainHash;
        }
        await queue.AddAsync([JobRequest.Read(content, pieceId, JobPriority.Looked)], cancel: cancel);
        await queue.EndedAsync(JobKind.ReadContent, content.ToString(), Patience, cancel);
    }

    private static async Task<List<KeptContent>> LineAsync(StudioDb db, Guid lineId, CancellationToken cancel)
    {
        var kept = await db
            .Saves.Where(s => s.LineId == lineId && s.Number != null)
            .LeftJoin(
                ContentReader.Current(db),
                s => s.MainHash,
                f => f.Content,
                (s, f) =>
                    new
                    {
                        s.Number,
                        s.Identity,
                        s.MainHash,
                        f!.Inside,
                    }
            )
            .ToListAsync(cancel);
        return kept.ConvertAll(v => new KeptContent(
            new VersionNumber(v.Number!.Value),
            v.Identity,
            InsideOf(v.Identity, v.MainHash, v.Inside)
        ));
    }

    // A folder is more than what is inside its main file.
    private static ContentHash? InsideOf(ContentHash identity, ContentHash main, ContentHash? inside) => identity == main ? inside : null;

    private async Task<KeepResult> GiveAsync(Deed deed, Asked asked, string? note, CancellationToken cancel)
    {
        var (piece, line, save, names, keep) = asked;
        var width = names.Convention.Version.Width;
        var (before, now) = ($"{line.HighestNumber ?? 0}".Length, $"{keep.Number.Value}".Length);
        var previous = await PieceQueries
            .VersionsOf(deed.Db, line.Id)
            .Select(s => new
            {
                s.Identity,
                s.MainHash,
                Files = s.Files.Count,
            })
            .FirstOrDefaultAsync(cancel);
        line.HighestNumber = keep.Number.Value;
        save.Number = keep.Number.Value;
        save.KeptAt = deed.Now;
        save.ExactName = names.Working(deed.Person!.Initials, keep.Number, clock.DayOf(deed.Now), ExtensionOf(save)).Name!.ToString();
        save.KeptById = deed.Person.Id;
        save.Note = WriteNote.Clean(note) ?? save.Note;
        await new ProjectTree(deed.Db, piece.ProjectId).PlaceAsync(EntryKind.Version, save.ExactName, piece.Id, save.Id, cancel: cancel);
        // What it refers to is as it is now for good.
        await FileLinks.OfSaveAsync(deed.Db, save, cancel);
        await deed.QueueAsync(JobRequest.Read(save.MainHash, piece.Id), cancel);
        if (previous is not null && previous.Identity != save.Identity)
            await deed.QueueAsync(JobRequest.Compare(previous.Identity, save.Identity, piece.Id), cancel);
        return new KeepResult.Kept(
            save.Id,
            keep.Number,
            save.ExactName,
            Number(save.BaseNumber),
            keep.NewerThanBase,
            before <= width && now > width ? width : null
        )
        {
            Count = new KeptCount(
                await ContentReader.KnownAsync(deed.Db, save.MainHash, cancel),
                previous is null ? null : await ContentReader.KnownAsync(deed.Db, previous.MainHash, cancel),
                save.Files.Count,
                previous?.Files,
                save.Size,
                save.NewBytes
            ),
        };
    }

    private static string ExtensionOf(Save save) => FileNames.Extension(save.Files.First(f => f.IsMain).Path);

    private static VersionNumber? Number(int? value) => value is { } v ? new VersionNumber(v) : null;
}
