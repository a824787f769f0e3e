using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Grace;
using Chronotype.Studio.Jobs;
using Chronotype.Studio.Lines;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Projects;
using Chronotype.Studio.Saves;
using Chronotype.Studio.Share;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Tests;

/// <summary>Alts: a line is left, or a copy is set aside; each has its own numbers, and the current file is that of the line one works on.</summary>
public class LineTests
{
    private static byte[] Picture(byte red) =>
        Samples.OpenRaster(30, 20, new Samples.OraLayer("Beginning", 30, 20, Red: red), new Samples.OraLayer("More", 3, 2));

    private static async Task<(StudioInUse Studio, Piece Piece, Save Second)> OpenAsync()
    {
        var studio = await StudioInUse.OpenAsync();
        var piece = await studio.BegunAsync();
        await studio.VersionAsync(piece, Picture(9));
        await studio.VersionAsync(piece, Picture(10));
        return (studio, piece, (await studio.SavesAsync(piece)).Single(s => s.Number == 2));
    }

    private static async Task<BegunAlt> LeaveAsync(StudioInUse studio, Piece piece, Guid save, string name, bool goesOn = true) =>
        (await studio.Do((LeaveLine d) => d.DoAsync(studio.Ilse, piece.Id, save, name, goesOn))).Expect();

    private static Task<Save> CurrentAsync(StudioInUse studio, Piece piece) =>
        studio.Do((StudioDb db) => db.Saves.AsNoTracking().Include(s => s.Line).SingleAsync(s => s.PieceId == piece.Id && s.IsCurrent));

    private static async Task<string> OnShareAsync(StudioInUse studio, Piece piece)
    {
        var entry = await studio.Do((StudioDb db) => db.Entries.SingleAsync(e => e.PieceId == piece.Id && e.Kind == EntryKind.CurrentFile));
        var node = await studio.Do((StudioDb db) => new ShareTree(db, entry.ProjectId).FindAsync(entry.Path));
        return node!.Hash!.Value.ToString();
    }

    [Fact]
    public async Task Work_goes_on_on_an_alt_with_numbers_of_its_own_and_the_line_that_it_left_stays()
    {
        var (studio, piece, second) = await OpenAsync();
        await using var _ = studio;
        var begun = await LeaveAsync(studio, piece, second.Id, " Day Break ");
        Assert.Equal(("day-break", 2), (begun.Alt.Name, begun.Alt.LeftAt));
        // The current file is the version again, in the records and on the share.
        Assert.Equal(second.Identity, (await CurrentAsync(studio, piece)).Identity);
        Assert.Equal(second.MainHash.ToString(), await OnShareAsync(studio, piece));
        // Nothing of it is at risk, as a version holds it.
        Assert.False(await studio.Do((StudioDb db) => db.Pieces.AtRisk().AnyAsync()));

        var first = await studio.VersionAsync(piece, Picture(20));
        Assert.Equal(1, first.Number.Value);
        Assert.EndsWith("_IK_001_day-break.ora", first.ExactName);
        Assert.Equal(2, (await studio.VersionAsync(piece, Picture(21))).Number.Value);

        var main = await studio.Do((StudioDb db) => db.Lines.SingleAsync(l => l.PieceId == piece.Id && l.Name == ""));
        (await studio.Do((TendAlts d) => d.GoOnAsync(studio.Ilse, piece.Id, main.Id))).Expect();
        Assert.Equal(3, (await CurrentAsync(studio, piece)).Number);
        Assert.Equal(4, (await studio.VersionAsync(piece, Picture(30))).Number.Value);
        // Back there it goes on where it was.
        (await studio.Do((TendAlts d) => d.GoOnAsync(studio.Ilse, piece.Id, begun.Alt.Id))).Expect();
        Assert.Equal((2, "day-break"), ((await CurrentAsync(studio, piece)).Number, (await CurrentAsync(studio, piece)).Line.Name));
        Assert.Equal(3, (await studio.VersionAsync(piece, Picture(22))).Number.Value);
    }

    [Fact]
    public async Task An_alt_whose_saves_are_all_discarded_holds_nothing_until_something_comes_or_is_brought_back()
    {
        var (studio, piece, second) = await OpenAsync();
        await using var _ = studio;
        var begun = await LeaveAsync(studio, piece, second.Id, "daybreak");
        (await studio.Do((Remove d) => d.SaveAsync(studio.Ilse, piece.Id, begun.First.Id))).Expect();
        Assert.False(await studio.Do((StudioDb db) => db.Saves.AnyAsync(s => s.PieceId == piece.Id && s.IsCurrent)));
        Assert.IsType<KeepResult.Nothing>(await studio.KeepAsync(piece));

        (await studio.Do((BringBack d) => d.DoAsync(studio.Ilse, piece.Id, second.Id))).Expect();
        Assert.Equal(
            (second.Identity, "daybreak"),
            ((await CurrentAsync(studio, piece)).Identity, (await CurrentAsync(studio, piece)).Line.Name)
        );
    }

    [Fact]
    public async Task A_copy_that_is_set_aside_changes_nothing_where_one_works()
    {
        var (studio, piece, second) = await OpenAsync();
        await using var _ = studio;
        var begun = await LeaveAsync(studio, piece, second.Id, "aside", goesOn: false);
        Assert.Equal(3, (await CurrentAsync(studio, piece)).Number);
        Assert.Equal(4, (await studio.VersionAsync(piece, Picture(40))).Number.Value);
        var aside = await studio.Do((StudioDb db) => db.Saves.Where(s => s.LineId == begun.Alt.Id).ToListAsync());
        Assert.Equal(second.Identity, Assert.Single(aside).Identity);
        // A save may be of a line on which nobody works.
        var received = (
            await studio.Do(
                (ReceiveSave d) =>
                    d.DoAsync(
                        studio.Odo,
                        new SaveTarget.OfPiece(piece.Id, begun.Alt.Id),
                        new ArrivingContent("aside.ora", new MemoryStream(Picture(41)))
                    )
            )
        ).Expect();
        Assert.Equal((begun.Alt.Id, 1), (received.Save.LineId, received.Next.Value));
        Assert.Equal(4, (await CurrentAsync(studio, piece)).Number);
    }

    [Fact]
    public async Task An_alt_comes_home_as_the_next_version_of_the_main_line()
    {
        var (studio, piece, second) = await OpenAsync();
        await using var _ = studio;
        var begun = await LeaveAsync(studio, piece, second.Id, "daybreak");
        await studio.VersionAsync(piece, Picture(50));
        var newest = await studio.TakeAsync(piece, Picture(51));
        await studio.SettledAsync();
        var home = (await studio.Do((TendAlts d) => d.BringHomeAsync(studio.Ilse, piece.Id, begun.Alt.Id))).Expect();
        Assert.Equal(4, Assert.IsType<KeepResult.Kept>(home.Kept).Number.Value);
        var current = await CurrentAsync(studio, piece);
        Assert.Equal((4, "", newest.Save.Identity), (current.Number, current.Line.Name, current.Identity));
        Assert.Equal("From alt daybreak", current.Note);
        Assert.IsType<Refusal.MainHoldsIt>(
            (await studio.Do((TendAlts d) => d.BringHomeAsync(studio.Ilse, piece.Id, begun.Alt.Id))).Refusal
        );
    }

    [Fact]
    public async Task A_dropped_alt_is_nowhere_comes_back_as_it_was_and_ends_with_its_grace_period()
    {
        var (studio, piece, second) = await OpenAsync();
        await using var _ = studio;
        var begun = await LeaveAsync(studio, piece, second.Id, "daybreak");
        await studio.VersionAsync(piece, Picture(60));
        Task<Outcome<Line>> Drop() => studio.Do((TendAlts d) => d.DropAsync(studio.Ilse, piece.Id, begun.Alt.Id));
        Assert.IsType<Refusal.AltIsCurrent>((await Drop()).Refusal);
        var main = await studio.Do((StudioDb db) => db.Lines.SingleAsync(l => l.PieceId == piece.Id && l.Name == ""));
        (await studio.Do((TendAlts d) => d.GoOnAsync(studio.Ilse, piece.Id, main.Id))).Expect();
        var paths = await studio.PathsAsync(EntryKind.Version);
        Assert.Contains(paths, p => p.Contains("daybreak", StringComparison.Ordinal));

        (await Drop()).Expect();
        Assert.DoesNotContain(await studio.PathsAsync(EntryKind.Version), p => p.Contains("daybreak", StringComparison.Ordinal));
        Assert.DoesNotContain(await studio.SavesAsync(piece), s => s.LineId == begun.Alt.Id);
        Assert.True(
            Assert
                .IsType<Refusal.AltNameTaken>(
                    (await studio.Do((LeaveLine d) => d.DoAsync(studio.Ilse, piece.Id, second.Id, "DAYBREAK", true))).Refusal
                )
                .IsDropped
        );
        (await studio.Do((TendAlts d) => d.TakeBackAsync(studio.Odo, begun.Alt.Id))).Expect();
        Assert.Equal(paths, await studio.PathsAsync(EntryKind.Version));
        Assert.Equal([null, 1], (await studio.SavesAsync(piece)).Where(s => s.LineId == begun.Alt.Id).Select(s => s.Number));

        (await Drop()).Expect();
        studio.Time.Advance(GracePeriod.Length + TimeSpan.FromDays(1));
        await studio.Do((JobQueue q) => q.AddAsync([JobRequest.Store(JobKind.EndGrace)]));
        await studio.SettledAsync();
        Assert.False(await studio.Do((StudioDb db) => db.Saves.IgnoreQueryFilters().AnyAsync(s => s.LineId == begun.Alt.Id)));
        Assert.Equal([1, 2, 3], (await studio.SavesAsync(piece)).Select(s => s.Number));
        // Its name stood in names that may be anywhere, and is not given again.
        Assert.False(
            Assert
                .IsType<Refusal.AltNameTaken>(
                    (await studio.Do((LeaveLine d) => d.DoAsync(studio.Ilse, piece.Id, second.Id, "daybreak", true))).Refusal
                )
                .IsDropped
        );
    }

    [Fact]
    public async Task What_is_needed_is_not_dropped_and_what_is_no_version_is_not_left_at()
    {
        var (studio, piece, second) = await OpenAsync();
        await using var _ = studio;
        var begun = await LeaveAsync(studio, piece, second.Id, "daybreak");
        await studio.VersionAsync(piece, Picture(70));
        var kept = (await studio.SavesAsync(piece)).Single(s => s.LineId == begun.Alt.Id && s.Number == 1);
        (await studio.Do((MarkMilestone d) => d.DoAsync(studio.Ilse, piece.Id, new VersionNumber(1), "a client saw it"))).Expect();
        await LeaveAsync(studio, piece, kept.Id, "dusk");
        Assert.Equal(
            AltHolds.Milestone,
            Assert
                .IsType<Refusal.AltIsNeeded>((await studio.Do((TendAlts d) => d.DropAsync(studio.Ilse, piece.Id, begun.Alt.Id))).Refusal)
                .For
        );
        var loose = await studio.TakeAsync(piece, Picture(71));
        Assert.IsType<Refusal.LeavesAtVersion>(
            (await studio.Do((LeaveLine d) => d.DoAsync(studio.Ilse, piece.Id, loose.Save.Id, "night", true))).Refusal
        );
        Assert.IsType<Refusal.AltNameNotLegal>(
            (await studio.Do((LeaveLine d) => d.DoAsync(studio.Ilse, piece.Id, second.Id, " / … ", true))).Refusal
        );
    }

    [Fact]
    public async Task What_is_marked_is_of_the_line_that_was_looked_at_whatever_line_work_goes_on_by_then()
    {
        var (studio, piece, second) = await OpenAsync();
        await using var _ = studio;
        var begun = await LeaveAsync(studio, piece, second.Id, "dusk");
        await studio.VersionAsync(piece, Picture(95));
        // Somebody had the main line open when work went on elsewhere.
        var marked = (
            await studio.Do(
                (MarkMilestone d) => d.DoAsync(studio.Odo, piece.Id, new VersionNumber(1), "as it began", lineId: second.LineId)
            )
        ).Expect();
        Assert.Equal(1, (await studio.SavesAsync(piece)).Single(s => s.Id == marked.Milestone.SaveId && s.LineId == second.LineId).Number);
        (await studio.Do((MarkMaster d) => d.DoAsync(studio.Odo, piece.Id, new VersionNumber(1), lineId: begun.Alt.Id))).Expect();
        Assert.Equal(
            begun.Alt.Id,
            await studio.Do((StudioDb db) => db.Saves.Where(s => s.Master != null).Select(s => s.LineId).SingleAsync())
        );
    }

    [Fact]
    public async Task Names_of_an_alt_follow_a_piece_and_a_project_that_are_renamed()
    {
        var (studio, piece, second) = await OpenAsync();
        await using var _ = studio;
        var begun = await LeaveAsync(studio, piece, second.Id, "dusk");
        (await studio.Do((AltFiles d) => d.HaveAsync(studio.Ilse, piece.Id, begun.Alt.Id, stands: true))).Expect();
        await studio.VersionAsync(piece, Picture(90));
        (await studio.Do((RenamePiece d) => d.DoAsync(studio.Ilse, piece.Id, "TIDES", StudioInUse.Called("Low tide", "key")))).Expect();
        Assert.Contains(
            await studio.PathsAsync(EntryKind.Version),
            p => p.EndsWith("TIM_low-tide_key_IK_001_dusk.ora", StringComparison.Ordinal)
        );
        Assert.Contains(
            await studio.PathsAsync(EntryKind.AltFile),
            p => p.EndsWith("/TIM_low-tide_key_dusk.ora", StringComparison.Ordinal)
        );
        (
            await studio.Do(
                (RenameProject d) => d.DoAsync(studio.Ilse, studio.Project.Id, new ProjectChange("TIDES", "Tides", "MUS", "Another museum"))
            )
        ).Expect();
        var names = (await studio.SavesAsync(piece)).Where(s => s.Number is not null).Select(s => s.ExactName).ToList();
        Assert.Equal(4, names.Distinct().Count());
        Assert.Contains("MUS_low-tide_key_IK_001_dusk.ora", names);
        Assert.Contains("MUS_low-tide_key_IK_001.ora", names);
    }

    [Fact]
    public async Task A_damaged_save_leaves_the_last_sound_one_in_the_current_file()
    {
        var (studio, piece, _) = await OpenAsync();
        await using var _s = studio;
        var sound = await studio.TakeAsync(piece, Picture(80));
        await studio.SettledAsync();
        await studio.TakeAsync(piece, Picture(81)[..^40]);
        await studio.SettledAsync();
        Assert.Equal(sound.Save.Id, (await CurrentAsync(studio, piece)).Id);
        Assert.Equal(sound.Save.MainHash.ToString(), await OnShareAsync(studio, piece));
        // Discarding the sound one leaves the version before it, and the damaged one is still there.
        (await studio.Do((Remove d) => d.SaveAsync(studio.Ilse, piece.Id, sound.Save.Id))).Expect();
        Assert.Equal(3, (await CurrentAsync(studio, piece)).Number);
        (await studio.Do((Remove d) => d.TakeBackSaveAsync(studio.Ilse, sound.Save.Id))).Expect();
        Assert.Equal(sound.Save.Id, (await CurrentAsync(studio, piece)).Id);
    }
}
