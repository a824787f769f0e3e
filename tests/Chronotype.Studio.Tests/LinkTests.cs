using System.Text;
using Chronotype.Content;
using Chronotype.Core.Comparing;
using Chronotype.Core.Content;
using Chronotype.Core.References;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Grace;
using Chronotype.Studio.Jobs;
using Chronotype.Studio.Maintenance;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.References;
using Chronotype.Studio.Saves;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Tests;

/// <summary>What files refer to: what a version saw when it was kept, who uses a file, and what becomes of both when the tree changes.</summary>
public class LinkTests
{
    private static ProjectPath P(string path) => ProjectPath.Parse(path);

    private static byte[] Svg(params string[] links) =>
        System.Text.Encoding.UTF8.GetBytes(
            $"""
            <svg xmlns="http://www.w3.org/2000/svg" width="40" height="30">
            {string.Join('\n', links.Select(l => $"<image href=\"{l}\" width=\"9\" height=\"9\"/>"))}
            </svg>
            """
        );

    private static async Task<TreeEntry> DropAsync(StudioInUse studio, string folder, string name, string text)
    {
        var content = new ArrivingContent(name, new MemoryStream(System.Text.Encoding.UTF8.GetBytes(text)));
        return (await studio.Do((TendFiles d) => d.ReceiveAsync(studio.Ilse, studio.Project.Id, P(folder), content))).Expect().Entry;
    }

    private static Task<IReadOnlyList<ShownReference>> ShownAsync(StudioInUse studio, Piece piece, Guid save) =>
        studio.Do((PieceReferences r) => r.OfAsync(piece, save));

    private static Task<FileUsers> UsersAsync(StudioInUse studio, TreeEntry entry) => studio.Do((WhoUses w) => w.OfAsync(entry));

    [Fact]
    public async Task A_version_remembers_what_each_of_its_references_led_to()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var grain = await DropAsync(studio, "assets", "grain.txt", "first");
        var piece = await studio.PieceAsync();
        await studio.TakeAsync(piece, Svg(), "poster.svg");
        await studio.TakeAsync(piece, Svg("../assets/grain.txt", "../assets/Grain.txt", "../assets/moon.txt", "/tmp/x.png"), "poster.svg");
        await studio.SettledAsync();
        studio.Time.Advance(TimeSpan.FromMinutes(5));
        // It came while the moon was missing, and is kept when it is there.
        var moon = await DropAsync(studio, "assets", "moon.txt", "moon");
        var kept = Assert.IsType<KeepResult.Kept>(await studio.KeepAsync(piece));
        studio.Time.Advance(TimeSpan.FromMinutes(5));
        await DropAsync(studio, "assets", "grain.txt", "second");
        (await studio.Do((TendTree d) => d.DeleteAsync(studio.Ilse, moon.Id))).Expect();

        var shown = await ShownAsync(studio, piece, kept.SaveId);

        Assert.Equal(
            [
                ("../assets/grain.txt", ReferenceState.Found, ReferenceState.Found, true, false),
                ("../assets/Grain.txt", ReferenceState.OtherCase, ReferenceState.OtherCase, true, false),
                ("../assets/moon.txt", ReferenceState.Found, ReferenceState.Missing, false, true),
                ("/tmp/x.png", ReferenceState.Absolute, ReferenceState.Absolute, false, false),
            ],
            shown.Select(s => (s.Written, s.Then, s.Now, s.IsChanged, s.IsGone))
        );
        var users = await UsersAsync(studio, grain);
        Assert.Equal(("TIM_moonpull-poster_key", "image, href, line 2"), (users.Today.Single().Piece, users.Today.Single().Place));
        Assert.Equal(
            (new VersionNumber(2), ContentHash.Of("first"u8)),
            (users.Versions.Single().Number, users.Versions.Single().Saw!.Value)
        );
        // Whoever deleted the moon can be told what needs it, and what it held can be given back with the version for good.
        Assert.Equal(kept.SaveId, (await UsersAsync(studio, moon)).Versions.Single().SaveId);
        studio.Time.Advance(GracePeriod.Length + TimeSpan.FromDays(1));
        await studio.Do((JobQueue q) => q.AddAsync([JobRequest.Store(JobKind.EndGrace, JobPriority.Follows)]));
        await studio.SettledAsync();
        Assert.Empty(await studio.Do((StudioDb db) => db.Entries.Where(e => e.Id == moon.Id).ToListAsync()));
        Assert.Contains(ContentHash.Of("moon"u8), await studio.Do((StudioDb db) => HeldContent.AllAsync(db)));
        Assert.True((await ShownAsync(studio, piece, kept.SaveId))[2].ThenHash == ContentHash.Of("moon"u8));
    }

    [Fact]
    public async Task What_an_earlier_tree_held_is_known_after_moves_and_replacements()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var grain = await DropAsync(studio, "assets", "grain.txt", "first");
        var first = studio.Time.GetUtcNow();
        studio.Time.Advance(TimeSpan.FromHours(1));
        await DropAsync(studio, "assets", "grain.txt", "second");
        studio.Time.Advance(TimeSpan.FromHours(1));
        (await studio.Do((TendTree d) => d.MoveAsync(studio.Ilse, grain.Id, P("documents/grain.txt")))).Expect();
        var moved = studio.Time.GetUtcNow();
        studio.Time.Advance(TimeSpan.FromHours(1));
        (await studio.Do((TendTree d) => d.DeleteAsync(studio.Ilse, grain.Id))).Expect();
        studio.Time.Advance(TimeSpan.FromHours(1));
        (await studio.Do((TendTree d) => d.RestoreAsync(studio.Ilse, grain.Id))).Expect();

        Task<(string, ContentHash?)[]> At(DateTimeOffset? moment) =>
            studio.Do(
                async (StudioDb db) =>
                    (await new TreeThen(db, studio.Project.Id, moment).AllAsync())
                        .All.Select(f => (f.Key, f.Value.Hash))
                        .OrderBy(f => f.Key, StringComparer.Ordinal)
                        .ToArray()
            );
        var (one, two) = ((ContentHash?)ContentHash.Of("first"u8), (ContentHash?)ContentHash.Of("second"u8));
        Assert.Equal([("assets/grain.txt", one)], await At(first));
        Assert.Equal([("assets/grain.txt", two)], await At(first.AddHours(1.5)));
        Assert.Equal([("documents/grain.txt", two)], await At(moved));
        Assert.Empty(await At(moved.AddHours(1.5)));
        Assert.Equal([("documents/grain.txt", two)], await At(null));
        Assert.Empty(await At(first.AddDays(-1)));
    }

    [Fact]
    public async Task A_link_is_mended_as_a_new_loose_save_and_what_was_kept_stays()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var grain = await DropAsync(studio, "assets", "grain.txt", "first");
        var piece = await studio.PieceAsync();
        await studio.TakeAsync(piece, Svg("../assets/grain.txt#x", "/tmp/a.png"), "poster.svg");
        await studio.SettledAsync();
        studio.Time.Advance(TimeSpan.FromHours(1));
        (await studio.Do((TendTree d) => d.MakeFolderAsync(studio.Ilse, studio.Project.Id, P("assets/paper")))).Expect();
        (await studio.Do((TendTree d) => d.MoveAsync(studio.Ilse, grain.Id, P("assets/paper/rough grain.txt")))).Expect();
        await DropAsync(studio, "assets", "a.txt", "other");

        var current = (await studio.Do((ProjectLinks l) => l.LoadAsync(studio.Project.Id))).Where(l => l.State.IsBroken()).ToList();
        var likely = await studio.Do((LikelyReferences l) => l.FindAsync(studio.Project.Id, current));
        Assert.Equal(["../assets/grain.txt#x", "/tmp/a.png"], current.Select(l => l.Record.Written));
        Assert.Equal((grain.Id, LikelyReason.SameContent), (likely[0].Targets[0].File.EntryId, likely[0].Targets[0].Reason));
        Assert.Equal(LikelyReason.OtherFormat, likely[1].Targets.Single().Reason);

        var mended = (
            await studio.Do((Relink d) => d.DoAsync(studio.Ilse, piece.Id, [new NewTarget("../assets/grain.txt#x", grain.Id)]))
        ).Expect();

        await studio.SettledAsync();
        Assert.Null(mended.Save.Number);
        var shown = await ShownAsync(studio, piece, mended.Save.Id);
        Assert.Equal(("../assets/paper/rough%20grain.txt#x", ReferenceState.Found), (shown[0].Written, shown[0].Now));
        var saves = await studio.SavesAsync(piece);
        Assert.Equal([1, 2], saves.Select(s => s.Sequence));
        Assert.Equal(ReferenceState.Found, (await ShownAsync(studio, piece, saves[0].Id))[0].Then);
        Assert.Equal(ReferenceState.Missing, (await ShownAsync(studio, piece, saves[0].Id))[0].Now);
        // Again is nothing new, and a closed native is refused in words.
        var closed = await studio.PieceAsync("Ticket");
        await studio.TakeAsync(closed, [1, 2, 3], "ticket.gull");
        var refused = await studio.Do((Relink d) => d.DoAsync(studio.Ilse, closed.Id, [new NewTarget("x", grain.Id)]));
        Assert.IsType<Deeds.Refusal.NotRelinked>(refused.Refusal);
    }

    [Fact]
    public async Task What_a_folder_of_files_refers_to_is_looked_for_in_itself_first()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var grain = await DropAsync(studio, "assets", "grain.txt", "outside");
        var piece = await studio.PieceAsync();
        var svg = System.Text.Encoding.UTF8.GetString(Svg("parts/a.txt", "../../assets/grain.txt", "../assets/grain.txt"));
        var taken = await studio.TakeAsync(piece, Samples.Zip(("poster.svg", svg), ("parts/a.txt", "inside")), "poster.zip");
        await studio.SettledAsync();

        var shown = await ShownAsync(studio, piece, taken.Save.Id);

        Assert.Equal([ReferenceState.Found, ReferenceState.Found, ReferenceState.Missing], shown.Select(s => s.Now));
        Assert.Equal("working/TIM_moonpull-poster_key/parts/a.txt", shown[0].ThenPath?.Text);
        Assert.Equal("assets/grain.txt", shown[1].Target?.Path.Text);

        // The one file that refers so is written anew, and all else of the folder stays.
        var mended = (
            await studio.Do((Relink d) => d.DoAsync(studio.Ilse, piece.Id, [new NewTarget("../assets/grain.txt", grain.Id)]))
        ).Expect();
        await studio.SettledAsync();
        Assert.All(await ShownAsync(studio, piece, mended.Save.Id), s => Assert.Equal(ReferenceState.Found, s.Now));
        var saves = await studio.Do((StudioDb db) => db.Saves.Include(s => s.Files).OrderBy(s => s.Sequence).ToListAsync());
        Assert.Equal(
            [("parts/a.txt", true), ("poster.svg", false)],
            saves[1].Files.Select(f => (f.Path, f.Hash == saves[0].Files.Single(o => o.Path == f.Path).Hash)).Order()
        );
        Assert.Equal((null, saves[1].Files.Single(f => f.IsMain).Hash), (saves[1].Number, saves[1].MainHash));
        Assert.Equal(saves[1].Files.Sum(f => f.Size), saves[1].Size);
        // What lies in the folder itself is not led out of it.
        var own = await studio.Do((Relink d) => d.DoAsync(studio.Ilse, piece.Id, [new NewTarget("parts/a.txt", grain.Id)]));
        Assert.IsType<Deeds.Refusal.NotRelinked>(own.Refusal);
    }

    [Fact]
    public async Task A_piece_that_is_moved_to_another_folder_is_known_to_lose_what_it_refers_to()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var grain = await DropAsync(studio, "assets", "grain.txt", "first");
        var piece = await studio.PieceAsync();
        await studio.TakeAsync(piece, Svg("../assets/grain.txt"), "poster.svg");
        await studio.SettledAsync();
        Assert.Single((await UsersAsync(studio, grain)).Today);
        (await studio.Do((TendTree d) => d.MakeFolderAsync(studio.Ilse, studio.Project.Id, P("working/deep")))).Expect();
        var current = await studio.Do(
            (StudioDb db) => db.Entries.SingleAsync(e => e.PieceId == piece.Id && e.Kind == EntryKind.CurrentFile)
        );

        studio.Time.Advance(TimeSpan.FromMinutes(1));
        var moved = (
            await studio.Do((TendTree d) => d.MoveAsync(studio.Ilse, [(current.Id, P($"working/deep/{current.Path.Name}"))]))
        ).Expect();

        var link = Assert.Single(await studio.Do((ProjectLinks l) => l.LoadAsync(studio.Project.Id)));
        Assert.Equal((ReferenceState.Missing, "working/assets/grain.txt"), (link.State, link.Path));
        Assert.Empty((await UsersAsync(studio, grain)).Today);
        (await studio.Do((TendTree d) => d.MoveBackAsync(studio.Ilse, studio.Project.Id, moved.At))).Expect();
        Assert.Single((await UsersAsync(studio, grain)).Today);
    }

    [Fact]
    public async Task The_health_of_a_project_says_what_is_to_be_mended_and_what_nobody_knows()
    {
        await using var studio = await StudioInUse.OpenAsync();
        await DropAsync(studio, "assets", "used.txt", "used");
        await DropAsync(studio, "assets", "Spelt.txt", "spelt");
        await DropAsync(studio, "assets", "unused.txt", "unused");
        var drawing = new ArrivingContent("scene.svg", new MemoryStream(Svg("used.txt", "none.txt")));
        (await studio.Do((TendFiles d) => d.ReceiveAsync(studio.Ilse, studio.Project.Id, P("assets"), drawing))).Expect();
        var stray = new ArrivingContent("stray.txt", new MemoryStream([1]));
        (await studio.Do((TendFiles d) => d.ReceiveAsync(studio.Ilse, studio.Project.Id, null, stray))).Expect();
        var piece = await studio.PieceAsync();
        await studio.TakeAsync(piece, Svg("../assets/scene.svg", "../assets/spelt.txt", "../../x.png"), "poster.svg");
        await studio.TakeAsync(await studio.PieceAsync("Ticket"), [1, 2, 3], "ticket.gull");
        await studio.SettledAsync();

        var health = await studio.Do((ProjectHealth h) => h.LookAsync(studio.Project));

        Assert.Equal(["none.txt", "../../x.png"], health.Broken.Select(l => l.Record.Written));
        Assert.Equal(["../assets/spelt.txt"], health.Misspelt.Select(l => l.Record.Written));
        Assert.Equal(["assets/unused.txt"], health.Unused.Select(u => u.Path.Text));
        Assert.Equal(["stray.txt"], health.Strays.Select(u => u.Path.Text));
        Assert.Equal((1, 4), (health.Closed, health.ToMend));
        var web = await studio.Do((ProjectWeb w) => w.LoadAsync(studio.Project.Id));
        Assert.Equal(
            [
                ("used.txt", "scene.svg"),
                ("none.txt", "scene.svg"),
                ("scene.svg", piece.CurrentName),
                ("Spelt.txt", piece.CurrentName),
                ("x.png", piece.CurrentName),
            ],
            web.Edges.Select(e => (web.Nodes.Single(n => n.Key == e.From).Name, web.Nodes.Single(n => n.Key == e.To).Name))
                .OrderBy(e => e.Item2 != "scene.svg")
                .ThenBy(e => e.Item1 is "none.txt" or "x.png")
                .ThenBy(e => e.Item1 == "Spelt.txt")
        );
        var around = web.Around([web.Nodes.Single(n => n.Name == "used.txt").Key]);
        Assert.Equal(
            ["TIM_moonpull-poster_key", "scene.svg", "used.txt"],
            web.Nodes.Where(n => around.Contains(n.Key)).Select(n => n.Name).Order(StringComparer.Ordinal)
        );
    }

    [Fact]
    public async Task A_version_is_given_back_with_what_it_saw_and_what_that_refers_to()
    {
        await using var studio = await StudioInUse.OpenAsync();
        await DropAsync(studio, "assets", "grain.txt", "first");
        // Two drawings that place one another, and a file that nobody has.
        foreach (var (name, other) in new[] { ("a.svg", "b.svg"), ("b.svg", "a.svg") })
        {
            var drawing = new ArrivingContent(name, new MemoryStream(Svg(other, "grain.txt", "none.png")));
            (await studio.Do((TendFiles d) => d.ReceiveAsync(studio.Ilse, studio.Project.Id, P("assets"), drawing))).Expect();
        }
        var piece = await studio.PieceAsync();
        await studio.TakeAsync(piece, Svg("../assets/a.svg"), "poster.svg");
        await studio.SettledAsync();
        studio.Time.Advance(TimeSpan.FromHours(1));
        await DropAsync(studio, "assets", "grain.txt", "second");

        async Task<Gathered> GatherAsync(bool asThen) =>
            await studio.Do(
                async (StudioDb db) =>
                    await new GatherFiles(db).OfAsync(await db.Saves.Include(s => s.Files).Include(s => s.Piece).SingleAsync(), asThen)
            );
        var then = await GatherAsync(asThen: true);

        Assert.Equal(
            ["assets/a.svg", "assets/b.svg", "assets/grain.txt", "working/TIM_moonpull-poster_key.svg"],
            then.Files.Select(f => f.Path.Text)
        );
        Assert.Equal(ContentHash.Of("first"u8), then.Files[2].Hash);
        Assert.Equal(["none.png", "none.png"], then.Missing.Select(m => m.Written));
        Assert.Equal(ContentHash.Of("second"u8), (await GatherAsync(asThen: false)).Files[2].Hash);
    }

    [Fact]
    public async Task What_is_brought_back_refers_to_what_it_referred_to_and_goes_with_its_piece_to_another_project()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var grain = await DropAsync(studio, "assets", "grain.txt", "first");
        var piece = await studio.PieceAsync();
        var first = await studio.TakeAsync(piece, Svg("../assets/grain.txt"), "poster.svg");
        await studio.TakeAsync(piece, Svg(), "poster.svg");
        await studio.SettledAsync();
        Assert.Empty((await UsersAsync(studio, grain)).Today);

        (await studio.Do((BringBack d) => d.DoAsync(studio.Ilse, piece.Id, first.Save.Id))).Expect();

        Assert.Equal(piece.Id, Assert.Single((await UsersAsync(studio, grain)).Today).PieceId);
        var other = await studio.ProjectAsync("OTHER");
        (
            await studio.Do(
                (Pieces.RenamePiece d) => d.DoAsync(studio.Ilse, piece.Id, other.Code, StudioInUse.Called("Moonpull poster", "key"))
            )
        ).Expect();
        Assert.Empty((await UsersAsync(studio, grain)).Today);
        var link = Assert.Single(await studio.Do((ProjectLinks l) => l.LoadAsync(other.Id)));
        Assert.Equal((ReferenceState.Missing, "assets/grain.txt"), (link.State, link.Path));
    }

    [Fact]
    public async Task A_file_of_ten_thousand_links_is_looked_into_as_far_as_a_page_goes()
    {
        await using var studio = await StudioInUse.OpenAsync();
        await DropAsync(studio, "assets", "none-7.txt", "here");
        var piece = await studio.PieceAsync();
        await studio.TakeAsync(piece, Svg([.. Enumerable.Range(0, 10_000).Select(i => $"../assets/deep/none-{i}.txt")]), "poster.svg");
        await studio.SettledAsync();

        var links = await studio.Do((ProjectLinks l) => l.LoadAsync(studio.Project.Id));
        var answers = await studio.Do((LikelyReferences l) => l.FindAsync(studio.Project.Id, links));

        Assert.Equal((10_000, 10_000), (links.Count(l => l.State == ReferenceState.Missing), answers.Count));
        Assert.Equal(LikelyReason.SameName, Assert.Single(answers[7].Targets).Reason);
        Assert.Empty(answers[LikelyReferences.Most].Targets);
        // In the web they are one box, and not ten thousand.
        var web = await studio.Do((ProjectWeb w) => w.LoadAsync(studio.Project.Id));
        Assert.Equal(10_000, Assert.Single(web.Nodes, n => n.Kind == NodeKind.Nowhere).Count);
    }

    [Fact]
    public async Task A_link_that_is_meant_letter_by_letter_is_known_after_a_move_too()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var odd = await DropAsync(studio, "assets", "a#b.txt", "odd");
        var piece = await studio.PieceAsync();
        await studio.TakeAsync(piece, Svg("../../assets/a#b.txt"), "poster.svg");
        await studio.SettledAsync();
        Assert.Empty((await UsersAsync(studio, odd)).Today);
        (await studio.Do((TendTree d) => d.MakeFolderAsync(studio.Ilse, studio.Project.Id, P("working/deep")))).Expect();
        var current = await studio.Do(
            (StudioDb db) => db.Entries.SingleAsync(e => e.PieceId == piece.Id && e.Kind == EntryKind.CurrentFile)
        );

        (await studio.Do((TendTree d) => d.MoveAsync(studio.Ilse, current.Id, P($"working/deep/{current.Path.Name}")))).Expect();

        Assert.Single((await UsersAsync(studio, odd)).Today);
    }

    [Fact]
    public async Task Links_follow_a_piece_that_is_renamed_and_whoever_cannot_is_named()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var birds = await studio.PieceAsync("Birds");
        await studio.VersionAsync(birds, Svg(), "birds.svg");
        var leaflet = await studio.PieceAsync("Leaflet");
        await studio.VersionAsync(leaflet, Svg("TIM_birds_key.svg"), "leaflet.svg");
        var text = Encoding.UTF8.GetString(Svg("../working/TIM_birds_key.svg"));
        await DropAsync(studio, "assets", "plate.svg", text);
        await DropAsync(studio, "originals", "sheet.svg", text);
        await studio.SettledAsync();
        var called = StudioInUse.Called("Gulls", "key");
        var outcome = (
            await studio.Do(
                async (MoveAndRelink d) =>
                    await d.RenameAsync(
                        studio.Ilse,
                        birds.Id,
                        () => studio.Do((RenamePiece r) => r.DoAsync(studio.Ilse, birds.Id, "TIDES", called))
                    )
            )
        ).Expect();
        Assert.Equal("TIM_gulls_key", outcome.Piece.CurrentName);
        Assert.Equal(["TIM_leaflet_key", "plate.svg"], outcome.Relinked.Order(StringComparer.Ordinal));
        Assert.Equal(["sheet.svg"], outcome.NotRelinked);
        await studio.SettledAsync();
        var saves = await studio.SavesAsync(leaflet);
        Assert.Equal(
            ("TIM_gulls_key.svg", ReferenceState.Found),
            (await ShownAsync(studio, leaflet, saves[^1].Id)).Select(r => (r.Written, r.Now)).Single()
        );
        Assert.Equal("TIM_birds_key.svg", (await ShownAsync(studio, leaflet, saves[0].Id)).Single().Written);
        var users = await studio.Do(
            async (StudioDb db) => await db.Entries.SingleAsync(e => e.PieceId == birds.Id && e.Kind == EntryKind.CurrentFile)
        );
        Assert.Equal(["TIM_leaflet_key", null], (await UsersAsync(studio, users)).Today.Select(u => u.Piece));
        // An asset keeps what it held before.
        Assert.Equal(2, await studio.Do((StudioDb db) => db.FileContents.CountAsync(c => c.ReceivedName == "plate.svg")));
    }

    [Fact]
    public async Task Two_versions_are_compared_with_what_they_saw()
    {
        await using var studio = await StudioInUse.OpenAsync();
        await DropAsync(studio, "assets", "a.txt", "first");
        await DropAsync(studio, "assets", "b.txt", "stays");
        var piece = await studio.PieceAsync();
        await studio.VersionAsync(piece, Svg("../assets/a.txt", "../assets/b.txt", "../assets/gone.txt"), "a.svg");
        await DropAsync(studio, "assets", "a.txt", "second");
        await DropAsync(studio, "assets", "gone.txt", "came");
        await studio.VersionAsync(piece, Svg("../assets/a.txt", "../assets/b.txt", "../assets/gone.txt", "../assets/new.txt"), "a.svg");
        await studio.SettledAsync();
        var saves = await studio.SavesAsync(piece);
        var changes = await studio.Do((StudioDb db) => SeenChanges.BetweenAsync(db, saves[0].Id, saves[1].Id));
        Assert.Equal(
            [
                ("assets/a.txt", PartChangeKind.Changed),
                ("assets/gone.txt", PartChangeKind.Changed),
                ("assets/new.txt", PartChangeKind.Added),
                ("assets/b.txt", PartChangeKind.Same),
            ],
            changes.Select(c => (c.Name, c.Kind))
        );
        Assert.Equal((1, 2), changes[0].Contents);
        // It was not found, and now is.
        Assert.Null(changes[1].Before);
    }

    [Fact]
    public async Task Texts_are_read_by_the_studios_patterns_also_those_that_were_kept_before_there_were_any()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var grain = await DropAsync(studio, "assets", "grain.txt", "first");
        var piece = await studio.PieceAsync();
        await studio.TakeAsync(piece, Encoding.UTF8.GetBytes("texture = \"../assets/grain.txt\"\nload ../assets/lost.wav\n"), "pier.scene");
        await studio.KeepAsync(piece);
        await studio.SettledAsync();
        var version = (await studio.SavesAsync(piece))[0];
        Assert.Equal(1, await studio.Do((WhoUses w) => w.ClosedAsync(studio.Project.Id)));
        studio.Time.Advance(TimeSpan.FromHours(1));
        await studio.Do(
            (TendFiles d) =>
                d.ReceiveAsync(
                    studio.Ilse,
                    studio.Project.Id,
                    P("assets"),
                    new ArrivingContent("grain.txt", new MemoryStream("second"u8.ToArray()))
                )
        );

        Task<Deeds.Outcome<SetPatterns>> Set(params (string Ending, string Line)[] patterns) =>
            studio.Do((ReferencePatterns d) => d.SetAsync(studio.Ilse, [.. patterns.Select(p => new ReferencePattern(p.Ending, p.Line))]));
        Assert.IsType<Deeds.Refusal.PatternNotLegal>((await Set(("scene", "texture"))).Refusal);
        var set = (await Set(("Scene", " texture = \"{file}\" "), (".scene", "{file}"))).Expect();
        Assert.Equal([new(".scene", "texture = \"{file}\""), new(".scene", "{file}")], set.Patterns);
        await studio.SettledAsync();
        // One of the two took whole lines for paths; what it found is gone again with it.
        Assert.Equal(3, (await ShownAsync(studio, piece, version.Id)).Count);
        Assert.True((await Set((".scene", "texture = \"{file}\""), (".scene", "load {file}"))).Expect().Texts > 0);
        await studio.SettledAsync();

        var shown = await ShownAsync(studio, piece, version.Id);
        Assert.Equal(
            [("../assets/grain.txt", ReferenceState.Found), ("../assets/lost.wav", ReferenceState.Missing)],
            shown.Select(s => (s.Written, s.Then)).Order()
        );
        // What 001 saw is what stood there when it was kept.
        var seen = await studio.Do((StudioDb db) => db.Links.SingleAsync(l => l.SaveId == version.Id && l.SeenHash != null));
        Assert.Equal(ContentHash.Of("first"u8), seen.SeenHash);
        Assert.Equal(0, await studio.Do((WhoUses w) => w.ClosedAsync(studio.Project.Id)));

        var mended = (
            await studio.Do((Relink d) => d.DoAsync(studio.Ilse, piece.Id, [new NewTarget("../assets/lost.wav", grain.Id)]))
        ).Expect();
        await studio.SettledAsync();
        Assert.Equal(
            "texture = \"../assets/grain.txt\"\nload ../assets/grain.txt\n",
            await studio.Do(
                async (IContentStore store) =>
                {
                    using var reader = new StreamReader(store.OpenRead(mended.Save.MainHash));
                    return await reader.ReadToEndAsync();
                }
            )
        );
        // The same text under another ending refers to nothing that anybody knows of.
        var other = await studio.PieceAsync("Other");
        await studio.TakeAsync(other, Encoding.UTF8.GetBytes("texture = \"../assets/grain.txt\"\nload ../assets/lost.wav\n"), "pier.other");
        await studio.SettledAsync();
        Assert.Empty(await ShownAsync(studio, other, (await studio.SavesAsync(other))[0].Id));
    }
}
