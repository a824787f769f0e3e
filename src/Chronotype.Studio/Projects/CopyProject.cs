using Chronotype.Core.Content;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Conventions;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Lines;
using Chronotype.Studio.People;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Projects;

/// <summary>
/// Sets a whole project aside as a copy, with all of its pieces, lines, versions and files, so that something can be tried in all of it at
/// once. What they hold is shared and costs nothing. Either work goes on in the copy, or it is put away and work stays.
/// </summary>
public sealed class CopyProject(DeedRunner deeds)
{
    /// <param name="code">Of the copy; its current names hold it, where the convention has them hold it. What was kept keeps its names.</param>
    /// <param name="goesOn">Work goes on in the copy; else the copy is put away.</param>
    public async Task<Outcome<Project>> DoAsync(
        Actor actor,
        Guid projectId,
        string code,
        string title,
        bool goesOn,
        CancellationToken cancel = default
    )
    {
        var (called, named) = (code.Trim().ToUpperInvariant(), TypedText.Line(title));
        return await deeds.DoAsync<Project>(
            actor,
            Right.Work,
            async deed =>
            {
                var db = deed.Db;
                if (
                    await db.Projects.AsNoTracking().Include(p => p.Client).FirstOrDefaultAsync(p => p.Id == projectId, cancel)
                    is not { } original
                )
                    return new Refusal.NoSuchProject();
                if (ProjectDetails.Fault(called, named, original.Client.Code) is { } fault)
                    return fault;
                if (await ProjectDetails.TakenAsync(db, called, null, cancel) is { } taken)
                    return taken;
                var studio = new ConventionStore(db);
                var conflict = await studio.ConflictAsync(cancel);
                db.ChangeTracker.AutoDetectChangesEnabled = false;
                var copy = await new Copying(deed, original).DoAsync(called, named, goesOn ? null : deed.Now, cancel);
                return conflict is null && await studio.ConflictAsync(cancel) is { } now
                    ? new Refusal.CodesBreakConvention(now, "Code")
                    : copy;
            },
            cancel
        );
    }

    /// <summary>One copy being made: each row anew, with the rows that it names in the copy too.</summary>
    private sealed class Copying(Deed deed, Project original)
    {
        private readonly StudioDb db = deed.Db;
        private readonly Dictionary<Guid, Guid> made = [];
        private readonly Dictionary<long, SaveFile> files = [];

        public async Task<Project> DoAsync(string code, string title, DateTimeOffset? putAway, CancellationToken cancel)
        {
            var project = Again(original, p => p.Id = New(p.Id));
            (project.Code, project.Title, project.PutAwayAt) = (code, title, putAway);
            (project.StartedAt, project.StartedById) = (deed.Now, deed.Actor.PersonId);
            db.Projects.Add(project);
            SetAccess.Began(deed, project);
            await db.SaveChangesAsync(cancel);
            foreach (var recipe in await db.Recipes.AsNoTracking().Where(r => r.ProjectId == original.Id).ToListAsync(cancel))
                db.Recipes.Add(
                    Again(
                        recipe,
                        r =>
                        {
                            r.Id = Guid.CreateVersion7();
                            r.ProjectId = project.Id;
                        }
                    )
                );
            var pieces = await PiecesAsync(project, cancel);
            await SavesAsync(cancel);
            await EntriesAsync(project, pieces, cancel);
            await RestAsync(project, cancel);
            return project;
        }

        private async Task<List<Piece>> PiecesAsync(Project project, CancellationToken cancel)
        {
            var pieces = await db.Pieces.AsNoTracking().Where(p => p.ProjectId == original.Id).ToListAsync(cancel);
            var ids = pieces.ConvertAll(p => p.Id);
            foreach (var piece in pieces)
                New(piece.Id);
            var copies = pieces.ConvertAll(piece =>
                Again(
                    piece,
                    p =>
                    {
                        (p.Id, p.ProjectId, p.TemplateSince) = (made[p.Id], project.Id, null);
                        p.Project = null!;
                    }
                )
            );
            foreach (var copy in copies)
            {
                // Only what stands for good keeps the code of the project that it was made in.
                project.Client = original.Client;
                if (PieceNames.Of(project, PieceNames.SlotsOf(copy)).Current().Name is { } name)
                    copy.CurrentName = name.Stem;
            }
            db.Pieces.AddRange(copies);
            var lines = await db.Lines.AsNoTracking().Where(l => ids.Contains(l.PieceId)).ToListAsync(cancel);
            foreach (var line in lines)
                New(line.Id);
            db.Lines.AddRange(
                lines.ConvertAll(line =>
                    Again(
                        line,
                        l =>
                        {
                            (l.Id, l.PieceId) = (made[l.Id], made[l.PieceId]);
                            l.LeftLineId = l.LeftLineId is { } left ? made.GetValueOrDefault(left, left) : null;
                        }
                    )
                )
            );
            await db.SaveChangesAsync(cancel);
            return copies;
        }

        private async Task SavesAsync(CancellationToken cancel)
        {
            var saves = await db
                .Saves.AsNoTracking()
                .Include(s => s.Files)
                .Include(s => s.Faces)
                .Include(s => s.Milestone)
                .Include(s => s.Master)
                .AsSplitQuery()
                .Where(s => s.Piece.ProjectId == original.Id)
                .ToListAsync(cancel);
            foreach (var save in saves)
            {
                New(save.Id);
                db.Saves.Add(Again(save, s => (s.Id, s.PieceId, s.LineId, s.NewBytes) = (made[s.Id], made[s.PieceId], made[s.LineId], 0)));
                foreach (var file in save.Files)
                    db.SaveFiles.Add(files[file.Id] = Again(file, f => (f.Id, f.SaveId) = (0, made[f.SaveId])));
                foreach (var face in save.Faces)
                    db.Faces.Add(Again(face, f => (f.Id, f.SaveId) = (Guid.CreateVersion7(), made[f.SaveId])));
                if (save.Milestone is { } milestone)
                    db.Milestones.Add(Again(milestone, m => (m.Id, m.SaveId) = (New(m.Id), made[m.SaveId])));
                if (save.Master is { } master)
                    db.Masters.Add(Again(master, m => (m.Id, m.SaveId) = (Guid.CreateVersion7(), made[m.SaveId])));
            }
            await db.SaveChangesAsync(cancel);
        }

        private async Task EntriesAsync(Project project, List<Piece> pieces, CancellationToken cancel)
        {
            var entries = await db
                .Entries.AsNoTracking()
                .Include(e => e.Contents)
                .Where(e => e.ProjectId == original.Id && e.DeletedAt == null)
                .ToListAsync(cancel);
            foreach (var entry in entries)
                New(entry.Id);
            var names = pieces.ToDictionary(p => p.Id, p => p.CurrentName);
            var extensions = pieces.ToDictionary(p => p.Id, p => p.Extension);
            var ids = names.Keys.ToList();
            var lines = await db.Lines.Where(l => ids.Contains(l.PieceId)).ToDictionaryAsync(l => l.Id, l => l.Name, cancel);
            foreach (var entry in entries)
            {
                var copy = Again(
                    entry,
                    e =>
                    {
                        (e.Id, e.ProjectId) = (made[e.Id], project.Id);
                        (e.PieceId, e.SaveId, e.MilestoneId) = (Of(e.PieceId), Of(e.SaveId), Of(e.MilestoneId));
                        e.LineId = Of(e.LineId);
                    }
                );
                if (copy is { Kind: EntryKind.CurrentFile, PieceId: { } piece })
                {
                    var dot = copy.Path.Name.LastIndexOf('.');
                    var name = names[piece] + (dot > 0 ? copy.Path.Name[dot..] : "");
                    copy.Path = copy.Path.Folder is { } folder ? folder.Append(name) : ProjectPath.Parse(name);
                    copy.PathKey = copy.Path.Key;
                }
                if (copy is { Kind: EntryKind.AltFile, PieceId: { } of, LineId: { } line } && lines.TryGetValue(line, out var alt))
                {
                    var name = AltFiles.NameOf(names[of] + extensions[of], alt);
                    copy.Path = copy.Path.Folder is { } folder ? folder.Append(name) : ProjectPath.Parse(name);
                    copy.PathKey = copy.Path.Key;
                }
                db.Entries.Add(copy);
                foreach (var content in entry.Contents)
                    db.FileContents.Add(Again(content, c => (c.Id, c.EntryId) = (New(c.Id), made[c.EntryId])));
            }
            await db.SaveChangesAsync(cancel);
        }

        // What says how they hang together.
        private async Task RestAsync(Project project, CancellationToken cancel)
        {
            var ours = db.Saves.Where(s => s.Piece.ProjectId == original.Id).Select(s => s.Id);
            foreach (var with in await db.Companions.AsNoTracking().Where(c => ours.Contains(c.SaveId)).ToListAsync(cancel))
            {
                if (made.ContainsKey(with.EntryId))
                    db.Companions.Add(Again(with, c => (c.Id, c.SaveId, c.EntryId) = (0, made[c.SaveId], made[c.EntryId])));
            }
            foreach (var output in await db.Outputs.AsNoTracking().Where(o => ours.Contains(o.SaveId)).ToListAsync(cancel))
            {
                if (made.ContainsKey(output.EntryId))
                    db.Outputs.Add(
                        Again(
                            output,
                            o =>
                            {
                                (o.Id, o.EntryId) = (Guid.CreateVersion7(), made[o.EntryId]);
                                (o.PieceId, o.SaveId) = (made[o.PieceId], made[o.SaveId]);
                            }
                        )
                    );
            }
            foreach (var link in await db.Links.AsNoTracking().Where(l => l.ProjectId == original.Id).ToListAsync(cancel))
            {
                // Of what was discarded or deleted there is no copy.
                if (
                    (link.SaveFileId is { } f && !files.ContainsKey(f))
                    || (link.FileContentId is { } c && !made.ContainsKey(c))
                    || (link.SaveId is { } s && !made.ContainsKey(s))
                )
                    continue;
                db.Links.Add(
                    Again(
                        link,
                        l =>
                        {
                            (l.Id, l.ProjectId) = (0, project.Id);
                            (l.SaveFileId, l.FileContentId) = (l.SaveFileId is { } file ? files[file].Id : null, Of(l.FileContentId));
                            (l.SaveId, l.SeenEntryId) = (Of(l.SaveId), Of(l.SeenEntryId));
                        }
                    )
                );
            }
            foreach (var piece in db.ChangeTracker.Entries<Piece>().Select(e => e.Entity))
            {
                piece.FromSaveId = Of(piece.FromSaveId);
                piece.FromEntryId = Of(piece.FromEntryId);
            }
            db.ChangeTracker.DetectChanges();
            await db.SaveChangesAsync(cancel);
        }

        private Guid New(Guid old) => made[old] = Guid.CreateVersion7();

        // What is of another project stays that.
        private Guid? Of(Guid? old) => old is { } id ? made.GetValueOrDefault(id, id) : null;

        private T Again<T>(T row, Action<T> change)
            where T : class
        {
            var copy = (T)db.Entry(row).CurrentValues.ToObject();
            change(copy);
            return copy;
        }
    }
}
