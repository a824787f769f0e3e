using System.Text;
using Chronotype.Demo.Film;
using Chronotype.Demo.Sound;
using Chronotype.Storage.Entities;

namespace Chronotype.Demo;

/// <content>What plays: the guide’s mix, the film.</content>
public sealed partial class DemoStudio
{
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
        FoyerClip shore = new("Shore at dawn", 6, 2, "../../assets/sets/shore.png"),
            moon = new("Moonrise", 5, 0, "../../assets/sets/moonrise.png"),
            swell = new("Swell", 8, 1, "../../assets/sets/swell.png"),
            buoyShot = new("The buoy", 7, 0, "../../assets/characters/buoy-sway.mov"),
            surf = new("Surf", 26, 0, "../../assets/sound/surf.wav"),
            bell = new("Bell", 4, 0.5, "../../assets/sound/bell.wav");
        await Step(
            edit,
            Days(-3, 11, 45),
            "foyer.otio",
            FoyerEdit.Make(("Picture", "Video", [shore, moon, swell, buoyShot]), ("Sound", "Audio", [surf])),
            "All four shots in a row"
        );
        // What is read under the film goes with the edit, and each version keeps what went with it.
        const string title = "1\n00:00:01,000 --> 00:00:05,000\nThe sea, before anybody is up.\n";
        await SaveAsync(edit, "TV", "foyer.en.srt", Encoding.UTF8.GetBytes(title));
        await Step(
            edit,
            Days(-1, 16, 30),
            "foyer.otio",
            FoyerEdit.Make(
                ("Picture", "Video", [moon, shore with { Seconds = 4, From = 3 }, swell, buoyShot with { Seconds = 9 }]),
                ("Sound", "Audio", [surf with { Media = "../../assets/sound/surf-night.wav" }]),
                ("Bell", "Audio", [new("", 18), bell])
            ),
            "The moon first, and the bell over the buoy"
        );
        time.Set(Days(-1, 16, 34));
        await SaveAsync(
            edit,
            "TV",
            "foyer.en.srt",
            Encoding.UTF8.GetBytes(title + "\n2\n00:00:07,000 --> 00:00:12,000\nThe moon rises behind the lighthouse.\n")
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
}
