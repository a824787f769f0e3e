using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Core.Outputs;
using Chronotype.Core.Readers;
using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Jobs;
using Chronotype.Studio.Projects;
using Chronotype.Studio.References;
using Chronotype.Studio.Saves;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Outputs;

/// <summary>A file that is off the spec, and what it would be converted by.</summary>
public sealed record Mendable(OffSpec File, Recipe Recipe, bool IsOriginal);

/// <summary>
/// Converts files that are not what their project's must be: an asset gets new content, a piece a new loose save, and of an original, which
/// is never touched, a converted copy stands among the assets.
/// </summary>
public sealed class MendSpec(DeedRunner deeds, Rewriting rewriting, IDbContextFactory<StudioDb> contexts, IContentStore store) : IJobWork
{
    // What a slow processor core goes over in a second, and what is begun with.
    private const long BytesPerSecond = 4_000_000;
    private const int LeastSeconds = 30,
        MostSeconds = 3_600;

    /// <summary>What of a list can be mended here.</summary>
    public static IReadOnlyList<Mendable> Of(ProjectSpec spec, IReadOnlyList<OffSpec> off, IReadOnlySet<Guid> originals) =>
        [
            .. off.Select(f => (File: f, Recipe: SpecMending.Of(f.Format, f.Measures, spec, f.Points)))
                .Where(f => f.Recipe is not null)
                .Select(f => new Mendable(f.File, f.Recipe!, originals.Contains(f.File.EntryId))),
        ];

    /// <summary>What of a project can be mended now.</summary>
    public static async Task<IReadOnlyList<Mendable>> OfAsync(StudioDb db, Guid projectId, CancellationToken cancel = default)
    {
        var project = await db.Projects.AsNoTracking().FirstOrDefaultAsync(p => p.Id == projectId, cancel);
        if (project is null)
            return [];
        var spec = PlanStore.SpecOf(project);
        var report = await new SpecFaults(db).LookAsync(projectId, spec, cancel);
        var ids = report.Off.Select(f => f.EntryId).ToList();
        var originals = await db
            .Entries.Where(e => ids.Contains(e.Id) && e.Role == FolderRole.Originals)
            .Select(e => e.Id)
            .ToListAsync(cancel);
        return Of(spec, report.Off, originals.ToHashSet());
    }

    /// <summary>Asks for files to be mended, in the queue.</summary>
    /// <param name="entries">Where they stand.</param>
    /// <returns>Those that are; refused where none can be.</returns>
    public Task<Outcome<IReadOnlyList<Mendable>>> AskAsync(
        Actor actor,
        Guid projectId,
        IReadOnlyCollection<Guid> entries,
        CancellationToken cancel = default
    ) =>
        deeds.DoAsync<IReadOnlyList<Mendable>>(
            actor,
            Right.Work,
            async deed =>
            {
                var mended = (await OfAsync(deed.Db, projectId, cancel)).Where(m => entries.Contains(m.File.EntryId)).ToList();
                if (mended.Count == 0)
                    return new Refusal.NothingToMend();
                foreach (var one in mended)
                    await deed.QueueAsync(JobRequest.Mend(one.File.EntryId), cancel);
                return mended;
            },
            cancel
        );

    async Task<string?> IJobWork.DoAsync(Job job, IProgress<(long Done, long Total)> progress, CancellationToken cancel)
    {
        var id = Guid.Parse(job.Subject);
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var entry = await db.Entries.AsNoTracking().FirstOrDefaultAsync(e => e.Id == id && e.DeletedAt == null, cancel);
        // It may have become another file since, or be as it should be by now.
        if (entry is null || (await OfAsync(db, entry.ProjectId, cancel)).FirstOrDefault(m => m.File.EntryId == id) is not { } mendable)
            return null;
        var content = mendable.File.Content;
        long size;
        await using (var there = store.OpenRead(content))
            size = there.Length;
        var (made, fault) = await rewriting.MakeAsync(
            new ReaderJob
            {
                Kind = ReaderJobKind.Make,
                Recipe = mendable.Recipe,
                ProcessorSeconds = (int)Math.Min(MostSeconds, LeastSeconds + size / BytesPerSecond),
            },
            () => [store.OpenRead(content)],
            cancel,
            progress
        );
        if (made is null)
            return RecordJson.Write(fault);
        var by = Actor.StudioFor(job.AskedById ?? Guid.Empty);
        if (entry.PieceId is { } piece)
        {
            var name = await db.Saves.Where(s => s.PieceId == piece && s.IsCurrent).Select(s => s.ReceivedName).FirstAsync(cancel);
            await rewriting.ReceiveAsync(by, new SaveTarget.OfPiece(piece), made, name, CancellationToken.None);
            return null;
        }
        using (made)
        {
            await using var bytes = File.OpenRead(made.Path);
            using var staged = await store.StageAsync(bytes, cancel);
            await store.CommitAsync([staged], cancel);
            (
                await deeds.DoAsync(
                    by,
                    Right.Work,
                    deed => PutAsync(deed, entry, (staged.Hash, staged.Size), CancellationToken.None),
                    CancellationToken.None
                )
            ).OrFail();
        }
        return null;
    }

    private static async Task<Outcome<PlacedFile>> PutAsync(
        Deed deed,
        TreeEntry entry,
        (ContentHash Hash, long Size) held,
        CancellationToken cancel
    )
    {
        if (entry.MayReplace)
            return await TendFiles.RecordAsync(deed, entry.ProjectId, entry.Path.Folder, entry.Path.Name, held, entry.Id, cancel);
        // Beside what is never changed: an original's copy among the assets, an output's among the outputs.
        var folder =
            entry.Role == FolderRole.Originals
                ? (await new ProjectTree(deed.Db, entry.ProjectId).FolderOfAsync(FolderRole.Assets, cancel))?.Path
                : entry.Path.Folder;
        return await TendFiles.RecordAsync(deed, entry.ProjectId, folder, entry.Path.Name, held, null, cancel);
    }
}
