using System.IO.Compression;
using System.Text;
using Chronotype.Core.Versions;
using Chronotype.Demo.Film;
using Chronotype.Demo.Icons;
using Chronotype.Demo.Poster;
using Chronotype.Demo.Sound;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Storage.Starting;
using Chronotype.Studio;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Jobs;
using Chronotype.Studio.People;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Projects;
using Chronotype.Studio.Saves;
using Microsoft.Extensions.DependencyInjection;

namespace Chronotype.Demo;

/// <summary>
/// Makes a studio that never was: three people, a seaside museum and its exhibition about tides. Everything goes the way
/// that real work goes, through the same deeds; only the clock is set.
/// </summary>
public sealed class DemoStudio(DataFolder data, DateTimeOffset now)
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
            await MakeIconsAsync(tides);
            await MakeTextsAsync(tides);
            await MakePosterAsync(tides);
            time.Set(Days(-1, 16, 20));
            await PieceAsync(tides, "OB", "Floor map", "layout");
            var guide = await ProjectAsync("TIDE-GUIDE", "Moonpull, the audio guide", "audio", Days(-6, 10, 0));
            await MakeGuideAsync(guide);
            await MakeFilmAsync(await ProjectAsync("TIDE-FILM", "Moonpull, a film for the foyer", "animation", Days(-4, 9, 0)));
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

    private async Task MakePosterAsync(Project project)
    {
        var painter = new PosterPainter();
        var night = new PosterScene
        {
            SkyTop = "#101b3d",
            SkyMiddle = "#30508c",
            SkyLow = "#e0a06a",
            MoonRadius = 190,
            MoonX = 570,
            MoonY = 430,
            Craters = 3,
            Stars = 60,
            Hue = 216,
            Saturation = 52,
            Light = 38,
            Swells = [40, 44, 60, 56, 50],
        };
        var day = new PosterScene();
        time.Set(Days(-9, 9, 40));
        var poster = await PieceAsync(project, "IK", "Moonpull poster", "key");
        var at = 0;
        await Step(Days(-9, 9, 50), day, "Composition");
        await Step(Days(-9, 11, 5), day = day with { MoonRadius = 162, MoonY = 455 }, null);
        await Step(Days(-9, 15, 30), day = day with { Swells = [30, 36, 40, 46, 40] }, "Swells have some height");
        await Step(Days(-8, 9, 20), day = day with { Hue = 192, Saturation = 44, Light = 55 }, "Greener water");
        await Step(Days(-8, 10, 40), day = day with { Craters = 3 }, null);
        await Step(Days(-8, 13, 10), day = day with { MoonX = 470, MoonY = 440 }, null);
        await Step(Days(-8, 16, 45), day = day with { SkyTop = "#33508f", SkyMiddle = "#8fb2d3" }, "Day version, as sent to the museum");
        await MarkAsync(poster, "IK", "before the sky is repainted");
        await Step(
            Days(-7, 10, 15),
            day with
            {
                SkyTop = night.SkyTop,
                SkyMiddle = night.SkyMiddle,
                SkyLow = night.SkyLow,
                Stars = 60,
            },
            "Night. The moon carries it now"
        );
        await Step(
            Days(-7, 14, 50),
            night with
            {
                Swells = day.Swells,
                Hue = day.Hue,
                Saturation = day.Saturation,
                Light = day.Light,
            },
            null
        );
        await Step(Days(-3, 9, 35), night with { Hue = 210, Light = 44 }, "Water follows the sky");
        await Step(Days(-3, 11, 20), night with { Phases = [30, 70, 20, 110, 90] }, null);
        await Step(Days(-3, 15, 5), night, null);
        await Step(Days(-2, 11, 0), night = night with { SubtitleLines = 1 }, "With the dates, for the first round with the client");
        await MarkAsync(poster, "IK", "client round 1");
        await Step(now.AddHours(-3.2), night = night with { Glow = true, Gulls = 3 }, "Gulls, and the moon glows");
        foreach (
            var (minutes, scene) in new[]
            {
                (-41, night with { TitleY = 1120 }),
                (-24, night with { TitleY = 1120, Gulls = 5 }),
                (-9, night with { TitleY = 1120, Gulls = 4, Swells = [40, 44, 72, 56, 50] }),
            }
        )
        {
            time.Set(now.AddMinutes(minutes));
            await SaveAsync(poster, "IK", "moonpull-poster.ora", painter.Paint(scene));
        }

        async Task Step(DateTimeOffset when, PosterScene scene, string? note)
        {
            time.Set(when);
            await KeepAsync(poster, "IK", $"moonpull poster {++at}.ora", painter.Paint(scene), note);
        }
    }

    private async Task MakeIconsAsync(Project project)
    {
        var day = -11;
        foreach (var (subject, steps) in WallIcons.All)
        {
            var hour = 10;
            time.Set(Days(day, hour, 0));
            var piece = await PieceAsync(project, "OB", subject, "icon");
            for (var i = 0; i < steps.Count; i++)
            {
                time.Set(Days(day + i * 2, hour + i, 12 * i + 5));
                var svg = Encoding.UTF8.GetBytes(steps[i].Svg);
                // The last seabirds are not kept yet.
                if (subject.EndsWith("seabirds", StringComparison.Ordinal) && i == steps.Count - 1)
                {
                    time.Set(now.AddMinutes(-26));
                    await SaveAsync(piece, "OB", "seabirds.svg", svg);
                }
                else
                    await KeepAsync(piece, "OB", $"{subject}.svg", svg, steps[i].Note);
            }
            if (subject.EndsWith("high water", StringComparison.Ordinal))
                await MarkAsync(piece, "OB", "cut by the sign maker");
            day++;
        }
    }

    // A folder: the texts on the walls, with their companions.
    private async Task MakeTextsAsync(Project project)
    {
        time.Set(Days(-5, 9, 30));
        var piece = await PieceAsync(project, "TV", "Room texts", "layout");
        const string first = "Twice a day the sea comes to visit.\nIt never stays, and it never forgets the way.\n";
        time.Set(Days(-5, 9, 40));
        await KeepAsync(
            piece,
            "TV",
            "room-texts.zip",
            Folder(
                ("room-texts.txt", first),
                ("captions/moon.txt", "The moon pulls; the water answers.\n"),
                ("captions/shore.txt", "What the ebb leaves behind.\n")
            ),
            "First draft, with two captions"
        );
        time.Set(Days(-4, 17, 10));
        await KeepAsync(
            piece,
            "TV",
            "room-texts.zip",
            Folder(
                ("room-texts.txt", first + "\nStand still for six hours and twelve minutes, and the room will have changed around you.\n"),
                ("captions/moon.txt", "The moon pulls; the water answers.\n"),
                ("captions/shore.txt", "What the ebb leaves behind.\n"),
                ("captions/bell.txt", "A bell that the sea rings by itself.\n")
            ),
            "Third caption"
        );
    }

    private async Task MakeGuideAsync(Project project)
    {
        GuidePart surf = new("surf", 5, .5, 3),
            voice = new("voice", 6, .7, 5),
            bell = new("bell", 5, .6, 9),
            close = new("voice", 4, .7, 13),
            rest = new("rest", 1.5, 1, 17);
        time.Set(Days(-5, 13, 0));
        var piece = await PieceAsync(project, "TV", "Guide, stop 1", "mix");
        await Step(Days(-5, 13, 30), [surf, voice], "Surf and the first lines");
        await Step(Days(-5, 15, 10), [surf, voice, bell], "The buoy’s bell");
        await Step(Days(-4, 10, 5), [surf, rest, voice, bell, close], "A rest before she speaks");
        await MarkAsync(piece, "TV", "heard by the museum");
        await Step(Days(-1, 11, 40), [surf with { Level = .35 }, rest, voice, bell, close], "Surf further back");
        await Step(now.AddHours(-2.1), [surf with { Level = .35 }, rest, voice with { Level = .8 }, bell, rest, close], null);
        time.Set(now.AddMinutes(-33));
        await SaveAsync(
            piece,
            "TV",
            "guide stop 1 mix.wav",
            GuideMix.Render(
                new GuideScene([surf with { Level = .35 }, rest, voice with { Level = .8 }, bell with { Seconds = 3.5 }, rest, close])
            )
        );

        async Task Step(DateTimeOffset when, GuidePart[] parts, string? note)
        {
            time.Set(when);
            await KeepAsync(piece, "TV", "guide stop 1 mix.wav", GuideMix.Render(new GuideScene(parts)), note);
        }
    }

    // A scene, a timeline and a script, each with a past.
    private async Task MakeFilmAsync(Project project)
    {
        time.Set(Days(-4, 9, 30));
        var buoy = await PieceAsync(project, "OB", "Buoy", "model");
        BuoyScene plain = new([0.02, 0.18, 0.1], 0.7, HasBell: false, 0, 4);
        await Step(buoy, Days(-4, 11, 0), "buoy.glb", BuoyModel.Make(plain), "Body and cage");
        await Step(
            buoy,
            Days(-3, 14, 20),
            "buoy.glb",
            BuoyModel.Make(plain with { CageHeight = 1, HasBell = true }),
            "The bell hangs in it"
        );
        await Step(
            buoy,
            Days(-1, 10, 10),
            "buoy.glb",
            BuoyModel.Make(new BuoyScene([0.55, 0.04, 0.03], 1, HasBell: true, 0.25, 5.5)),
            "Red, as the museum wants it, and it sways more slowly"
        );

        time.Set(Days(-3, 9, 0));
        var edit = await PieceAsync(project, "TV", "Foyer film", "edit");
        FoyerClip shore = new("Shore at dawn", 6, 2, "../assets/sets/shore.mov"),
            moon = new("Moonrise", 5, 0, "../assets/sets/moonrise.mov"),
            swell = new("Swell", 8, 1, "../assets/sets/swell.mov"),
            buoyShot = new("The buoy", 7, 0, "../assets/characters/buoy-sway.mov"),
            surf = new("Surf", 26, 0, "../assets/sound/surf.wav"),
            bell = new("Bell", 4, 0.5, "../assets/sound/bell.wav");
        await Step(
            edit,
            Days(-3, 11, 45),
            "foyer.otio",
            FoyerEdit.Make(("Picture", "Video", [shore, moon, swell, buoyShot]), ("Sound", "Audio", [surf])),
            "All four shots in a row"
        );
        await Step(
            edit,
            Days(-1, 16, 30),
            "foyer.otio",
            FoyerEdit.Make(
                ("Picture", "Video", [moon, shore with { Seconds = 4, From = 3 }, swell, buoyShot with { Seconds = 9 }]),
                ("Sound", "Audio", [surf with { Media = "../assets/sound/surf-night.wav" }]),
                ("Bell", "Audio", [new("", 18), bell])
            ),
            "The moon first, and the bell over the buoy"
        );

        time.Set(Days(-2, 10, 0));
        var script = await PieceAsync(project, "TV", "Foyer script", "board");
        const string first = "FOYER FILM\n\nThe sea, before anybody is up.\nThe moon rises behind the pier.\nA buoy rings by itself.\n";
        await Step(script, Days(-2, 10, 20), "script.txt", Encoding.UTF8.GetBytes(first), "First words");
        await Step(
            script,
            Days(-1, 9, 15),
            "script.txt",
            Encoding.UTF8.GetBytes(
                first.Replace("behind the pier", "behind the lighthouse", StringComparison.Ordinal)
                    + "\nNo voice. The bell has the last word.\n"
            ),
            null
        );

        async Task Step(Guid piece, DateTimeOffset when, string name, byte[] content, string? note)
        {
            time.Set(when);
            await KeepAsync(piece, piece == buoy ? "OB" : "TV", name, content, note);
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

    private async Task MarkAsync(Guid piece, string hand, string reason) =>
        (await In(s => s.GetRequiredService<MarkMilestone>().DoAsync(By(hand), piece, null, reason))).Expect();

    private Actor By(string hand) => Actor.Person(people[hand]);

    private static byte[] Folder(params (string Path, string Text)[] files)
    {
        using var memory = new MemoryStream();
        using (var zip = new ZipArchive(memory, ZipArchiveMode.Create, leaveOpen: true))
        {
            foreach (var (path, text) in files)
            {
                using var entry = zip.CreateEntry($"room-texts/{path}").Open();
                entry.Write(Encoding.UTF8.GetBytes(text));
            }
        }
        return memory.ToArray();
    }

    // Days count in the studio's own time zone, so that an hour of work is an hour of its day.
    private DateTimeOffset Days(int days, int hour, int minute)
    {
        var local = TimeZoneInfo.ConvertTime(now, TimeZoneInfo.Local).Date.AddDays(days).AddHours(hour).AddMinutes(minute);
        return new DateTimeOffset(local, TimeZoneInfo.Local.GetUtcOffset(local)).ToUniversalTime();
    }

    private async Task<T> In<T>(Func<IServiceProvider, Task<T>> work)
    {
        await using var scope = services.CreateAsyncScope();
        return await work(scope.ServiceProvider);
    }

    private Task In(Func<IServiceProvider, Task> work) =>
        In(async s =>
        {
            await work(s);
            return true;
        });
}
