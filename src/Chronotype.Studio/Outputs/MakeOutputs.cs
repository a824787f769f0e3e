using System.Globalization;
using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Outputs;
using Chronotype.Core.Readers;
using Chronotype.Core.Structure;
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

namespace Chronotype.Studio.Outputs;

/// <summary>What came of asking for an output.</summary>
/// <param name="Already">The one that the same recipe made of the same content before; null where one is being made.</param>
public sealed record AskedOutput(Recipe Recipe, Output? Already);

/// <summary>What came of asking for several.</summary>
/// <param name="Making">So many are being made.</param>
/// <param name="Already">So many were there.</param>
public sealed record AskedOutputs(int Making, int Already);

/// <summary>
/// Makes outputs: copies for use, from kept versions by recipes, in the queue. The same recipe on the same content makes one file.
/// </summary>
public sealed class MakeOutputs(
    DeedRunner deeds,
    Rewriting rewriting,
    FileReader reader,
    ContentReader contentReader,
    IDbContextFactory<StudioDb> contexts,
    IContentStore store,
    PackFile packFile,
    StudioClock clock
) : IJobWork
{
    /// <summary>So many are asked for at once at most.</summary>
    public const int MostAtOnce = 1_000;

    private const int MostTypefaces = 64;
    private const long MostOfATypeface = 32 << 20;

    // What a slow processor core goes over in a second.
    private const long PixelsPerSecond = 4_000_000;
    private const double SoundPerSecond = 10;

    /// <summary>What a job makes: of which version, by which recipe, and of which layers alone where some were chosen.</summary>
    public static string SubjectOf(Guid saveId, string recipeKey, IReadOnlyList<string> layers) =>
        string.Join('/', layers.Select(Uri.EscapeDataString).Prepend(recipeKey).Prepend(saveId.ToString()));

    /// <summary>Asks for an output.</summary>
    /// <param name="layers">Of which layers alone, by name; none for what the recipe says.</param>
    public Task<Outcome<AskedOutput>> AskAsync(
        Actor actor,
        Guid pieceId,
        Guid saveId,
        string recipeKey,
        IReadOnlyList<string>? layers = null,
        CancellationToken cancel = default
    ) => deeds.DoAsync(actor, Right.Work, deed => AskAsync(deed, pieceId, saveId, recipeKey, layers ?? [], cancel), cancel);

    /// <summary>Asks for outputs of several versions by several recipes; what a recipe makes nothing of is passed over.</summary>
    /// <returns>Refused where nothing of all can be made.</returns>
    public Task<Outcome<AskedOutputs>> AskAsync(
        Actor actor,
        IReadOnlyList<(Guid Piece, Guid Save, string Recipe)> asked,
        CancellationToken cancel = default
    ) => AskAsync(actor, [.. asked.Distinct().Select(a => (a.Piece, a.Save, a.Recipe, (IReadOnlyList<string>)[]))], cancel);

    private Task<Outcome<AskedOutputs>> AskAsync(
        Actor actor,
        IReadOnlyList<(Guid Piece, Guid Save, string Recipe, IReadOnlyList<string> Layers)> asked,
        CancellationToken cancel
    ) =>
        deeds.DoAsync<AskedOutputs>(
            actor,
            Right.Work,
            async deed =>
            {
                var (making, already, last) = (0, 0, (Refusal?)null);
                foreach (var (piece, save, recipe, layers) in asked.Take(MostAtOnce))
                {
                    var outcome = await AskAsync(deed, piece, save, recipe, layers, cancel);
                    if (!outcome.Done)
                        last = outcome.Refusal;
                    else if (outcome.Result.Already is null)
                        making++;
                    else
                        already++;
                }
                return making + already > 0 ? new AskedOutputs(making, already)
                    : last is null ? new Refusal.NothingStale()
                    : last;
            },
            cancel
        );

    /// <summary>Asks for all outputs that are not of the newest version of their line, from that.</summary>
    /// <param name="pieceId">Of one piece; null for all of the project.</param>
    public async Task<Outcome<AskedOutputs>> AskAnewAsync(Actor actor, Guid projectId, Guid? pieceId, CancellationToken cancel = default)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var stale = await PieceOutputs.StaleAsync(db, projectId, pieceId, cancel);
        return await AskAsync(
            actor,
            [
                .. stale
                    .Where(s => s.Output.Record.RecipeKey.Length > 0)
                    .Select(s => (s.Output.Record.PieceId, s.Newest, s.Output.Record.RecipeKey, s.Output.Layers)),
            ],
            cancel
        );
    }

    private static async Task<Outcome<AskedOutput>> AskAsync(
        Deed deed,
        Guid pieceId,
        Guid saveId,
        string recipeKey,
        IReadOnlyList<string> layers,
        CancellationToken cancel
    )
    {
        var db = deed.Db;
        var save = await db.Saves.Include(s => s.Piece).FirstOrDefaultAsync(s => s.Id == saveId && s.PieceId == pieceId, cancel);
        if (save is null)
            return new Refusal.NoSuchSave();
        if (save.Number is null)
            return new Refusal.OnlyFromVersions();
        if (await FindAsync(db, save.Piece.ProjectId, recipeKey, layers, cancel) is not { } recipe)
            return new Refusal.NoSuchRecipe(recipeKey);
        if (await MadeAsync(db, save, recipe, cancel) is { } made)
            return new AskedOutput(recipe, made);
        if (await ContentReader.KnownAsync(db, save.MainHash, cancel) is not { Fault: null } facts || GivenUp.Of(facts, recipe) is null)
            return new Refusal.NotForThis(recipe.Name);
        if (await FolderAsync(db, save.Piece.ProjectId, recipe, cancel) is null)
            return new Refusal.NoFolderForOutputs();
        await deed.QueueAsync(JobRequest.Make(SubjectOf(save.Id, recipe.Key, layers), pieceId), cancel);
        return new AskedOutput(recipe, null);
    }

    /// <summary>What an output from a version will be called.</summary>
    /// <param name="piece">With its project and its client.</param>
    /// <param name="save">A kept version.</param>
    /// <param name="hand">The initials of who kept it.</param>
    /// <param name="facts">Of its main file.</param>
    public FormattedName NameOf(Piece piece, Save save, string hand, FileFacts facts, Recipe recipe) =>
        PieceNames
            .Of(piece)
            .Output(
                SizeOf(recipe, FrameOf(facts, recipe)),
                new VersionNumber(save.Number!.Value),
                hand,
                clock.DayOf(save.KeptAt!.Value),
                recipe.ExtensionFor(facts)
            );

    /// <summary>A recipe as it is followed for some layers alone.</summary>
    /// <param name="layers">None for what the recipe says.</param>
    /// <returns>Null where there is none, or it makes nothing of layers.</returns>
    public static async Task<Recipe?> FindAsync(
        StudioDb db,
        Guid projectId,
        string key,
        IReadOnlyList<string> layers,
        CancellationToken cancel = default
    )
    {
        var recipe = await RecipeBook.FindAsync(db, projectId, key, cancel);
        if (recipe is null || layers.Count == 0)
            return recipe;
        recipe = recipe with { Layers = layers };
        return RecipeRules.Check(recipe).Count == 0 ? recipe : null;
    }

    /// <summary>What a recipe needs beside the content: its colour profile; of texts that become outlines, the project's files of typefaces.</summary>
    public static async Task<IReadOnlyList<ContentHash>> NeededAsync(
        StudioDb db,
        Guid projectId,
        Recipe recipe,
        CancellationToken cancel = default
    )
    {
        if (recipe.Picture?.Profile is { } profile)
            return [profile.Hash];
        if (recipe.Drawing is not { OutlinesTexts: true })
            return [];
        return
        [
            .. (
                await new ProjectTree(db, projectId)
                    .Entries.Where(e => e.Kind == EntryKind.OwnFile)
                    .Where(e => e.PathKey.EndsWith(".ttf") || e.PathKey.EndsWith(".otf") || e.PathKey.EndsWith(".ttc"))
                    .OrderBy(e => e.PathKey)
                    .Take(MostTypefaces)
                    .Select(e => e.Contents.OrderByDescending(c => c.Sequence).First())
                    .Where(c => c.Size <= MostOfATypeface)
                    .Select(c => c.Hash)
                    .ToListAsync(cancel)
            ).Distinct(),
        ];
    }

    /// <summary>The folder that an output comes to; null where the project has none for outputs.</summary>
    public static async Task<ProjectPath?> FolderAsync(StudioDb db, Guid projectId, Recipe recipe, CancellationToken cancel = default)
    {
        var folders = await new ProjectTree(db, projectId)
            .Entries.Where(e => e.Kind == EntryKind.Folder && e.Role == FolderRole.Outputs)
            .OrderBy(e => e.Order)
            .ThenBy(e => e.PathKey)
            .Select(e => e.Path)
            .ToListAsync(cancel);
        // A plan says by a folder's name what goes where.
        var likely = recipe.Picture?.Size is { } size ? (size.Unit == "px" ? "screen" : "print") : null;
        return folders.Find(f => f.Name.Equals(likely, StringComparison.OrdinalIgnoreCase)) ?? folders.FirstOrDefault();
    }

    async Task<string?> IJobWork.DoAsync(Job job, IProgress<(long Done, long Total)> progress, CancellationToken cancel)
    {
        var asked = job.Subject.Split('/');
        var (id, key, layers) = (Guid.Parse(asked[0]), asked[1], asked[2..].Select(Uri.UnescapeDataString).ToList());
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var save = await db.Saves.AsNoTracking().FirstOrDefaultAsync(s => s.Id == id, cancel);
        if (save is not { Number: not null })
            return null;
        var piece = await db.Pieces.AsNoTracking().FirstAsync(p => p.Id == save.PieceId, cancel);
        if (await FindAsync(db, piece.ProjectId, key, layers, cancel) is not { } recipe)
            return RecordJson.Write(new FileFault(FileFaultCode.RecipeGone, key));
        // Somebody may have made it meanwhile.
        if (
            await MadeAsync(db, save, recipe, cancel) is not null
            || await contentReader.ReadAsync(save.MainHash, cancel) is not { Fault: null } facts
        )
            return null;
        IReadOnlyList<ContentHash> contents = [save.MainHash, .. await NeededAsync(db, piece.ProjectId, recipe, cancel)];
        var (made, fault) = recipe.IsPacked
            ? await PackAsync(db, save, facts, cancel)
            : await rewriting.MakeAsync(
                new ReaderJob
                {
                    Kind = ReaderJobKind.Make,
                    Recipe = recipe,
                    From = new MadeFrom(
                        save.ExactName!,
                        await db.Studio.Select(s => s.Name).SingleOrDefaultAsync(cancel) ?? "",
                        clock.At(save.KeptAt!.Value)
                    ),
                    Passes = recipe.Sound?.Loudness is null ? 1 : 2,
                    ProcessorSeconds = Seconds(facts, recipe),
                },
                () => reader.Open(contents),
                cancel,
                progress
            );
        if (made is null)
            return RecordJson.Write(fault);
        using (made)
        {
            await using var bytes = File.OpenRead(made.Path);
            using var staged = await store.StageAsync(bytes, cancel);
            await store.CommitAsync([staged], cancel);
            var by = job.AskedById ?? save.KeptById ?? save.ArrivedById;
            (
                await deeds.DoAsync(
                    Actor.StudioFor(by),
                    Right.Work,
                    deed =>
                        RecordAsync(
                            deed,
                            id,
                            recipe,
                            facts,
                            made.Answer.Made?.Frame,
                            (staged.Hash, staged.Size),
                            by,
                            CancellationToken.None
                        ),
                    CancellationToken.None
                )
            ).OrFail();
        }
        return null;
    }

    private async Task<(MadeFile? File, FileFault? Fault)> PackAsync(StudioDb db, Save save, FileFacts facts, CancellationToken cancel)
    {
        if (facts.Timeline is not null)
            return await new PackTimeline(db, rewriting, store).MakeAsync(save.Id, cancel);
        var packed = await packFile.MakeAsync(save.Id, asThen: true, cancel);
        return packed is { } done ? (done.File, done.Fault) : (null, new FileFault(FileFaultCode.NotUnderstood));
    }

    private async Task<Outcome<Output>> RecordAsync(
        Deed deed,
        Guid saveId,
        Recipe recipe,
        FileFacts facts,
        PictureFrame? frame,
        (ContentHash Hash, long Size) held,
        Guid by,
        CancellationToken cancel
    )
    {
        var db = deed.Db;
        var save = await db
            .Saves.Include(s => s.Line)
            .Include(s => s.Piece)
                .ThenInclude(p => p.Project)
                    .ThenInclude(p => p.Client)
            .FirstOrDefaultAsync(s => s.Id == saveId, cancel);
        if (save is not { Number: { } number, KeptAt: { } kept })
            return new Refusal.NoSuchSave();
        if (await MadeAsync(db, save, recipe, cancel) is { } already)
            return already;
        var project = save.Piece.ProjectId;
        if (await FolderAsync(db, project, recipe, cancel) is not { } folder)
            return new Refusal.NoFolderForOutputs();
        var hand = await db.Users.Where(u => u.Id == save.KeptById).Select(u => u.Initials).FirstOrDefaultAsync(cancel) ?? "";
        var size = SizeOf(recipe, frame);
        var name = PieceNames
            .Of(save.Piece)
            .On(save.Line.Name)
            .Output(size, new VersionNumber(number), hand, clock.DayOf(kept), recipe.ExtensionFor(facts));
        var placed = await TendFiles.RecordAsync(deed, project, folder, name.ToString(), held, null, cancel);
        if (placed.Result is not { } file)
            return placed.Refusal!;
        var output = new Output
        {
            EntryId = file.Entry.Id,
            PieceId = save.PieceId,
            SaveId = save.Id,
            Source = save.MainHash,
            RecipeKey = recipe.Key,
            Recipe = RecipeFile.Write(recipe),
            Hash = held.Hash,
            At = deed.Now,
            ById = by,
        };
        // Two versions may make one and the same: the file stands there once, and is of both.
        db.Outputs.Add(output);
        return output;
    }

    /// <summary>How an output is told from others by its name: its size, or its recipe; and the layers where it is of some alone.</summary>
    /// <param name="frame">Of a picture.</param>
    public static string SizeOf(Recipe recipe, PictureFrame? frame)
    {
        if (recipe.Layers.Count > 0)
        {
            var (name, rest) = (Recipe.KeyOf(recipe.Layers[0]), recipe.Layers.Count > 1 ? $"-and-{recipe.Layers.Count - 1}" : "");
            return $"{SizeOf(recipe with { Layers = [] }, frame)}-{(name.Length > 0 ? name : "part")}{rest}";
        }
        if (recipe.Picture is not { } picture || frame is null)
            return recipe.Key;
        if (picture.Size is not { Unit: not "px" } size || picture.Fit == PictureFit.Inside)
            return FormattableString.Invariant($"{frame.Width}x{frame.Height}px");
        var (width, height) = frame.IsTurned ? (size.Height, size.Width) : (size.Width, size.Height);
        return string.Create(CultureInfo.InvariantCulture, $"{width}x{height}{size.Unit}");
    }

    /// <summary>Where a picture will come to lie; null for a sound.</summary>
    public static PictureFrame? FrameOf(FileFacts facts, Recipe recipe) =>
        recipe.Picture is { } picture && PictureFrame.Seen(facts) is { } seen
            ? PictureFrame.Of(seen.Width, seen.Height, seen.Resolution, picture)
            : null;

    private static async Task<Output?> MadeAsync(StudioDb db, Save save, Recipe recipe, CancellationToken cancel)
    {
        var written = RecipeFile.Write(recipe);
        return await db.Outputs.FirstOrDefaultAsync(
            o =>
                o.Source == save.MainHash
                // What is packed has in it what this version saw.
                && (!recipe.IsPacked || o.SaveId == save.Id)
                && o.PieceId == save.PieceId
                && o.Recipe == written
                && db.Entries.Any(e => e.Id == o.EntryId && e.DeletedAt == null),
            cancel
        );
    }

    private static int Seconds(FileFacts facts, Recipe recipe)
    {
        if (recipe.Picture is null)
            return (int)Math.Min(3600, 20 + (facts.Sound?.Duration.TotalSeconds ?? 0) / SoundPerSecond);
        var frame = FrameOf(facts, recipe);
        var pixels = (facts.Picture?.Width ?? 0) * (long)(facts.Picture?.Height ?? 0) + (frame?.Width ?? 0) * (long)(frame?.Height ?? 0);
        return (int)Math.Min(3600, 20 + pixels / PixelsPerSecond);
    }
}
