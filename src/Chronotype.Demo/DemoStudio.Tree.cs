using System.Text;
using Chronotype.Core.Content;
using Chronotype.Core.Structure;
using Chronotype.Demo.Leaflet;
using Chronotype.Demo.Sound;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Projects;
using Chronotype.Studio.Saves;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Chronotype.Demo;

/// <content>What stands in the trees beside the pieces: originals, assets, documents, and who refers to what.</content>
public sealed partial class DemoStudio
{
    private async Task MakeOriginalsAsync(Project project)
    {
        time.Set(Days(-12, 9, 20));
        await StoreAsync(project, "IK", "originals", "tide-tables.txt", Encoding.UTF8.GetBytes(TideTables()));
        time.Set(Days(-11, 9, 10));
        await StoreAsync(project, "OB", "originals/scans", "birds-sheet-1.png", PlacedPictures.Scan(4));
        await StoreAsync(project, "OB", "originals/scans", "birds-sheet-2.png", PlacedPictures.Scan(9));
        time.Set(Days(-10, 10, 5));
        await StoreAsync(project, "IK", "originals/scans", "moon-drawing.png", PlacedPictures.Scan(23));
        time.Set(Days(-10, 10, 40));
        var scan = await EntryAsync(project, "originals/scans/moon-drawing.png");
        var called = new Dictionary<string, string> { ["subject"] = "Moon study", ["function"] = "sketch" };
        (await In(s => s.GetRequiredService<StartFrom>().OriginalAsync(By("IK"), project.Id, called, scan.Id))).Expect();
        // The scanner began anew with its names: the first stays as it was received.
        time.Set(Days(-9, 16, 40));
        await StoreAsync(project, "OB", "originals/scans", "birds-sheet-1.png", PlacedPictures.Scan(31));
        time.Set(Days(-12, 9, 25));
        await StoreAsync(project, "IK", "documents", "brief.txt", "Moonpull. An exhibition about tides.\nOpens in spring.\n"u8.ToArray());
        time.Set(Days(-8, 8, 55));
        await StoreAsync(
            project,
            "IK",
            "documents",
            "brief.txt",
            "Moonpull. An exhibition about tides.\nOpens in spring, with a leaflet for visitors.\n"u8.ToArray()
        );
    }

    // A leaflet that places what the assets hold, while these go on changing.
    private async Task MakeLeafletAsync(Project project)
    {
        time.Set(Days(-8, 9, 5));
        await StoreAsync(project, "IK", "assets", "paper-grain.png", PlacedPictures.Paper(0.2, 5));
        await StoreAsync(project, "IK", "assets", "moon-disc.png", PlacedPictures.Moon(3));
        await StoreAsync(project, "OB", "assets", "gulls.svg", PlacedPictures.Birds);
        await StoreAsync(project, "OB", "assets", "old-swell.png", PlacedPictures.Still("#c9d6da", "#6d8fa0"));
        time.Set(Days(-8, 9, 30));
        var leaflet = await PieceAsync(project, "TV", "Leaflet", "layout");
        var look = new LeafletLook("../assets/paper-grain.png", null, null, null, 8);
        await Step(Days(-8, 11, 30), look, "Ground and text");
        await Step(Days(-7, 9, 50), look = look with { Moon = "../assets/moon-disc.png" }, null);
        time.Set(Days(-6, 10, 0));
        await StoreAsync(project, "IK", "assets", "paper-grain.png", PlacedPictures.Paper(0.6, 5));
        await Step(Days(-6, 14, 20), look = look with { Birds = "../assets/gulls.svg", Lines = 12 }, "The gulls of the signs");
        await MarkAsync(leaflet, "TV", "before the museum’s texts");
        await Step(Days(-4, 15, 0), look = look with { Lines = 14, Code = "file:///Users/tamsin/Desktop/visitor-code.png" }, "Longer text");
        time.Set(Days(-3, 16, 15));
        await StoreAsync(project, "IK", "assets", "paper-grain.png", PlacedPictures.Paper(0.9, 8));
        // Whoever tidied up did not think of the leaflet.
        time.Set(Days(-1, 17, 30));
        await MoveAsync(project, "OB", "assets/gulls.svg", "assets/birds/seabirds.svg");
        time.Set(now.AddMinutes(-52));
        await SaveAsync(leaflet, "TV", "leaflet.svg", LeafletPage.Make(look with { Lines = 15 }));
        (await In(s => s.GetRequiredService<SetTemplate>().DoAsync(By("TV"), leaflet, true))).Expect();

        async Task Step(DateTimeOffset when, LeafletLook what, string? note)
        {
            time.Set(when);
            await KeepAsync(leaflet, "TV", "leaflet.svg", LeafletPage.Make(what), note);
        }
    }

    private async Task MakeFilmAssetsAsync(Project project)
    {
        time.Set(Days(-4, 10, 15));
        const string moon = """<circle cx="640" cy="150" r="70" fill="#f4ecd2"/>""";
        await StoreAsync(project, "OB", "assets/sets", "shore.png", PlacedPictures.Still("#d9b59a", "#54707f"));
        await StoreAsync(project, "OB", "assets/sets", "moonrise.png", PlacedPictures.Still("#16304f", "#2b4a66", moon));
        await StoreAsync(project, "OB", "assets/sets", "swell.png", PlacedPictures.Still("#8fb2d3", "#33508f"));
        await StoreAsync(project, "TV", "assets/sound", "surf.wav", GuideMix.Render(new([new("surf", 4, .5, 3)])));
        await StoreAsync(project, "TV", "assets/sound", "surf-night.wav", GuideMix.Render(new([new("surf", 4, .25, 8)])));
        await StoreAsync(project, "TV", "originals/recordings", "bell-buoy.wav", GuideMix.Render(new([new("bell", 3, .6, 9)]), 44_100));
        await StoreAsync(project, "TV", "assets/sound", "Bell.wav", GuideMix.Render(new([new("bell", 3, .6, 9)])));
        // What the cinema of the museum plays; a recording came at another rate.
        var spec = new ProjectSpec { Sound = new(48_000), Motion = new(FramesPerSecond: 25) };
        (await In(d => d.GetRequiredService<SetSpec>().DoAsync(By("OB"), project.Id, spec))).Expect();
    }

    private async Task StoreAsync(Project project, string hand, string folder, string name, byte[] content) =>
        (
            await In(s =>
                s.GetRequiredService<TendFiles>()
                    .ReceiveAsync(By(hand), project.Id, ProjectPath.Parse(folder), new ArrivingContent(name, new MemoryStream(content)))
            )
        ).Expect();

    private async Task MoveAsync(Project project, string hand, string from, string to) =>
        await In(async s =>
        {
            var (entry, target) = (await EntryAsync(project, from), ProjectPath.Parse(to));
            if (target.Folder is { } folder)
                await s.GetRequiredService<TendTree>().MakeFolderAsync(By(hand), project.Id, folder);
            (await s.GetRequiredService<TendTree>().MoveAsync(By(hand), entry.Id, target)).Expect();
        });

    private Task<TreeEntry> EntryAsync(Project project, string path)
    {
        var key = ProjectPath.Parse(path).Key;
        return In(s =>
            s.GetRequiredService<StudioDb>()
                .Entries.AsNoTracking()
                .FirstAsync(e => e.ProjectId == project.Id && e.PathKey == key && e.DeletedAt == null)
        );
    }

    private static string TideTables() =>
        "Merrow Bay, height of the tide in metres\n"
        + string.Concat(
            Enumerable
                .Range(1, 28)
                .Select(day =>
                    FormattableString.Invariant($"{day:00}  {4 + Math.Sin(day / 2.3) * 1.4:0.0}  {1.2 - Math.Sin(day / 2.3) * 0.6:0.0}\n")
                )
        );
}
