using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Core.Structure;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Lines;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Projects;
using Chronotype.Studio.References;
using Chronotype.Studio.Saves;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Tests;

/// <summary>A whole project set aside as a copy.</summary>
public class CopyTests
{
    private static byte[] Picture(byte red) =>
        Samples.OpenRaster(30, 20, new Samples.OraLayer("Beginning", 30, 20, Red: red), new Samples.OraLayer("More", 3, 2));

    [Fact]
    public async Task A_copy_has_all_of_it_holds_nothing_twice_and_goes_its_own_way()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.BegunAsync();
        await studio.VersionAsync(piece, Picture(9));
        (await studio.Do((MarkMilestone d) => d.DoAsync(studio.Ilse, piece.Id, new VersionNumber(2), "a client saw it"))).Expect();
        var first = (await studio.SavesAsync(piece)).Single(s => s.Number == 1);
        (await studio.Do((LeaveLine d) => d.DoAsync(studio.Ilse, piece.Id, first.Id, "dusk", goesOn: true))).Expect();
        await studio.VersionAsync(piece, Picture(10));
        await studio.Do(
            (TendFiles d) =>
                d.ReceiveAsync(
                    studio.Ilse,
                    studio.Project.Id,
                    ProjectPath.Parse("assets"),
                    new ArrivingContent("sea.png", new MemoryStream(Samples.Png(6, 4)))
                )
        );
        var sheet = await studio.PieceAsync("Leaflet");
        await studio.VersionAsync(sheet, Samples.Svg("""<image href="../assets/sea.png" width="9" height="9"/>"""), "leaflet.svg");
        await studio.SettledAsync();
        var stored = await studio.Do((ContentStore store) => Task.FromResult(store.Maintenance.Contents().Count()));

        var copy = (
            await studio.Do((CopyProject d) => d.DoAsync(studio.Odo, studio.Project.Id, "tides-2", "Tides, by night", goesOn: true))
        ).Expect();
        Assert.Equal(("TIDES-2", null), (copy.Code, copy.PutAwayAt));
        Assert.Equal(stored, await studio.Do((ContentStore store) => Task.FromResult(store.Maintenance.Contents().Count())));
        Task<List<string>> Told(Guid project) =>
            studio.Do(
                async (StudioDb db) =>
                    (
                        await db
                            .Saves.Where(s => s.Piece.ProjectId == project)
                            .OrderBy(s => s.Piece.CurrentName)
                            .ThenBy(s => s.Sequence)
                            .Select(s => new
                            {
                                s.Piece.CurrentName,
                                s.Line.Name,
                                s.Number,
                                s.ExactName,
                                s.MainHash,
                                s.IsCurrent,
                                Reason = s.Milestone!.Reason,
                                s.KeptAt,
                            })
                            .ToListAsync()
                    ).ConvertAll(s => s.ToString()!)
            );
        Assert.Equal(await Told(studio.Project.Id), await Told(copy.Id));
        Task<List<string>> Tree(Guid project) =>
            studio.Do(
                async (StudioDb db) =>
                    (
                        await db
                            .Entries.Where(e => e.ProjectId == project && e.DeletedAt == null)
                            .OrderBy(e => e.PathKey)
                            .Select(e => new
                            {
                                e.Path,
                                e.Kind,
                                e.Role,
                            })
                            .ToListAsync()
                    ).ConvertAll(e => e.ToString()!)
            );
        Assert.Equal(await Tree(studio.Project.Id), await Tree(copy.Id));
        // Its links lead to its own files.
        var link = await studio.Do((StudioDb db) => db.Links.FirstAsync(l => l.ProjectId == copy.Id && l.SeenEntryId != null));
        Assert.Equal(
            copy.Id,
            await studio.Do((StudioDb db) => db.Entries.Where(e => e.Id == link.SeenEntryId).Select(e => e.ProjectId).SingleAsync())
        );

        // What is saved in one is not in the other.
        var twin = await studio.Do(
            (StudioDb db) => db.Pieces.Include(p => p.Lines).SingleAsync(p => p.ProjectId == copy.Id && p.CurrentName == piece.CurrentName)
        );
        Assert.Equal("dusk", twin.Line.Name);
        Assert.Equal(2, (await studio.VersionAsync(twin, Picture(40))).Number.Value);
        Assert.Equal(1, (await studio.SavesAsync(piece)).Where(s => s.LineId != first.LineId).Max(s => s.Number));

        // A copy that is only set aside is put away; a code that is taken is refused, and nothing stands of it.
        var aside = (await studio.Do((CopyProject d) => d.DoAsync(studio.Ilse, copy.Id, "T3", "Aside", goesOn: false))).Expect();
        Assert.NotNull(aside.PutAwayAt);
        Assert.IsType<Refusal.ProjectCodeTaken>(
            (await studio.Do((CopyProject d) => d.DoAsync(studio.Ilse, copy.Id, "Tides", "Again", goesOn: true))).Refusal
        );
        Assert.Equal(3, await studio.Do((StudioDb db) => db.Projects.CountAsync()));
    }
}
