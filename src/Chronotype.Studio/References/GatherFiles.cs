using Chronotype.Core.Content;
using Chronotype.Core.References;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Readers;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.References;

/// <summary>A file that goes along with a save.</summary>
/// <param name="Path">Where it stands in the project, so that references lead to it as they did.</param>
public sealed record GatheredFile(ProjectPath Path, ContentHash Hash, long Size);

/// <summary>A save with what it needs.</summary>
/// <param name="Missing">References that led to nothing, as they are written, with the file that they stand in.</param>
/// <param name="Leads">References that led to one of the files.</param>
public sealed record Gathered(
    IReadOnlyList<GatheredFile> Files,
    IReadOnlyList<(ProjectPath In, string Written)> Missing,
    IReadOnlyList<(ProjectPath In, string Written, ProjectPath To)> Leads
)
{
    /// <summary>Where the save's main file stands.</summary>
    public ProjectPath? Main { get; init; }

    /// <summary>Bytes in all.</summary>
    public long Size => Files.Sum(f => f.Size);
}

/// <summary>
/// Gathers a save with all that it refers to, and what that refers to in turn: as it was when the save was kept, or came, or as it is.
/// Nothing is fetched, and nothing from outside the project goes along.
/// </summary>
public sealed class GatherFiles(StudioDb db)
{
    /// <summary>So many files are gathered at most; a project of more is sent as a whole.</summary>
    public const int Most = 20_000;

    private sealed record Open(ProjectPath Path, ContentHash Hash, long Size);

    /// <param name="save">With its files and its piece.</param>
    /// <param name="asThen">With what it saw; else with what stands there now.</param>
    public async Task<Gathered> OfAsync(Save save, bool asThen, CancellationToken cancel = default)
    {
        var piece = save.Piece;
        DateTimeOffset? moment = asThen ? save.KeptAt ?? save.ArrivedAt : null;
        var then = new TreeThen(db, piece.ProjectId, moment);
        var folder = await then.FolderOfAsync(piece.Id, cancel);
        var found = new Dictionary<string, GatheredFile>(StringComparer.Ordinal);
        var missing = new List<(ProjectPath, string)>();
        var leads = new List<(ProjectPath, string, ProjectPath)>();
        ProjectPath? mainPath = null;
        var open = new Queue<Open>();
        // What it saw is recorded with it, also where the file itself is gone by now.
        var seen = asThen
            ? await db.Links.AsNoTracking().Where(l => l.SaveId == save.Id && l.SeenHash != null && l.SeenPath != null).ToListAsync(cancel)
            : [];
        var main = save.Files.Count > 1 ? ReferenceBase.Mount(folder, piece.CurrentName) : folder;
        foreach (var file in save.Files)
        {
            var name = save.Files.Count > 1 ? file.Path : piece.CurrentName + piece.Extension;
            if (ProjectPath.TryParse(main.Length == 0 ? name : $"{main}/{name}", out var path, out _))
            {
                Add(path, file.Hash, file.Size);
                mainPath = file.IsMain ? path : mainPath;
            }
        }
        foreach (var companion in await PieceCompanions.OfAsync(db, save, asThen, cancel))
        {
            if (ProjectPath.TryParse($"{folder}/{piece.CurrentName}{companion.Tail}".TrimStart('/'), out var path, out _))
                Add(path, companion.Hash, companion.Size);
        }
        foreach (var link in seen)
            Add(link.SeenPath!, link.SeenHash!.Value, link.SeenSize);
        while (open.TryDequeue(out var at) && found.Count < Most)
        {
            if (await ContentReader.KnownAsync(db, at.Hash, cancel) is not { References.Count: > 0 } facts)
                continue;
            var around = at.Path.Folder?.Text ?? "";
            var written = facts
                .ReferencesOf(at.Path.Name)
                .Where(r => r.EmbeddedBytes is null)
                .Select(r => r.Written)
                .Distinct(StringComparer.Ordinal)
                .Select(w => (Text: w, Reference: WrittenReference.Read(w, ReferenceSyntaxes.Of(facts.Format))))
                .Where(w => w.Reference.Kind is WrittenKind.Relative or WrittenKind.Absolute)
                .ToList();
            var files = await then.AtAsync(FileLinks.Keys(around, written.Select(w => w.Reference)), cancel);
            foreach (var (text, reference) in written)
            {
                var resolved = ReferenceResolver.Resolve(files, around, reference);
                if (resolved.Target is { Hash: { } hash } target)
                {
                    Add(target.Path, hash, target.Size);
                    // What it saw goes before what stood there: the two differ where a content came and went in one moment.
                    leads.Add((at.Path, text, found[target.Path.Key].Path));
                }
                else if (resolved.Path is not { } path || !found.ContainsKey(FileIndex<GatheredFile>.Key(path)))
                    missing.Add((at.Path, text));
            }
        }
        return new Gathered([.. found.Values.OrderBy(f => f.Path.Text, StringComparer.Ordinal)], missing, leads) { Main = mainPath };

        void Add(ProjectPath path, ContentHash hash, long size)
        {
            // Of files that refer to one another in a circle each goes along once.
            if (found.TryAdd(path.Key, new GatheredFile(path, hash, size)))
                open.Enqueue(new Open(path, hash, size));
        }
    }
}
