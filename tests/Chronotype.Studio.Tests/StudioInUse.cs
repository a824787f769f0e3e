using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Storage.Starting;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Jobs;
using Chronotype.Studio.People;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Projects;
using Chronotype.Studio.Readers;
using Chronotype.Studio.Saves;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Time.Testing;

namespace Chronotype.Studio.Tests;

/// <summary>A studio on a real database and a real disk, with a project and two people in it. Only its clock is set.</summary>
public sealed class StudioInUse : IAsyncDisposable
{
    private readonly StudioFolder folder;
    private readonly ServiceProvider services;
    private JobRunner? again;

    private StudioInUse(StudioFolder folder, Action<IServiceCollection>? otherwise)
    {
        this.folder = folder;
        var collection = new ServiceCollection().AddLogging().AddSingleton<TimeProvider>(Time);
        collection.AddStudio(new Storage.DataFolder(folder.Path));
        NewStudio.HashPasswordsQuickly(collection);
        otherwise?.Invoke(collection);
        services = collection.BuildServiceProvider(new ServiceProviderOptions { ValidateScopes = true, ValidateOnBuild = true });
    }

    public FakeTimeProvider Time { get; } = new(new DateTimeOffset(2026, 3, 2, 9, 0, 0, TimeSpan.Zero));
    public Actor Ilse { get; private set; }
    public Actor Odo { get; private set; }
    public Project Project { get; private set; } = null!;

    /// <param name="otherwise">Puts something else in the place of a part.</param>
    public static async Task<StudioInUse> OpenAsync(int firstNumber = 1, Action<IServiceCollection>? otherwise = null)
    {
        var studio = new StudioInUse(await NewStudio.FolderAsync(), otherwise);
        await studio.Do<StudioStart>(start => start.RunAsync());
        await studio.Runner.StartAsync(default);
        studio.Ilse = Actor.Person(
            (await studio.Do((FoundStudio d) => d.DoAsync("Spring Tide", new NewPerson("Ilse Korhonen", "IK", "ten letters and more"))))
                .Expect()
                .Id
        );
        studio.Odo = Actor.Person(
            (await studio.Do((AddPerson d) => d.DoAsync(studio.Ilse, new NewPerson("Odo Barreau", "OB", "ten letters and more"))))
                .Expect()
                .Id
        );
        studio.Project = (
            await studio.Do(
                (StartProject d) => d.DoAsync(studio.Ilse, new NewProject("TIDES", "Tides", "Museum", "TIM", "print", firstNumber))
            )
        ).Expect();
        return studio;
    }

    public async Task<TResult> Do<TDeed, TResult>(Func<TDeed, Task<TResult>> work)
        where TDeed : notnull
    {
        await using var scope = services.CreateAsyncScope();
        scope.ServiceProvider.GetRequiredService<Chronotype.Studio.People.Viewer>().IsStudio();
        return await work(scope.ServiceProvider.GetRequiredService<TDeed>());
    }

    public Task Do<TDeed>(Func<TDeed, Task> work)
        where TDeed : notnull =>
        Do<TDeed, bool>(async d =>
        {
            await work(d);
            return true;
        });

    /// <summary>Where its data lies.</summary>
    public string DataFolder => folder.Path;

    public async Task<Piece> PieceAsync(string subject = "Moonpull poster", Project? project = null) =>
        (await Do((StartPiece d) => d.DoAsync(Ilse, (project ?? Project).Id, Called(subject, "key")))).Expect();

    /// <summary>Another project beside the one that is there.</summary>
    public async Task<Project> ProjectAsync(string code) =>
        (await Do((StartProject d) => d.DoAsync(Ilse, new NewProject("Gulls", code, "Museum", "TIM", "print", 1)))).Expect();

    /// <summary>What a piece is called by under the convention that studios begin with.</summary>
    public static Dictionary<string, string> Called(string subject, string function) =>
        new() { ["subject"] = subject, ["function"] = function };

    public async Task<ReceivedSave> TakeAsync(Piece piece, byte[] content, string name = "poster.ora", Actor? by = null) =>
        (
            await Do(
                (ReceiveSave d) =>
                    d.DoAsync(by ?? Ilse, new SaveTarget.OfPiece(piece.Id), new ArrivingContent(name, new MemoryStream(content)))
            )
        ).Expect();

    /// <summary>Keeps a save, and waits for its number or what speaks against it also on a machine that reads it later than a person would
    /// wait.</summary>
    public async Task<KeepResult> KeepAsync(Piece piece, Guid? save = null, bool insist = false, Actor? by = null, string? note = null)
    {
        async Task<KeepResult> OnceAsync() => (await Do((KeepSave d) => d.DoAsync(by ?? Ilse, piece.Id, save, note, insist))).Expect();
        var result = await OnceAsync();
        if (result is not KeepResult.Pending pending)
            return result;
        await SettledAsync();
        result = await OnceAsync();
        if (result is not KeepResult.Already)
            return result;
        return Kept((await SavesAsync(piece)).Single(s => s.Id == pending.SaveId));
    }

    /// <summary>Takes and keeps, where nothing should speak against it. What a piece begins with is kept by itself.</summary>
    public async Task<KeepResult.Kept> VersionAsync(Piece piece, byte[] content, string name = "poster.ora", bool insist = false)
    {
        var taken = await TakeAsync(piece, content, name);
        if (taken.Keep is KeepResult.Kept atOnce)
            return atOnce;
        if (taken.Keep is KeepResult.Pending)
            await SettledAsync();
        return await KeepAsync(piece, taken.Save.Id, insist) switch
        {
            KeepResult.Already => Kept((await SavesAsync(piece)).Single(s => s.Id == taken.Save.Id)),
            var result => Assert.IsType<KeepResult.Kept>(result),
        };
    }

    private static KeepResult.Kept Kept(Save save) => new(save.Id, new VersionNumber(save.Number!.Value), save.ExactName!, null, null);

    /// <summary>A piece that has a first version already, so that what comes next is loose.</summary>
    public async Task<Piece> BegunAsync(string subject = "Moonpull poster")
    {
        var piece = await PieceAsync(subject);
        await VersionAsync(
            piece,
            Samples.OpenRaster(30, 20, new Samples.OraLayer("Beginning", 30, 20), new Samples.OraLayer("More", 3, 2))
        );
        return piece;
    }

    /// <summary>The paths of what stands in the tree of the project.</summary>
    public Task<List<string>> PathsAsync(EntryKind kind) =>
        Do(
            async (StudioDb db) =>
                (
                    await db
                        .Entries.Where(e => e.ProjectId == Project.Id && e.Kind == kind && e.DeletedAt == null)
                        .OrderBy(e => e.PathKey)
                        .Select(e => e.Path)
                        .ToListAsync()
                ).ConvertAll(p => p.Text)
        );

    /// <summary>Stores a content that no record names.</summary>
    public Task<ContentHash> StoreAsync(byte[] content) =>
        Do(
            async (IContentStore store) =>
            {
                using var staged = await store.StageAsync(new MemoryStream(content));
                await store.CommitAsync(staged);
                return staged.Hash;
            }
        );

    /// <summary>Spoils a few bytes on disk.</summary>
    /// <param name="at">Bytes from the beginning of the only segment.</param>
    public void Damage(long at)
    {
        var segment = Directory.GetFiles(Path.Combine(DataFolder, "content", "segments")).Single();
        using var file = new FileStream(segment, FileMode.Open, FileAccess.ReadWrite, FileShare.ReadWrite);
        file.Position = at;
        file.Write([1, 2, 3, 4, 5]);
    }

    /// <summary>The jobs that are there: waiting, failed, or done with something to tell.</summary>
    public Task<List<Job>> JobsAsync() => Do((StudioDb db) => db.Jobs.AsNoTracking().OrderBy(j => j.Id).ToListAsync());

    public JobRunner Runner => services.GetRequiredService<JobRunner>();

    /// <summary>Runs the jobs again after they were stopped, as the next start of the program does.</summary>
    public async Task RunAgainAsync()
    {
        again = ActivatorUtilities.CreateInstance<JobRunner>(services);
        await again.StartAsync(default);
    }

    /// <summary>Waits until all that follows what was done is done too.</summary>
    public Task SettledAsync() => (again ?? Runner).IdleAsync();

    public async Task<FileFacts?> FactsAsync(Save save) => await Do((StudioDb db) => ContentReader.KnownAsync(db, save.MainHash));

    public Task<List<Save>> SavesAsync(Piece piece) =>
        Do(
            (StudioDb db) =>
                db
                    .Saves.AsNoTracking()
                    .Include(s => s.Files)
                    .Include(s => s.Milestone)
                    .Where(s => s.PieceId == piece.Id)
                    .OrderBy(s => s.Sequence)
                    .ToListAsync()
        );

    public async ValueTask DisposeAsync()
    {
        await (again ?? Runner).StopAsync(default);
        await services.DisposeAsync();
        folder.Dispose();
    }
}
