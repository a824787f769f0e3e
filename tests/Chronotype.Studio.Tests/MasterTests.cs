using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Structure;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Conventions;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Formats;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Saves;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Tests;

/// <summary>Masters: the finished natives, and what formats are for.</summary>
public class MasterTests
{
    private static byte[] Layered(byte red) =>
        Samples.OpenRaster(30, 20, new Samples.OraLayer("Sky", 30, 20, Red: red), new Samples.OraLayer("Moon", 3, 2));

    private static Task<Outcome<Master>> MarkAsync(StudioInUse studio, Piece piece, int number) =>
        studio.Do((MarkMaster d) => d.DoAsync(studio.Odo, piece.Id, new VersionNumber(number)));

    [Fact]
    public async Task A_version_is_a_master_under_a_name_of_its_own_and_the_old_one_stays_when_the_piece_is_opened_again()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync("Moonpull poster");
        await studio.VersionAsync(piece, Layered(9));
        await studio.SettledAsync();
        var master = (await MarkAsync(studio, piece, 1)).Expect();
        var day = studio.Time.GetUtcNow().ToString("yyyyMMdd");
        Assert.Equal($"TIM_moonpull-poster_key_MASTER_{day}.ora", master.ExactName);
        Assert.Equal([$"working/masters/{master.ExactName}"], await studio.PathsAsync(EntryKind.MasterCopy));
        Assert.IsType<Refusal.MasterAlready>((await MarkAsync(studio, piece, 1)).Refusal);
        Assert.IsType<Refusal.NoSuchVersion>((await MarkAsync(studio, piece, 7)).Refusal);

        studio.Time.Advance(TimeSpan.FromDays(3));
        await studio.VersionAsync(piece, Layered(90));
        await studio.SettledAsync();
        var again = (await MarkAsync(studio, piece, 2)).Expect();
        Assert.NotEqual(master.ExactName, again.ExactName);
        Assert.Equal(2, (await studio.PathsAsync(EntryKind.MasterCopy)).Count);

        // A piece that is called otherwise calls its masters otherwise, and they keep their days.
        (
            await studio.Do(
                (RenamePiece d) => d.DoAsync(studio.Ilse, piece.Id, studio.Project.Code, StudioInUse.Called("Tide poster", "key"))
            )
        ).Expect();
        Assert.Contains($"working/masters/TIM_tide-poster_key_MASTER_{day}.ora", await studio.PathsAsync(EntryKind.MasterCopy));

        (await studio.Do((MarkMaster d) => d.TakeOffAsync(studio.Odo, piece.Id, again.SaveId))).Expect();
        Assert.Single(await studio.PathsAsync(EntryKind.MasterCopy));
        Assert.Single(await studio.Do((StudioDb db) => db.Masters.ToListAsync()));
    }

    [Fact]
    public async Task A_flat_one_is_refused_with_the_reason()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync("Moonpull poster");
        await studio.VersionAsync(piece, Layered(9));
        await studio.VersionAsync(piece, Samples.OpenRaster(30, 20, new Samples.OraLayer("All", 30, 20, Red: 9)), insist: true);
        await studio.SettledAsync();
        Assert.Equal(
            new Refusal.NoMaster(new VersionNumber(2), MasterFault.LayersGone, new VersionNumber(1), 2),
            (await MarkAsync(studio, piece, 2)).Refusal
        );

        var closed = await studio.PieceAsync("Ticket");
        await studio.TakeAsync(closed, [1, 2, 3, 4, 5], "ticket.gull");
        await studio.KeepAsync(closed);
        await studio.SettledAsync();
        // The studio says of its own programs' formats which are for copies.
        var note = new FormatNote("GULL", "Gull export", false, false, false, false) { OpenedBy = "the desk by the window" };
        Assert.IsType<Refusal.NotAllowed>((await studio.Do((StudioFormats d) => d.SayAsync(studio.Odo, note))).Refusal);
        Assert.Equal(".gull", (await studio.Do((StudioFormats d) => d.SayAsync(studio.Ilse, note))).Expect().Ending);
        Assert.Equal(new Refusal.NoMaster(new VersionNumber(1), MasterFault.CopyFormat), (await MarkAsync(studio, closed, 1)).Refusal);
        Assert.IsType<Refusal.EndingNotLegal>(
            (await studio.Do((StudioFormats d) => d.SayAsync(studio.Ilse, note with { Ending = "g/x" }))).Refusal
        );
        (await studio.Do((StudioFormats d) => d.ForgetAsync(studio.Ilse, ".gull"))).Expect();
        (await MarkAsync(studio, closed, 1)).Expect();
        var used = await studio.Do((StudioDb db) => StudioFormats.InUseAsync(db));
        Assert.Contains(new FormatInUse(".gull", FileFormat.Other, 1), used);
        Assert.Contains(new FormatInUse(".ora", FileFormat.OpenRaster, 2), used);
    }

    [Fact]
    public async Task A_master_is_named_by_its_form_and_its_folder_says_the_same_where_the_convention_names_folders()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var usual = Convention.ForPlans();
        string[] own = ["client", "subject", "function", "hand", "version"];
        var convention = new Convention(
            [.. usual.Slots, new Slot("state", new StateRule("FINAL")), new Slot("date", new DateRule("yyyy-MM-dd"))],
            new Dictionary<NameForm, IReadOnlyList<string>>(usual.Labels)
            {
                [NameForm.Master] = [.. own, "state", "date"],
                [NameForm.Folder] = [.. own, "state", "date"],
            }
        );
        (await studio.Do((SetConvention d) => d.DoAsync(studio.Ilse, convention))).Expect();
        await studio.Do(
            async (StudioDb db) =>
                await db.Projects.ExecuteUpdateAsync(u => u.SetProperty(p => p.Convention, ConventionStore.Write(convention)))
        );
        var piece = await studio.PieceAsync("Moonpull poster");
        await studio.VersionAsync(piece, Layered(9));
        await studio.SettledAsync();
        var master = (await MarkAsync(studio, piece, 1)).Expect();
        var day = studio.Time.GetUtcNow().ToString("yyyy-MM-dd");
        Assert.Equal($"TIM_moonpull-poster_key_IK_001_FINAL_{day}.ora", master.ExactName);
        Assert.Equal(
            [$"working/masters/TIM_moonpull-poster_key_IK_001_FINAL_{day}/{master.ExactName}"],
            await studio.PathsAsync(EntryKind.MasterCopy)
        );
        var folder = await studio.Do(
            (StudioDb db) =>
                db.Entries.SingleAsync(e =>
                    e.Kind == EntryKind.Folder
                    && e.Role == FolderRole.Masters
                    && e.Order == 0
                    && e.Path != ProjectPath.Parse("working/masters")
                )
        );
        Assert.Equal($"working/masters/TIM_moonpull-poster_key_IK_001_FINAL_{day}", folder.Path.Text);
    }
}
