using Chronotype.Content;
using Chronotype.Core.Outputs;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Storage.Starting;
using Chronotype.Studio;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Jobs;
using Chronotype.Studio.Outputs;
using Chronotype.Studio.People;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Projects;
using Chronotype.Studio.Saves;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Chronotype.Demo;

/// <summary>
/// Makes a studio that never was: three people, a seaside museum and its exhibition about tides. Everything goes the way
/// that real work goes, through the same deeds; only the clock is set.
/// </summary>
public sealed partial class DemoStudio(DataFolder data, DateTimeOffset now)
{
    private readonly DemoTime time = new(now);
    private readonly Dictionary<string, Guid> people = [];
    private ServiceProvider services = null!;

    /// <exception cref="InvalidOperationException">The folder holds a studio already.</exception>
    public async Task MakeAsync()
    {
        var collection = new ServiceCollection().AddLogging().AddSingleton<TimeProvider>(time);
        collection.AddStudio(data);
        await using (services = collection.BuildServiceProvider())
        {
            await In(s => s.GetRequiredService<StudioStart>().RunAsync());
            await services.GetRequiredService<JobRunner>().StartAsync(default);
            await MakePeopleAsync();
            var tides = await ProjectAsync("TIDES", "Moonpull, an exhibition about tides", "print", Days(-12, 9, 0));
            await RecipeAsync(
                "IK",
                null,
                new Recipe("mail", "For mails, 1200 px")
                {
                    Picture = new(PictureFile.Jpeg)
                    {
                        Size = new(1200, 1200, "px"),
                        Colour = PictureColour.Srgb,
                        Quality = 82,
                        Sharpen = 0.5,
                    },
                }
            );
            await RecipeAsync(
                "OB",
                tides,
                new Recipe("harrow-a2", "A2 for Harrow & Lane")
                {
                    Picture = new(PictureFile.Pdf)
                    {
                        Size = new(420, 594, "mm", 300),
                        Fit = PictureFit.Fill,
                        Bleed = 3,
                        Marks = true,
                        Background = "#ffffff",
                        Colour = PictureColour.Srgb,
                    },
                }
            );
            await MakeOriginalsAsync(tides);
            await MakeIconsAsync(tides);
            await MakeTextsAsync(tides);
            await MakePosterAsync(tides);
            await MakeTicketAsync(tides);
            await MakeBannerAsync(tides);
            await MakeLeafletAsync(tides);
            time.Set(Days(-1, 16, 20));
            await PieceAsync(tides, "OB", "Floor map", "layout");
            var guide = await ProjectAsync("TIDE-GUIDE", "Moonpull, the audio guide", "audio", Days(-6, 10, 0));
            await MakeGuideAsync(guide);
            var film = await ProjectAsync("TIDE-FILM", "Moonpull, a film for the foyer", "animation", Days(-4, 9, 0));
            await MakeFilmAssetsAsync(film);
            await MakeFilmAsync(film);
            await services.GetRequiredService<JobRunner>().IdleAsync();
            await services.GetRequiredService<JobRunner>().StopAsync(default);
        }
    }

    private async Task MakePeopleAsync()
    {
        time.Set(Days(-30, 9, 0));
        foreach (var (name, initials) in new[] { ("Ilse Korhonen", "IK"), ("Odo Barreau", "OB"), ("Tamsin Vale", "TV") })
        {
            // Nobody signs in by these passwords: the demo's sign-in page asks for none.
            var person = new NewPerson(name, initials, Guid.NewGuid().ToString());
            var outcome =
                initials == "IK"
                    ? await In(s => s.GetRequiredService<FoundStudio>().DoAsync("Studio Spring Tide", person, isDemo: true))
                    : await In(s => s.GetRequiredService<AddPerson>().DoAsync(By("IK"), person));
            people[initials] = outcome.Expect().Id;
        }
    }

    private async Task<Project> ProjectAsync(string code, string title, string plan, DateTimeOffset when)
    {
        time.Set(when);
        return (
            await In(s =>
                s.GetRequiredService<StartProject>()
                    .DoAsync(By("IK"), new NewProject(code, title, "Tide Museum at Merrow Bay", "TIM", plan))
            )
        ).Expect();
    }

    private async Task<Guid> PieceAsync(Project project, string hand, string subject, string function) =>
        (
            await In(s =>
                s.GetRequiredService<StartPiece>()
                    .DoAsync(By(hand), project.Id, new Dictionary<string, string> { ["subject"] = subject, ["function"] = function })
            )
        )
            .Expect()
            .Id;

    private Task<Guid> SaveAsync(Guid piece, string hand, string name, byte[] content) =>
        In(async s =>
        {
            var received = await s.GetRequiredService<ReceiveSave>()
                .DoAsync(By(hand), new SaveTarget.OfPiece(piece), new ArrivingContent(name, new MemoryStream(content)));
            await services.GetRequiredService<JobRunner>().IdleAsync();
            return received.Expect().Save.Id;
        });

    private async Task KeepAsync(Guid piece, string hand, string name, byte[] content, string? note)
    {
        var save = await SaveAsync(piece, hand, name, content);
        var result = (await In(s => s.GetRequiredService<KeepSave>().DoAsync(By(hand), piece, save, note))).Expect();
        // What a piece begins with is kept by itself, and its note is written afterwards.
        if (result is KeepResult.Already)
            (await In(s => s.GetRequiredService<WriteNote>().DoAsync(By(hand), piece, save, note))).Expect();
        else if (result is not KeepResult.Kept)
            throw new InvalidOperationException($"The demo's {name} was not kept: {result}");
    }

    /// <summary>An output of the newest version.</summary>
    private async Task MakeAsync(Guid piece, string hand, string recipe)
    {
        var version = await In(s =>
            s.GetRequiredService<StudioDb>()
                .Saves.Where(v => v.PieceId == piece && v.Number != null)
                .OrderByDescending(v => v.Number)
                .Select(v => v.Id)
                .FirstAsync()
        );
        (await In(s => s.GetRequiredService<MakeOutputs>().AskAsync(By(hand), piece, version, recipe))).Expect();
        await services.GetRequiredService<JobRunner>().IdleAsync();
    }

    // The newest output of a piece, byte for byte.
    private async Task<byte[]> OutputAsync(Guid piece)
    {
        var hash = await In(s =>
            s.GetRequiredService<StudioDb>()
                .Outputs.Where(o => o.PieceId == piece)
                .OrderByDescending(o => o.At)
                .Select(o => o.Hash)
                .FirstAsync()
        );
        await using var content = services.GetRequiredService<IContentStore>().OpenRead(hash);
        using var bytes = new MemoryStream();
        await content.CopyToAsync(bytes);
        return bytes.ToArray();
    }

    private async Task MasterAsync(Guid piece, string hand)
    {
        await services.GetRequiredService<JobRunner>().IdleAsync();
        var number = await In(s =>
            s.GetRequiredService<StudioDb>().Saves.Where(v => v.PieceId == piece && v.Number != null).MaxAsync(v => v.Number!.Value)
        );
        (await In(s => s.GetRequiredService<MarkMaster>().DoAsync(By(hand), piece, new VersionNumber(number)))).Expect();
    }

    private async Task RecipeAsync(string hand, Project? project, Recipe recipe) =>
        (await In(s => s.GetRequiredService<RecipeBook>().SetAsync(By(hand), project?.Id, recipe))).Expect();

    private async Task MarkAsync(Guid piece, string hand, string reason) =>
        (await In(s => s.GetRequiredService<MarkMilestone>().DoAsync(By(hand), piece, null, reason))).Expect();

    private Actor By(string hand) => Actor.Person(people[hand]);

    // Days count in the studio's own time zone, so that an hour of work is an hour of its day.
    private DateTimeOffset Days(int days, int hour, int minute)
    {
        var local = TimeZoneInfo.ConvertTime(now, TimeZoneInfo.Local).Date.AddDays(days).AddHours(hour).AddMinutes(minute);
        return new DateTimeOffset(local, TimeZoneInfo.Local.GetUtcOffset(local)).ToUniversalTime();
    }

    private async Task<T> In<T>(Func<IServiceProvider, Task<T>> work)
    {
        await using var scope = services.CreateAsyncScope();
        scope.ServiceProvider.GetRequiredService<Chronotype.Studio.People.Viewer>().IsStudio();
        return await work(scope.ServiceProvider);
    }

    private Task In(Func<IServiceProvider, Task> work) =>
        In(async s =>
        {
            await work(s);
            return true;
        });
}
