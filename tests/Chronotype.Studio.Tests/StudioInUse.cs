using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Records;
using Chronotype.Storage.Starting;
using Chronotype.Studio.Background;
using Chronotype.Studio.People;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Projects;
using Chronotype.Studio.Saves;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Time.Testing;

namespace Chronotype.Studio.Tests;

/// <summary>A studio on a real database and a real disk, with a project and two people in it. Only its clock is set.</summary>
public sealed class StudioInUse : IAsyncDisposable
{
    private readonly StudioFolder folder = new();
    private readonly ServiceProvider services;

    private StudioInUse()
    {
        var collection = new ServiceCollection().AddLogging().AddSingleton<TimeProvider>(Time);
        collection.AddStudio(new Storage.DataFolder(folder.Path));
        services = collection.BuildServiceProvider(new ServiceProviderOptions { ValidateScopes = true, ValidateOnBuild = true });
    }

    public FakeTimeProvider Time { get; } = new(new DateTimeOffset(2026, 3, 2, 9, 0, 0, TimeSpan.Zero));
    public Guid Ilse { get; private set; }
    public Guid Odo { get; private set; }
    public Project Project { get; private set; } = null!;

    public static async Task<StudioInUse> OpenAsync(int firstNumber = 1)
    {
        var studio = new StudioInUse();
        await studio.Do<StudioStart>(start => start.RunAsync());
        studio.Ilse = (await studio.Do((FoundStudio d) => d.DoAsync("Spring Tide", new NewPerson("Ilse Korhonen", "IK", "ten letters and more")))).Expect().Id;
        studio.Odo = (await studio.Do((AddPerson d) => d.DoAsync(new NewPerson("Odo Barreau", "OB", "ten letters and more")))).Expect().Id;
        studio.Project = (await studio.Do((StartProject d) => d.DoAsync(new NewProject("TIDES", "Tides", "Museum", "TIM", "print", firstNumber), studio.Ilse))).Expect();
        return studio;
    }

    public async Task<TResult> Do<TDeed, TResult>(Func<TDeed, Task<TResult>> work) where TDeed : notnull
    {
        await using var scope = services.CreateAsyncScope();
        return await work(scope.ServiceProvider.GetRequiredService<TDeed>());
    }

    public Task Do<TDeed>(Func<TDeed, Task> work) where TDeed : notnull => Do<TDeed, bool>(async d =>
    {
        await work(d);
        return true;
    });

    /// <summary>Where its data lies.</summary>
    public string DataFolder => folder.Path;

    public async Task<Piece> PieceAsync(string subject = "Moonpull poster", Project? project = null) =>
        (await Do((StartPiece d) => d.DoAsync((project ?? Project).Id, Ilse, Called(subject, "key")))).Expect();

    /// <summary>Another project beside the one that is there.</summary>
    public async Task<Project> ProjectAsync(string code) =>
        (await Do((StartProject d) => d.DoAsync(new NewProject("Gulls", code, "Museum", "TIM", "print", 1), Ilse))).Expect();

    /// <summary>What a piece is called by under the convention that studios begin with.</summary>
    public static Dictionary<string, string> Called(string subject, string function) => new() { ["subject"] = subject, ["function"] = function };

    public Task<TakenSave> TakeAsync(Piece piece, byte[] content, string name = "poster.ora", Guid? by = null) =>
        Do((TakeSave d) => d.DoAsync(piece.Id, by ?? Ilse, name, new MemoryStream(content)));

    public Task<KeepResult> KeepAsync(Piece piece, Guid? save = null, bool insist = false, Guid? by = null, string? note = null) =>
        Do((KeepSave d) => d.DoAsync(piece.Id, save, by ?? Ilse, note, insist));

    /// <summary>Takes and keeps, where nothing should speak against it.</summary>
    public async Task<KeepResult.Kept> VersionAsync(Piece piece, byte[] content, string name = "poster.ora")
    {
        var taken = await TakeAsync(piece, content, name);
        return Assert.IsType<KeepResult.Kept>(await KeepAsync(piece, taken.Save.Id));
    }

    /// <summary>What the background worker does with a save.</summary>
    public async Task WorkAsync(Guid save)
    {
        await using var scope = services.CreateAsyncScope();
        await SaveWorker.WorkAsync(scope.ServiceProvider, save, default);
    }

    public Task<List<Save>> SavesAsync(Piece piece) => Do((StudioDb db) =>
        db.Saves.AsNoTracking().Include(s => s.Files).Include(s => s.Milestone).Where(s => s.PieceId == piece.Id).OrderBy(s => s.Sequence).ToListAsync());

    public async ValueTask DisposeAsync()
    {
        await services.DisposeAsync();
        folder.Dispose();
    }
}
