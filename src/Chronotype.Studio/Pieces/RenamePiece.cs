using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Naming.Renaming;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Conventions;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.References;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Pieces;

/// <summary>Where a piece stands and what it is called by, as a run of renames records it.</summary>
/// <param name="Slots">By label.</param>
public sealed record PiecePlace(Guid Project, IReadOnlyDictionary<string, string> Slots);

/// <summary>What renaming or moving a piece would rename.</summary>
/// <param name="Names">Every name that changes; the current file's first.</param>
/// <param name="To">The project that it stands in then.</param>
public sealed record PieceRenames(IReadOnlyList<RenamedName> Names, Project To)
{
    internal IReadOnlyDictionary<string, string> Slots { get; init; } = new Dictionary<string, string>();
}

/// <summary>
/// Calls a piece by something else, or moves it to another project, or both: all its names follow by a plan, as a whole or not at all.
/// Versions keep their numbers, and the old names stay findable.
/// </summary>
public sealed class RenamePiece(DeedRunner deeds, IDbContextFactory<StudioDb> contexts, StudioClock clock)
{
    /// <summary>The plan, without doing anything.</summary>
    /// <param name="toProject">Its code; the piece's own for staying there.</param>
    /// <param name="slots">By label, what the piece is to be called by.</param>
    public async Task<Outcome<PieceRenames>> PlanAsync(
        Guid pieceId,
        string toProject,
        IReadOnlyDictionary<string, string> slots,
        CancellationToken cancel = default
    )
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        return await PlanAsync(db, pieceId, toProject, slots, null, cancel);
    }

    /// <param name="toProject">As for <see cref="PlanAsync(Guid, string, IReadOnlyDictionary{string, string}, CancellationToken)"/>.</param>
    /// <param name="slots">As there.</param>
    public Task<Outcome<Piece>> DoAsync(
        Actor actor,
        Guid pieceId,
        string toProject,
        IReadOnlyDictionary<string, string> slots,
        CancellationToken cancel = default
    ) =>
        deeds.DoAsync<Piece>(
            actor,
            Right.Work,
            async deed =>
            {
                var outcome = await PlanAsync(deed.Db, pieceId, toProject, slots, null, cancel);
                if (!outcome.Done)
                    return outcome.Refusal;
                var before = await PlaceAsync(deed.Db, pieceId, cancel);
                var after = new PiecePlace(outcome.Result.To.Id, outcome.Result.Slots);
                deed.Db.RenameRuns.Add(
                    new RenameRun
                    {
                        ProjectId = after.Project,
                        Cause = RenameCause.Piece,
                        PieceId = pieceId,
                        At = deed.Now,
                        ById = deed.Actor.PersonId,
                        Before = RecordJson.Write(before),
                        After = RecordJson.Write(after),
                        Names = [.. outcome.Result.Names],
                    }
                );
                return await GiveAsync(deed, pieceId, after, outcome.Result.Names, cancel);
            },
            cancel
        );

    /// <summary>Gives the old names back, and the old place. Versions that were kept since are named like the others.</summary>
    public Task<Outcome<Piece>> UndoAsync(Actor actor, Guid pieceId, Guid runId, CancellationToken cancel = default) =>
        deeds.DoAsync<Piece>(
            actor,
            Right.Work,
            async deed =>
            {
                var run = await deed
                    .Db.RenameRuns.Include(r => r.Names)
                    .FirstOrDefaultAsync(r => r.Id == runId && r.PieceId == pieceId && r.UndoneAt == null, cancel);
                if (run is null)
                    return new Refusal.MoveUndoneAlready();
                var now = await deed.Db.Pieces.AsNoTracking().FirstOrDefaultAsync(p => p.Id == pieceId, cancel);
                if (now is null)
                    return new Refusal.NoSuchPiece();
                if (RecordJson.Write(await PlaceAsync(deed.Db, pieceId, cancel)) != run.After)
                    return new Refusal.RenamedAgainSince(now.CurrentName);
                var back = RecordJson.Read<PiecePlace>(run.Before);
                var code = await deed.Db.Projects.Where(p => p.Id == back.Project).Select(p => p.Code).FirstOrDefaultAsync(cancel);
                if (code is null)
                    return new Refusal.NoSuchProject();
                var outcome = await PlanAsync(deed.Db, pieceId, code, back.Slots, run.Names, cancel);
                if (!outcome.Done)
                    return outcome.Refusal;
                run.UndoneAt = deed.Now;
                // Names that were given since stay findable too.
                var told = run.Names.Select(n => (n.Thing, n.SaveId)).ToHashSet();
                run.Names.AddRange(outcome.Result.Names.Where(n => n.Thing == NamedThing.Current || !told.Contains((n.Thing, n.SaveId))));
                return await GiveAsync(deed, pieceId, back, outcome.Result.Names, cancel);
            },
            cancel
        );

    /// <param name="back">The names of a run that is undone; null for a new one.</param>
    private async Task<Outcome<PieceRenames>> PlanAsync(
        StudioDb db,
        Guid pieceId,
        string toProject,
        IReadOnlyDictionary<string, string> slots,
        IReadOnlyList<RenamedName>? back,
        CancellationToken cancel
    )
    {
        var piece = await db
            .Pieces.AsNoTracking()
            .Include(p => p.Project)
                .ThenInclude(p => p.Client)
            .FirstOrDefaultAsync(p => p.Id == pieceId, cancel);
        if (piece is null)
            return new Refusal.NoSuchPiece();
        var project = await db.Projects.AsNoTracking().Include(p => p.Client).FirstOrDefaultAsync(p => p.Code == toProject, cancel);
        if (project is null)
            return new Refusal.NoSuchProject();
        var convention = ConventionStore.Read(project.Convention);
        var (written, refusal) = await PieceSlots.WriteAsync(db, convention, slots, cancel);
        if (refusal is not null)
            return refusal;
        var names = PieceNames.Of(project, written);
        var (current, faults) = names.Current();
        if (current is null)
            return new Refusal.SlotNotLegal(faults[0].Slot, faults[0].Message);
        var stem = current.Stem;
        if (project.Id == piece.ProjectId && RecordJson.Write(written) == piece.Slots)
            return new Refusal.CalledSoAlready(stem);
        if (await db.Pieces.AnyAsync(p => p.ProjectId == project.Id && p.CurrentName == stem && p.Id != pieceId, cancel))
            return new Refusal.PieceIsThere(stem, ConventionStore.OwnSlots(convention).FirstOrDefault(s => s.Rule is WordsRule)?.Label);
        var old = back?.ToDictionary(n => (n.Thing, n.PieceId, n.SaveId), n => n.From) ?? [];
        var from = ConventionStore.Read(piece.Project.Convention);
        var renamed = new List<RenamedName>();
        foreach (var given in await GivenNames.LoadAsync(db, clock, [piece], cancel))
        {
            var (name, obstacle) = old.TryGetValue(given.Key, out var former) ? (former, null) : GivenNames.Become(given, from, names);
            if (name is null)
                return new Refusal.CannotRename(obstacle!.Message);
            if (name != given.Name)
                renamed.Add(given.To(name));
        }
        if (await TakenAsync(db, project.Id, pieceId, renamed, cancel) is { } taken)
            return new Refusal.CannotRename($"“{taken}” is the name of another piece’s version in {project.Code} already.");
        return new PieceRenames(renamed, project) { Slots = written };
    }

    private static async Task<string?> TakenAsync(
        StudioDb db,
        Guid project,
        Guid pieceId,
        IReadOnlyList<RenamedName> renamed,
        CancellationToken cancel
    )
    {
        foreach (var part in renamed.Where(n => n.Thing == NamedThing.Version).Select(n => n.To).Chunk(500))
        {
            var there = await db
                .Saves.Where(s => s.Piece.ProjectId == project && s.PieceId != pieceId && part.Contains(s.ExactName!))
                .Select(s => s.ExactName)
                .FirstOrDefaultAsync(cancel);
            if (there is not null)
                return there;
        }
        return null;
    }

    private static async Task<PiecePlace> PlaceAsync(StudioDb db, Guid pieceId, CancellationToken cancel)
    {
        var piece = await db.Pieces.AsNoTracking().FirstAsync(p => p.Id == pieceId, cancel);
        return new PiecePlace(piece.ProjectId, PieceNames.SlotsOf(piece));
    }

    private static async Task<Outcome<Piece>> GiveAsync(
        Deed deed,
        Guid pieceId,
        PiecePlace place,
        IReadOnlyList<RenamedName> names,
        CancellationToken cancel
    )
    {
        var slots = RecordJson.Write(place.Slots);
        var tree = new ProjectTree(deed.Db, place.Project);
        var piece = await deed.Db.Pieces.FirstAsync(p => p.Id == pieceId, cancel);
        // With its name, since what it was called may be taken where it comes to.
        (piece.Slots, piece.ProjectId) = (slots, place.Project);
        piece.CurrentName = names.FirstOrDefault(n => n.Thing == NamedThing.Current)?.To ?? piece.CurrentName;
        await deed.Db.SaveChangesAsync(cancel);
        await GivenNames.GiveAsync(deed.Db, tree, names, cancel);
        foreach (var entry in await deed.Db.Entries.Where(e => e.PieceId == pieceId && e.ProjectId != place.Project).ToListAsync(cancel))
        {
            await tree.TakeAsync(entry, entry.Path.Name, cancel);
            await deed.Db.SaveChangesAsync(cancel);
        }
        await FileLinks.OfPieceAsync(deed.Db, pieceId, place.Project, cancel);
        return await deed.Db.Pieces.AsNoTracking().Include(p => p.Project).FirstAsync(p => p.Id == pieceId, cancel);
    }
}
