using System.IO.Compression;
using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Readers;
using Chronotype.Core.References;
using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Readers;
using Chronotype.Studio.Saves;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.References;

/// <summary>Something that a file carries inside, and where it would stand.</summary>
/// <param name="IsThere">An asset holds this very content already, and is referred to.</param>
public sealed record PuttingOut(EmbeddedPart Part, ProjectPath To, bool IsThere);

/// <param name="Parts">What stands where now.</param>
/// <param name="Save">The newest save, which refers to it.</param>
public sealed record PutOut(IReadOnlyList<PuttingOut> Parts, ReceivedSave Save);

/// <summary>
/// Puts out what the newest save of a piece carries inside: each content once among the project's assets, and a new loose save that refers
/// to it.
/// </summary>
public sealed class PutOutFiles(DeedRunner deeds, Rewriting rewriting, IDbContextFactory<StudioDb> contexts, IContentStore store)
{
    /// <summary>What would be put out, and where it would stand.</summary>
    /// <returns>Empty where nothing is inside; null where it cannot be looked for.</returns>
    /// <exception cref="IOException">As for <see cref="Rewriting.MakeAsync"/>.</exception>
    public async Task<IReadOnlyList<PuttingOut>?> PlanAsync(Guid pieceId, CancellationToken cancel = default)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        if (await NewestAsync(db, pieceId, cancel) is not { } save)
            return null;
        var (found, _) = await FindAsync(save, cancel);
        if (found is null)
            return null;
        using (found)
            return await PlacesAsync(db, save.Piece, found.Answer.Embedded!, cancel);
    }

    /// <exception cref="IOException">As for <see cref="Rewriting.MakeAsync"/>.</exception>
    public async Task<Outcome<PutOut>> DoAsync(Actor actor, Guid pieceId, CancellationToken cancel = default)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        if (await NewestAsync(db, pieceId, cancel) is not { } save)
            return new Refusal.NoContent();
        var (found, _) = await FindAsync(save, cancel);
        if (found is null)
            return new Refusal.NotPacked(save.Piece.CurrentName);
        using var parts = found;
        var outcome = await StoreAsync(actor, save.Piece, parts, cancel);
        if (outcome.Result is not { } placed)
            return outcome.Refusal!;
        var folder = await new TreeThen(db, save.Piece.ProjectId).FolderOfAsync(pieceId, cancel);
        var from = folder.Length == 0 ? null : ProjectPath.Parse(folder);
        var (made, _) = await rewriting.MakeAsync(
            new ReaderJob
            {
                Kind = ReaderJobKind.PutOut,
                Placed = [.. placed.Select(p => new PlacedPart(p.Part.Hash, RelativePath.Write(from, p.To, ReferenceSyntax.Uri, "")))],
            },
            () => [store.OpenRead(save.MainHash)],
            cancel
        );
        if (made is null)
            return new Refusal.NotPacked(save.Piece.CurrentName);
        var received = await rewriting.ReceiveAsync(actor, new SaveTarget.OfPiece(pieceId), made, save.ReceivedName, cancel);
        return received.Done ? new PutOut(placed, received.Result) : received.Refusal;
    }

    private static async Task<Save?> NewestAsync(StudioDb db, Guid pieceId, CancellationToken cancel)
    {
        var save = await db
            .Saves.AsNoTracking()
            .Include(s => s.Files)
            .Include(s => s.Piece)
            .Where(s => s.PieceId == pieceId && s.IsCurrent)
            .FirstOrDefaultAsync(cancel);
        return
            save is { Files.Count: 1 }
            && await ContentReader.KnownAsync(db, save.MainHash, cancel) is { Fault: null } facts
            && PackFile.IsPossible(facts.Format)
            ? save
            : null;
    }

    private Task<(MadeFile? File, FileFault? Fault)> FindAsync(Save save, CancellationToken cancel) =>
        rewriting.MakeAsync(new ReaderJob { Kind = ReaderJobKind.Embedded }, () => [store.OpenRead(save.MainHash)], cancel);

    // Stored before anything is decided, and held until it is recorded.
    private async Task<Outcome<List<PuttingOut>>> StoreAsync(Actor actor, Piece piece, MadeFile found, CancellationToken cancel)
    {
        var staged = new Dictionary<ContentHash, StagedContent>();
        try
        {
            await using (var archive = await ZipFile.OpenReadAsync(found.Path, cancel))
            {
                foreach (var part in found.Answer.Embedded!)
                {
                    await using var bytes = await archive.GetEntry(part.Hash.ToString())!.OpenAsync(cancel);
                    staged[part.Hash] = await store.StageAsync(bytes, cancel);
                }
            }
            if (staged.Any(s => s.Key != s.Value.Hash))
                throw new InvalidDataException("What the reader put aside is not what it told.");
            await store.CommitAsync([.. staged.Values], cancel);
            return await deeds.DoAsync<List<PuttingOut>>(
                actor,
                Right.Work,
                async deed =>
                {
                    var places = await PlacesAsync(deed.Db, piece, found.Answer.Embedded!, cancel);
                    foreach (var place in places.Where(p => !p.IsThere))
                    {
                        var held = (place.Part.Hash, place.Part.Size);
                        var placed = await TendFiles.RecordAsync(deed, piece.ProjectId, place.To.Folder, place.To.Name, held, null, cancel);
                        if (!placed.Done)
                            return placed.Refusal;
                        await deed.Db.SaveChangesAsync(cancel);
                    }
                    return places;
                },
                CancellationToken.None
            );
        }
        finally
        {
            foreach (var content in staged.Values)
                content.Dispose();
        }
    }

    private static async Task<List<PuttingOut>> PlacesAsync(
        StudioDb db,
        Piece piece,
        IReadOnlyList<EmbeddedPart> parts,
        CancellationToken cancel
    )
    {
        var tree = new ProjectTree(db, piece.ProjectId);
        var folder = (await tree.FolderOfAsync(FolderRole.Assets, cancel))?.Path ?? ProjectPath.Parse("assets");
        var hashes = parts.Select(p => p.Hash).ToList();
        var there = (
            await tree
                .Entries.Where(e => e.Kind == EntryKind.OwnFile && e.Role == FolderRole.Assets)
                .Select(e => new { e.Path, Hash = e.Contents.OrderByDescending(c => c.Sequence).Select(c => c.Hash).First() })
                .Where(e => hashes.Contains(e.Hash))
                .OrderBy(e => e.Path)
                .ToListAsync(cancel)
        ).ToLookup(e => e.Hash, e => e.Path);
        var taken = new HashSet<string>();
        var stem = PieceNames.SlotsOf(piece).Values.FirstOrDefault(v => v.Length > 0) ?? piece.CurrentName;
        var places = new List<PuttingOut>();
        foreach (var (part, i) in parts.Select((p, i) => (p, i)))
        {
            if (there[part.Hash].FirstOrDefault() is { } known)
            {
                places.Add(new PuttingOut(part, known, true));
                continue;
            }
            var own = Words.Fold(part.Name, "-", 40, WordCase.Lower, Scripts.None, out _);
            var name = own.Length > 0 ? own : $"{stem}-{i + 1}";
            var path = folder.Append(name + part.Extension);
            for (var n = 2; taken.Contains(path.Key) || await tree.FindAsync(path, cancel) is not null; n++)
                path = folder.Append($"{name}-{n}{part.Extension}");
            taken.Add(path.Key);
            places.Add(new PuttingOut(part, path, false));
        }
        return places;
    }
}
