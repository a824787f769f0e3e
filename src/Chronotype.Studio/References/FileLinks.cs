using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.References;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Readers;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.References;

/// <summary>
/// Records what files refer to, and what each reference led to when the file came, or was kept. It is done when both are known: the
/// file, and what is inside it.
/// </summary>
internal static class FileLinks
{
    /// <summary>Other files of a folder that may refer to something.</summary>
    private static readonly HashSet<string> Referring = new(StringComparer.OrdinalIgnoreCase) { ".svg", ".gltf", ".glb", ".otio" };

    /// <summary>Whether a file is read for what it refers to, by what it is called.</summary>
    /// <param name="patterns">Those of the studio.</param>
    public static bool MayRefer(string path, IReadOnlyList<ReferencePattern> patterns) =>
        Referring.Contains(Path.GetExtension(path)) || patterns.Any(p => p.Ending == FileNames.Extension(path));

    /// <summary>Of every file that holds a content, now that it was read. Within a transaction.</summary>
    public static async Task OfContentAsync(StudioDb db, ContentHash content, FileFacts facts, CancellationToken cancel = default)
    {
        // Nearly every content refers to nothing, and may stand in very many saves. Of a text, patterns may have said something else before.
        if (
            facts.References.All(r => r.EmbeddedBytes is not null)
            && (
                facts.Format != FileFormat.Text
                || !await db.Links.AnyAsync(
                    l =>
                        db.SaveFiles.Any(f => f.Id == l.SaveFileId && f.Hash == content)
                        || db.FileContents.Any(c => c.Id == l.FileContentId && c.Hash == content),
                    cancel
                )
            )
        )
            return;
        foreach (var id in await db.SaveFiles.Where(f => f.Hash == content).Select(f => f.SaveId).Distinct().ToListAsync(cancel))
        {
            // A loose save that was discarded may be taken back.
            var save = await db.Saves.WithDeleted().Include(s => s.Files).FirstAsync(s => s.Id == id, cancel);
            foreach (var file in save.Files.Where(f => f.Hash == content))
                await OfSaveFileAsync(db, save, file, facts, cancel);
        }
        foreach (var file in await db.FileContents.Where(c => c.Hash == content).ToListAsync(cancel))
            await OfFileAsync(db, file, facts, cancel);
        await db.SaveChangesAsync(cancel);
    }

    /// <summary>Of a save that came, or was kept, now, as far as it was read. Within a transaction, the save being recorded.</summary>
    public static async Task OfSaveAsync(StudioDb db, Save save, CancellationToken cancel = default)
    {
        var patterns = await ReferencePatterns.OfAsync(db, cancel);
        foreach (var file in save.Files.Where(f => f.IsMain || MayRefer(f.Path, patterns)))
        {
            if (await ContentReader.KnownAsync(db, file.Hash, cancel) is { } facts)
                await OfSaveFileAsync(db, save, file, facts, cancel);
        }
    }

    /// <summary>Of a content of a project's own file.</summary>
    public static async Task OfFileAsync(StudioDb db, FileContent content, FileFacts facts, CancellationToken cancel = default)
    {
        var entry = await db.Entries.FirstOrDefaultAsync(e => e.Id == content.EntryId, cancel);
        if (entry is null)
            return;
        await db.Links.Where(l => l.FileContentId == content.Id).ExecuteDeleteAsync(cancel);
        var now = db.DoneAt ?? DateTimeOffset.UtcNow;
        content.LinkedAt = now;
        if (Written(facts, entry.Path.Name) is not { Count: > 0 } written)
            return;
        var found = await ResolveAsync(db, entry.ProjectId, null, entry.Path.Folder?.Text ?? "", null, written, cancel);
        foreach (var link in found)
        {
            link.FileContentId = content.Id;
            db.Links.Add(link);
        }
    }

    /// <summary>Of files that stand elsewhere now: where their references lead follows from where they stand.</summary>
    public static async Task OfMovedAsync(StudioDb db, IReadOnlyList<TreeEntry> moved, CancellationToken cancel = default)
    {
        foreach (var entry in moved.Where(e => e.Kind == EntryKind.OwnFile))
        {
            var content = await db.FileContents.Where(c => c.EntryId == entry.Id).OrderByDescending(c => c.Sequence).FirstAsync(cancel);
            if (
                await db.Links.AnyAsync(l => l.FileContentId == content.Id, cancel)
                && await ContentReader.KnownAsync(db, content.Hash, cancel) is { } facts
            )
                await OfFileAsync(db, content, facts, cancel);
        }
        foreach (var entry in moved.Where(e => e.Kind == EntryKind.CurrentFile))
            await LeadAsync(db, entry, cancel);
    }

    /// <summary>Of a piece that is called otherwise, or came to another project.</summary>
    public static async Task OfPieceAsync(StudioDb db, Guid pieceId, Guid projectId, CancellationToken cancel = default)
    {
        await db
            .Links.Where(l => l.ProjectId != projectId && db.Saves.WithDeleted().Any(s => s.Id == l.SaveId && s.PieceId == pieceId))
            .ExecuteUpdateAsync(u => u.SetProperty(l => l.ProjectId, projectId), cancel);
        if (await db.Entries.FirstOrDefaultAsync(e => e.PieceId == pieceId && e.Kind == EntryKind.CurrentFile, cancel) is { } entry)
            await LeadAsync(db, entry, cancel);
    }

    // What a version saw stays; only where the links of the newest save lead from here on is told anew.
    private static async Task LeadAsync(StudioDb db, TreeEntry current, CancellationToken cancel)
    {
        var save = await db.Saves.Include(s => s.Files).Where(s => s.PieceId == current.PieceId && s.IsCurrent).FirstOrDefaultAsync(cancel);
        if (save is null)
            return;
        var folder = current.Path.Folder?.Text ?? "";
        var name = await db.Pieces.Where(p => p.Id == current.PieceId).Select(p => p.CurrentName).FirstAsync(cancel);
        var files = save.Files.ToDictionary(f => f.Id, f => f.Path);
        var links = (await db.Links.Where(l => l.SaveId == save.Id).ToListAsync(cancel)).ConvertAll(link =>
        {
            var path = files[link.SaveFileId!.Value];
            var from = ReferenceBase.Of(folder, name, save.Files.Count > 1, path);
            return (Link: link, From: from, Reference: WrittenReference.Read(link.Written, SyntaxOf(path)));
        });
        var there = await new TreeThen(db, current.ProjectId).AtAsync(links.SelectMany(l => Keys(l.From, [l.Reference])), cancel);
        foreach (var (link, from, reference) in links)
            link.TargetKey = ReferenceResolver.Resolve(there, from, reference).Path is { } path ? FileIndex<StandingFile>.Key(path) : null;
    }

    /// <summary>How a file writes where references lead, by what it is called: only texts write paths letter by letter.</summary>
    public static ReferenceSyntax SyntaxOf(string path) =>
        Referring.Contains(Path.GetExtension(path)) ? ReferenceSyntax.Uri : ReferenceSyntax.Path;

    private static async Task OfSaveFileAsync(StudioDb db, Save save, SaveFile file, FileFacts facts, CancellationToken cancel)
    {
        var moment = save.KeptAt ?? save.ArrivedAt;
        // What a version saw stays, even if what it saw is gone by now; a newer reader may only find more.
        var isSeen = save.Number is not null && file.LinkedAt == moment;
        var known = isSeen
            ? (await db.Links.Where(l => l.SaveFileId == file.Id).Select(l => l.Written).ToListAsync(cancel)).ToHashSet()
            : [];
        if (!isSeen)
            await db.Links.Where(l => l.SaveFileId == file.Id).ExecuteDeleteAsync(cancel);
        file.LinkedAt = moment;
        var all = Written(facts, file.Path);
        // What a pattern took for a link, and the patterns of today do not, was none.
        if (isSeen && facts.Format == FileFormat.Text && known.Except(all.Select(w => w.Written)).ToList() is { Count: > 0 } wrong)
            await db.Links.Where(l => l.SaveFileId == file.Id && wrong.Contains(l.Written)).ExecuteDeleteAsync(cancel);
        var written = all.FindAll(w => !known.Contains(w.Written));
        if (written.Count == 0)
            return;
        var piece = await db.Pieces.WithDeleted().FirstAsync(p => p.Id == save.PieceId, cancel);
        var folder = await new TreeThen(db, piece.ProjectId, moment).FolderOfAsync(piece.Id, cancel);
        FileIndex<StandingFile>? own = null;
        if (save.Files.Count > 1)
        {
            var mount = ReferenceBase.Mount(folder, piece.CurrentName);
            own = new FileIndex<StandingFile>();
            foreach (var other in save.Files)
            {
                if (ProjectPath.TryParse($"{mount}/{other.Path}", out var path, out _))
                    own.Add(
                        path.Text,
                        new StandingFile(Guid.Empty, EntryKind.CurrentFile, path, default, piece.Id, save.Id, other.Hash, other.Size)
                    );
            }
        }
        folder = ReferenceBase.Of(folder, piece.CurrentName, save.Files.Count > 1, file.Path);
        foreach (var link in await ResolveAsync(db, piece.ProjectId, moment, folder, own, written, cancel))
        {
            (link.SaveId, link.SaveFileId) = (save.Id, file.Id);
            db.Links.Add(link);
        }
    }

    private sealed record WrittenLink(string Written, string Place, int Times, WrittenReference Reference);

    // What is embedded leads nowhere; what is written several times is one link.
    private static List<WrittenLink> Written(FileFacts facts, string name) =>
        [
            .. facts
                .ReferencesOf(name)
                .Where(r => r.EmbeddedBytes is null)
                .GroupBy(r => r.Written, StringComparer.Ordinal)
                .Select(g => new WrittenLink(
                    g.Key,
                    g.First().Place,
                    g.Count(),
                    WrittenReference.Read(g.Key, ReferenceSyntaxes.Of(facts.Format))
                ))
                .Where(w => w.Reference.Kind is not (WrittenKind.Itself or WrittenKind.Embedded)),
        ];

    private static async Task<List<Link>> ResolveAsync(
        StudioDb db,
        Guid projectId,
        DateTimeOffset? moment,
        string folder,
        FileIndex<StandingFile>? own,
        List<WrittenLink> written,
        CancellationToken cancel
    )
    {
        var files = await new TreeThen(db, projectId, moment).AtAsync(Keys(folder, written.Select(w => w.Reference)), cancel);
        foreach (var (path, file) in own?.All ?? [])
            files.Add(path, file);
        return written.ConvertAll(w =>
        {
            var resolved = ReferenceResolver.Resolve(files, folder, w.Reference);
            var isPath = ProjectPath.TryParse(resolved.Path ?? "", out var path, out _);
            return new Link
            {
                ProjectId = projectId,
                Written = w.Written,
                Place = w.Place,
                Times = w.Times,
                State = resolved.State,
                TargetKey = isPath ? path!.Key : null,
                SeenPath = path,
                SeenEntryId = resolved.Target is { EntryId: var id } && id != Guid.Empty ? id : null,
                SeenHash = resolved.Target?.Hash,
                SeenSize = resolved.Target?.Size ?? 0,
            };
        });
    }

    /// <summary>The keys of every path that references may lead to.</summary>
    public static IEnumerable<string> Keys(string folder, IEnumerable<WrittenReference> references) =>
        references
            .Where(r => r.Kind == WrittenKind.Relative)
            .SelectMany(r => new[] { r.Path, r.Literal })
            .OfType<string>()
            .Select(p => RelativePath.Follow(folder, p))
            .OfType<string>()
            .Select(FileIndex<StandingFile>.Key);
}
