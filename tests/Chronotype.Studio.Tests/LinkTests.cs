using Chronotype.Core.Content;
using Chronotype.Core.References;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Grace;
using Chronotype.Studio.Jobs;
using Chronotype.Studio.Maintenance;
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
}
