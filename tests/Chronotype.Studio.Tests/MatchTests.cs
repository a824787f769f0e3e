using Chronotype.Core.Content;
using Chronotype.Core.Outputs;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Outputs;
using Chronotype.Studio.Readers;
using Chronotype.Studio.Saves;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Tests;

/// <summary>Flat files that come from elsewhere, and the versions that they are of.</summary>
public class MatchTests
{
    // Stripes that lie where the seed says: another picture for each seed, and near ones for near shares.
    private static byte[] Picture(int seed, byte red = 40) =>
        Samples.OpenRaster(
            96,
            64,
            [
                .. Enumerable
                    .Range(0, 7)
                    .Select(i => new Samples.OraLayer(
                        $"Stripe {i}",
                        8 + (seed * 7 + i * 5) % 23,
                        6 + (seed * 11 + i * 3) % 17,
                        Red: (byte)(60 + (seed * 31 + i * 47) % 190),
                        X: (seed * 13 + i * 29) % 70,
                        Y: (seed * 17 + i * 19) % 45
                    )),
                new Samples.OraLayer("Ground", 96, 64, Red: red),
            ]
        );

    // What another program would have made of it.
    private static async Task<byte[]> FlatAsync(StudioInUse studio, byte[] picture)
    {
        var hash = await studio.StoreAsync(picture);
        var drawing = (await studio.Do((FileReader r) => r.DrawAsync(hash, 480))).Drawing!;
        return drawing.Bytes.ToArray();
    }

    private static async Task<Guid> CameAsync(StudioInUse studio, string name, byte[] content, string folder = "outputs/screen")
    {
        var placed = await studio.Do(
            (TendFiles d) =>
                d.ReceiveAsync(
                    studio.Odo,
                    studio.Project.Id,
                    ProjectPath.Parse(folder),
                    new ArrivingContent(name, new MemoryStream(content))
                )
        );
        await studio.SettledAsync();
        return placed.Expect().Entry.Id;
    }

    private static async Task<(int Number, MatchReasons? Reasons)?> OfAsync(StudioInUse studio, Guid entry) =>
        await studio.Do(
            async (StudioDb db) =>
                await db.Outputs.Where(o => o.EntryId == entry).FirstOrDefaultAsync() is { } output
                    ? (
                        (await db.Saves.FirstAsync(s => s.Id == output.SaveId)).Number!.Value,
                        output.Reasons is null ? null : RecordJson.Read<MatchReasons>(output.Reasons)
                    )
                    : ((int, MatchReasons?)?)null
        );

    [Fact]
    public async Task What_comes_is_matched_by_its_name_by_its_looks_and_by_time_with_the_reasons()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var poster = await studio.PieceAsync("Moonpull poster");
        byte[][] versions = [Picture(1), Picture(2), Picture(5)];
        foreach (var version in versions)
        {
            await studio.VersionAsync(poster, version, insist: true);
            studio.Time.Advance(TimeSpan.FromHours(2));
        }
        var ticket = await studio.PieceAsync("Ticket");
        await studio.VersionAsync(ticket, Picture(9));
        await studio.SettledAsync();

        // Its name says the version, and its looks do not speak against it.
        var named = await CameAsync(studio, "TIM_moonpull-poster_key_IK_002.webp", await FlatAsync(studio, versions[1]));
        var (number, reasons) = (await OfAsync(studio, named))!.Value;
        Assert.Equal((2, NameEvidence.Version), (number, reasons!.Name));
        Assert.InRange(reasons.Alike!.Value, 0.95, 1);

        // Its name says the piece; of its versions it looks like the first, though that is not the newest.
        var looks = await CameAsync(studio, "TIM_moonpull-poster_key_web.webp", await FlatAsync(studio, versions[0]));
        Assert.Equal(1, (await OfAsync(studio, looks))!.Value.Number);

        // Its name says nothing at all.
        var plain = await CameAsync(studio, "export.webp", await FlatAsync(studio, Picture(9)));
        (number, reasons) = (await OfAsync(studio, plain))!.Value;
        Assert.Equal((1, NameEvidence.None, true), (number, reasons!.Name, reasons.WasNewest));
        Assert.Equal(
            ticket.Id,
            await studio.Do((StudioDb db) => db.Outputs.Where(o => o.EntryId == plain).Select(o => o.PieceId).FirstAsync())
        );

        // It looks like nothing that is here: a person is asked, and may say that it is of none.
        var strange = await CameAsync(studio, "holiday.webp", await FlatAsync(studio, Picture(23)));
        Assert.Null(await OfAsync(studio, strange));
        Assert.Equal(
            [strange],
            (await studio.Do((StudioDb db) => MatchOutputs.WaitingAsync(db, studio.Project.Id))).Select(w => w.Entry.Id)
        );
        (await studio.Do((MatchOutputs d) => d.OfNoneAsync(studio.Odo, strange))).Expect();
        Assert.Empty(await studio.Do((StudioDb db) => MatchOutputs.WaitingAsync(db, studio.Project.Id)));
        var ticketVersion = (await studio.SavesAsync(ticket))[0].Id;
        (await studio.Do((MatchOutputs d) => d.SayAsync(studio.Odo, strange, ticketVersion))).Expect();
        Assert.Equal((1, (MatchReasons?)null), await OfAsync(studio, strange));

        // What is matched says when its version is not the newest any more.
        var stale = await studio.Do((StudioDb db) => PieceOutputs.StaleAsync(db, studio.Project.Id));
        Assert.Equal([(1, 3), (2, 3)], stale.Select(s => (s.Output.Number.Value, s.Output.Newest.Value)).Order());
        Assert.All(stale, s => Assert.True(s.Output.IsReceived));
    }

    [Fact]
    public async Task A_name_that_its_looks_speak_against_is_asked_about()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var poster = await studio.PieceAsync("Moonpull poster");
        await studio.VersionAsync(poster, Picture(1));
        await studio.SettledAsync();
        var wrong = await CameAsync(studio, "TIM_moonpull-poster_key_IK_001.webp", await FlatAsync(studio, Picture(14, red: 230)));
        Assert.Null(await OfAsync(studio, wrong));
        var ranked = await studio.Do((StudioDb db) => MatchOutputs.RankAsync(db, wrong));
        Assert.All(ranked, m => Assert.InRange(m.Match.Reasons.Alike!.Value, 0, 0.55));
    }

    [Fact]
    public async Task A_sound_is_matched_at_another_rate_another_level_and_as_a_stretch()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var (one, two) = (await studio.PieceAsync("Guide"), await studio.PieceAsync("Waves"));
        await studio.TakeAsync(one, Swelling(3, 20), "guide.wav");
        await studio.KeepAsync(one);
        await studio.TakeAsync(two, Swelling(8, 20), "waves.wav");
        await studio.KeepAsync(two);
        await studio.SettledAsync();
        // Softer, at another rate, and from the sixth second on.
        var came = await CameAsync(studio, "bounce.wav", Swelling(3, 9, rate: 44_100, level: 0.4, from: 6), "outputs");
        var (number, reasons) = (await OfAsync(studio, came))!.Value;
        Assert.Equal(
            one.Id,
            await studio.Do((StudioDb db) => db.Outputs.Where(o => o.EntryId == came).Select(o => o.PieceId).FirstAsync())
        );
        Assert.Equal((1, 6.0), (number, Math.Round(reasons!.At)));
    }

    private static byte[] Swelling(int seed, double seconds, int rate = 48_000, double level = 1, double from = 0)
    {
        var data = new byte[(int)(seconds * rate) * 2];
        for (var i = 0; i < data.Length / 2; i++)
        {
            var t = from + (double)i / rate;
            var swell = 0.5 + 0.5 * Math.Sin(t * (1.1 + seed * 0.13) + Math.Sin(t * 0.7 * seed));
            BitConverter.TryWriteBytes(data.AsSpan(i * 2), (short)(26_000 * level * swell * swell * Math.Sin(2 * Math.PI * 300 * t)));
        }
        return Samples.WaveOf(data, rate, 1);
    }

    [Fact]
    public async Task What_is_taken_as_an_output_instead_of_a_version_is_of_the_version_that_was_newest()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var poster = await studio.PieceAsync("Moonpull poster");
        await studio.VersionAsync(poster, Picture(1));
        await studio.SettledAsync();
        var flat = await studio.TakeAsync(poster, Samples.OpenRaster(96, 64, new Samples.OraLayer("All", 96, 64)), "poster.ora");
        await studio.SettledAsync();
        Assert.IsType<KeepResult.Question>(await studio.KeepAsync(poster, flat.Save.Id));
        var taken = (await studio.Do((SaveQuestion d) => d.TakeAsOutputAsync(studio.Odo, poster.Id, flat.Save.Id))).Expect();
        await studio.SettledAsync();
        Assert.Equal((1, (MatchReasons?)null), await OfAsync(studio, taken.Entry.Id));
    }

    [Fact]
    public async Task Recipes_of_the_project_stand_before_the_studios_and_one_that_is_gone_makes_nothing()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.BegunAsync();
        await studio.SettledAsync();
        var version = (await studio.SavesAsync(piece))[0].Id;
        var square = new Recipe("square", "Square")
        {
            Picture = new(PictureFile.Png) { Size = new(40, 40, "px"), Fit = PictureFit.Fill },
        };
        Assert.IsType<Refusal.NotAllowed>((await studio.Do((RecipeBook d) => d.SetAsync(studio.Odo, null, square))).Refusal);
        (await studio.Do((RecipeBook d) => d.SetAsync(studio.Ilse, null, square))).Expect();
        var own = square with { Picture = square.Picture! with { Size = new(50, 50, "px") } };
        (await studio.Do((RecipeBook d) => d.SetAsync(studio.Odo, studio.Project.Id, own))).Expect();
        Assert.IsType<Refusal.RecipeFaults>(
            (await studio.Do((RecipeBook d) => d.SetAsync(studio.Odo, studio.Project.Id, own with { Name = "" }))).Refusal
        );
        var there = await studio.Do((StudioDb db) => RecipeBook.OfAsync(db, studio.Project.Id));
        Assert.Equal((RecipeOwner.Project, 50.0), (there[0].Owner, there[0].Recipe.Picture!.Size!.Width));

        var asked = (
            await studio.Do(
                (MakeOutputs d) =>
                    d.AskAsync(
                        studio.Odo,
                        [(piece.Id, version, "square"), (piece.Id, version, "screen-1080"), (piece.Id, version, "wav-48-24")]
                    )
            )
        ).Expect();
        Assert.Equal(new AskedOutputs(2, 0), asked);
        await studio.SettledAsync();
        Assert.Equal(2, (await studio.Do((StudioDb db) => PieceOutputs.OfAsync(db, piece.Id))).Count);

        // All that are stale are made anew by one deed.
        await studio.VersionAsync(piece, Picture(5), insist: true);
        await studio.SettledAsync();
        Assert.Equal(2, (await studio.Do((MakeOutputs d) => d.AskAnewAsync(studio.Odo, studio.Project.Id, piece.Id))).Expect().Making);
        await studio.SettledAsync();
        Assert.IsType<Refusal.NothingStale>(
            (await studio.Do((MakeOutputs d) => d.AskAnewAsync(studio.Odo, studio.Project.Id, null))).Refusal
        );

        // A recipe that is taken away between asking and making: nothing is made, and the job says why.
        (await studio.Do((MakeOutputs d) => d.AskAsync(studio.Odo, piece.Id, version, "flat-16"))).Expect();
        (await studio.Do((RecipeBook d) => d.RemoveAsync(studio.Odo, studio.Project.Id, "square"))).Expect();
        (await studio.Do((RecipeBook d) => d.RemoveAsync(studio.Ilse, null, "square"))).Expect();
        var newest = (await studio.SavesAsync(piece))[^1].Id;
        await studio.Do((Jobs.JobQueue q) => q.AddAsync([Jobs.JobRequest.Make(MakeOutputs.SubjectOf(newest, "square", []), piece.Id)]));
        await studio.SettledAsync();
        var job = (await studio.JobsAsync()).FindLast(j => j.Kind == JobKind.MakeOutput && j.Subject.EndsWith("/square"));
        Assert.Equal(FileFaultCode.RecipeGone, RecordJson.Read<FileFault>(job!.Result!).Code);
    }

    [Fact]
    public async Task A_colour_profile_is_handed_in_once_and_what_is_none_is_refused()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var icc = new byte[200];
        icc[3] = 200;
        "prtr"u8.CopyTo(icc.AsSpan(12));
        "CMYK"u8.CopyTo(icc.AsSpan(16));
        "acsp"u8.CopyTo(icc.AsSpan(36));
        Task<Outcome<ColourProfileEntry>> Send(byte[] bytes) =>
            studio.Do((RecipeBook d) => d.HandInAsync(studio.Odo, "coated.icc", new MemoryStream(bytes)));
        var profile = (await Send(icc)).Expect();
        Assert.Equal(("coated", "CMYK"), (profile.Name, profile.Space));
        Assert.Equal(profile.Id, (await Send(icc)).Expect().Id);
        icc[150] = 1;
        Assert.Equal("coated (2)", (await Send(icc)).Expect().Name);
        foreach (
            var wrong in (byte[][])
                [
                    [],
                    [1, 2],
                    icc[..127],
                    new byte[200],
                ]
        )
            Assert.IsType<Refusal.NoProfile>((await Send(wrong)).Refusal);
        // What a recipe is set for is held for as long as it is here.
        Assert.Contains(profile.Hash, await studio.Do((StudioDb db) => Maintenance.HeldContent.AllAsync(db)));
    }
}
