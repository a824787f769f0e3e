using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Core.Readers;
using Chronotype.Core.References;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Readers;
using Chronotype.Studio.Saves;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.References;

/// <summary>What would be put inside a file.</summary>
/// <param name="Inside">The files that its references lead to, with those that they need in turn.</param>
/// <param name="Missing">References that lead to nothing, and stay as they are written.</param>
/// <param name="Size">Bytes of the file as it is.</param>
/// <param name="Added">About how many bytes more it will have.</param>
public sealed record PackPlan(IReadOnlyList<GatheredFile> Inside, IReadOnlyList<string> Missing, long Size, long Added);

/// <summary>Puts what a save refers to inside its file: pictures and typefaces of an SVG, buffers and pictures of a glTF.</summary>
public sealed class PackFile(Rewriting rewriting, IDbContextFactory<StudioDb> contexts, IContentStore store)
{
    // SVG may place SVG that places SVG; nobody goes deeper than that on purpose.
    private const int Deepest = 12;

    /// <summary>Whether files of a format can be packed, and put out again.</summary>
    public static bool IsPossible(FileFormat format) => format is FileFormat.Svg or FileFormat.Gltf;

    /// <summary>The name of the packed file.</summary>
    public static string NameOf(Save save, FileFormat format) =>
        format == FileFormat.Gltf ? Path.ChangeExtension(save.ExactName ?? save.ReceivedName, ".glb") : save.ExactName ?? save.ReceivedName;

    /// <param name="asThen">With what the save saw; else with what stands there now.</param>
    /// <returns>Null where the save is no file that can be packed.</returns>
    public async Task<PackPlan?> PlanAsync(Guid saveId, bool asThen = false, CancellationToken cancel = default)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        if (await OpenAsync(db, saveId, asThen, cancel) is not { } opened)
            return null;
        var (save, format, main) = (opened.Save, opened.Format, opened.Main);
        var reached = Reached(opened);
        var weights = new Dictionary<ProjectPath, long>();
        var added = opened.Leads[main.Path].Sum(l => Weight(l.To, [main.Path]));
        return new PackPlan(
            reached,
            [.. opened.Missing.Where(m => m.In == main.Path || reached.Any(r => r.Path == m.In)).Select(m => m.Written).Distinct()],
            save.Size,
            added
        );

        long Weight(ProjectPath path, IReadOnlyList<ProjectPath> around)
        {
            if (weights.TryGetValue(path, out var known))
                return known;
            var bytes = opened.Files[path].Size;
            if (format == FileFormat.Svg)
            {
                if (around.Count <= Deepest)
                    bytes += opened.Leads[path].Where(l => !around.Contains(l.To)).Sum(l => Weight(l.To, [.. around, path]));
                // RFC 4648, 4: four letters for three bytes, and again around what is inside of that.
                bytes = bytes * 4 / 3;
            }
            return weights[path] = bytes;
        }
    }

    /// <summary>Makes the packed file.</summary>
    /// <returns>Null where the save is no file that can be packed; a fault where it cannot be made.</returns>
    /// <exception cref="IOException">As for <see cref="Rewriting.MakeAsync"/>.</exception>
    public async Task<(MadeFile? File, string Name, FileFault? Fault)?> MakeAsync(
        Guid saveId,
        bool asThen = false,
        CancellationToken cancel = default
    )
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        if (await OpenAsync(db, saveId, asThen, cancel) is not { } opened)
            return null;
        var (save, format, main) = (opened.Save, opened.Format, opened.Main);
        var made = new Dictionary<ProjectPath, MadeFile>();
        try
        {
            var fault = await PackAsync(main, [], true);
            return (made.Remove(main.Path, out var file) ? file : null, NameOf(save, format), fault);
        }
        finally
        {
            foreach (var file in made.Values)
                file.Dispose();
        }

        async Task<FileFault?> PackAsync(GatheredFile file, IReadOnlyList<ProjectPath> around, bool isMain)
        {
            var leads = opened.Leads[file.Path].Where(l => !around.Contains(l.To) && l.To != file.Path).ToList();
            // What needs nothing goes in as it is.
            if (!isMain && (leads.Count == 0 || around.Count >= Deepest || made.ContainsKey(file.Path) || !await IsSvgAsync(file)))
                return null;
            var targets = leads.Select(l => l.To).Distinct().Select(p => opened.Files[p]).ToList();
            foreach (var target in targets)
            {
                if (await PackAsync(target, [.. around, file.Path], false) is { } inner)
                    return inner;
            }
            var (packed, fault) = await rewriting.MakeAsync(
                new ReaderJob
                {
                    Kind = ReaderJobKind.Pack,
                    Packed = [.. leads.Select(l => new PackedReference(l.Written, 1 + targets.FindIndex(t => t.Path == l.To), l.To.Name))],
                },
                () => [Open(file, isMain), .. targets.Select(t => Open(t, false))],
                cancel
            );
            if (packed is not null)
                made[file.Path] = packed;
            return fault;
        }

        Stream Open(GatheredFile file, bool isMain) =>
            !isMain && made.TryGetValue(file.Path, out var packed) ? File.OpenRead(packed.Path) : store.OpenRead(file.Hash);

        async Task<bool> IsSvgAsync(GatheredFile file) =>
            format == FileFormat.Svg && (await ContentReader.KnownAsync(db, file.Hash, cancel))?.Format == FileFormat.Svg;
    }

    /// <summary>Makes the packed file the newest loose save of its piece.</summary>
    /// <exception cref="IOException">As for <see cref="Rewriting.MakeAsync"/>.</exception>
    public async Task<Outcome<ReceivedSave>> SaveAsync(Actor actor, Guid saveId, CancellationToken cancel = default)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var piece = await db.Saves.Where(s => s.Id == saveId).Select(s => s.Piece).FirstOrDefaultAsync(cancel);
        if (piece is null)
            return new Refusal.NoSuchSave();
        // A glTF of text has a name that says so, and what is packed is no text.
        if (piece.Extension == ".gltf" || await MakeAsync(saveId, cancel: cancel) is not { File: { } made } packed)
            return new Refusal.NotPacked(piece.CurrentName);
        return await rewriting.ReceiveAsync(actor, new SaveTarget.OfPiece(piece.Id), made, packed.Name, cancel);
    }

    private sealed record Opened(Save Save, FileFormat Format, GatheredFile Main, IReadOnlyList<(ProjectPath In, string Written)> Missing)
    {
        public required IReadOnlyDictionary<ProjectPath, GatheredFile> Files { get; init; }

        public required ILookup<ProjectPath, (ProjectPath In, string Written, ProjectPath To)> Leads { get; init; }
    }

    private static async Task<Opened?> OpenAsync(StudioDb db, Guid saveId, bool asThen, CancellationToken cancel)
    {
        var save = await db
            .Saves.AsNoTracking()
            .Include(s => s.Files)
            .Include(s => s.Piece)
            .FirstOrDefaultAsync(s => s.Id == saveId, cancel);
        if (save is not { Files.Count: 1, Piece: not null })
            return null;
        if (await ContentReader.KnownAsync(db, save.MainHash, cancel) is not { Fault: null } facts || !IsPossible(facts.Format))
            return null;
        var gathered = await new GatherFiles(db).OfAsync(save, asThen, cancel);
        return gathered.Files.FirstOrDefault(f => f.Hash == save.MainHash && f.Path == gathered.Main) is { } main
            ? new Opened(save, facts.Format, main, gathered.Missing)
            {
                Files = gathered.Files.ToDictionary(f => f.Path),
                Leads = gathered.Leads.ToLookup(l => l.In),
            }
            : null;
    }

    // What the main file needs, and what that needs in turn.
    private static List<GatheredFile> Reached(Opened opened)
    {
        var reached = new HashSet<ProjectPath> { opened.Main.Path };
        var open = new Queue<ProjectPath>(reached);
        while (open.TryDequeue(out var at))
        {
            foreach (var lead in opened.Leads[at].Where(l => reached.Add(l.To)))
                open.Enqueue(lead.To);
        }
        return
        [
            .. opened
                .Files.Values.Where(f => f != opened.Main && reached.Contains(f.Path))
                .OrderBy(f => f.Path.Text, StringComparer.Ordinal),
        ];
    }
}
