using System.IO.Compression;
using System.Text;
using Chronotype.Demo.Icons;
using Chronotype.Demo.Poster;
using Chronotype.Demo.Ticket;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Lines;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Chronotype.Demo;

/// <content>What is printed and cut: the poster, the banner, the ticket, the icons, the texts.</content>
public sealed partial class DemoStudio
{
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
        await TryDaybreakAsync(poster, painter, night);
        await Step(Days(-2, 11, 0), night = night with { SubtitleLines = 1 }, "With the dates, for the first round with the client");
        await MarkAsync(poster, "IK", "client round 1");
        // What the client saw is not of the newest any more.
        await MakeAsync(poster, "IK", "screen-1080");
        // The press asked for it by mail, and somebody saved what they sent beside the others, under a name of their own.
        await StoreAsync(project, "OB", "outputs/screen", "tides-for-the-press.webp", await OutputAsync(poster));
        await StoreAsync(project, "OB", "outputs/print", "ticket-proof.png", Leaflet.PlacedPictures.Still("#e9c59a", "#c56b4d"));
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

    // Somebody tried another light for an evening, and set it aside.
    private async Task TryDaybreakAsync(Guid poster, PosterPainter painter, PosterScene night)
    {
        time.Set(Days(-3, 16, 30));
        var left = await In(s =>
            s.GetRequiredService<StudioDb>().Saves.Where(v => v.PieceId == poster && v.IsCurrent).Select(v => v.Id).SingleAsync()
        );
        var alt = (await In(s => s.GetRequiredService<LeaveLine>().DoAsync(By("IK"), poster, left, "daybreak", goesOn: true))).Expect();
        var dawn = night with { SkyTop = "#5a4a72", SkyMiddle = "#c98a86", SkyLow = "#f3cf9b", Stars = 12 };
        foreach (
            var (hour, minute, scene, note) in new[]
            {
                (17, 5, dawn, "The same sea, an hour before sunrise"),
                (17, 50, dawn with { MoonY = 520, MoonRadius = 150 }, null),
                (18, 40, dawn with { MoonY = 520, MoonRadius = 150, Hue = 204, Light = 50 }, "Lighter water. Too sweet, perhaps"),
            }
        )
        {
            time.Set(Days(-3, hour, minute));
            await KeepAsync(poster, "IK", "moonpull poster daybreak.ora", painter.Paint(scene), note);
        }
        time.Set(Days(-2, 9, 10));
        var main = await In(s =>
            s.GetRequiredService<StudioDb>().Lines.Where(l => l.PieceId == poster && l.Name == "").Select(l => l.Id).SingleAsync()
        );
        (await In(s => s.GetRequiredService<TendAlts>().GoOnAsync(By("IK"), poster, main))).Expect();
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
            {
                await MarkAsync(piece, "OB", "cut by the sign maker");
                await MakeAsync(piece, "OB", "cut-hpgl");
                await MasterAsync(piece, "OB");
            }
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
        time.Set(Days(-2, 11, 25));
        await KeepAsync(
            piece,
            "TV",
            "room-texts.zip",
            Folder(
                ("room-texts.txt", first + "\nStand still for six hours and twelve minutes, and the room will have changed around you.\n"),
                ("captions/sky/moon.txt", "The moon pulls; the water answers.\n"),
                ("captions/shore.txt", "What the ebb leaves behind: rope, glass, a letter.\n"),
                ("captions/buoy.txt", "A bell that the sea rings by itself.\n")
            ),
            null
        );
    }

    // A layout in a program that nobody else can read, seen by the flat picture that is exported beside it.
    private async Task MakeTicketAsync(Project project)
    {
        time.Set(Days(-3, 10, 0));
        var piece = await PieceAsync(project, "OB", "Ticket", "layout");
        TicketLook look = new("#1f4e5f", HasStub: false, 2);
        await Step(Days(-3, 10, 30), look, "First layout");
        await Step(Days(-2, 15, 20), look = look with { HasStub = true, Waves = 4 }, "A stub to tear off");
        await Step(Days(-1, 9, 45), look with { Ground = "#101b3d" }, null);

        async Task Step(DateTimeOffset when, TicketLook now, string? note)
        {
            time.Set(when);
            await KeepAsync(piece, "OB", "ticket.gull", TicketLayout.Native(now), note);
            time.Set(when.AddMinutes(3));
            await SaveAsync(piece, "OB", "ticket.png", TicketLayout.Face(now));
        }
    }

    // At print size: 297 x 459 mm at 300 dots per inch, in 20 layers.
    private async Task MakeBannerAsync(Project project)
    {
        var painter = new PosterPainter(scale: 3508.0 / PosterScene.Width, dotsPerInch: 300);
        var scene = new PosterScene
        {
            IsDetailed = true,
            SkyTop = "#0d2a3a",
            SkyMiddle = "#2f6f7d",
            SkyLow = "#e9c59a",
            Stars = 40,
            Gulls = 3,
            Glow = true,
            SubtitleLines = 1,
            Hue = 188,
            Saturation = 46,
            Light = 46,
        };
        time.Set(Days(-2, 9, 0));
        var piece = await PieceAsync(project, "IK", "Foyer banner", "key");
        time.Set(Days(-2, 9, 10));
        await KeepAsync(piece, "IK", "foyer-banner.ora", painter.Paint(scene), "At print size, from the poster");
        time.Set(Days(-1, 14, 0));
        await KeepAsync(
            piece,
            "IK",
            "foyer-banner.ora",
            painter.Paint(scene with { MoonY = 420, Swells = [24, 28, 52, 34, 36], TitleY = 120 }),
            null
        );
    }

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
}
