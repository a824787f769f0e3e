using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Web.Pages.Shared;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Projects;

/// <summary>The ways in which a project is looked at.</summary>
public enum ProjectView
{
    Pieces,
    Tree,
    Web,
}

/// <summary>What stands at the head of each of a project's pages.</summary>
/// <param name="Record">With its client.</param>
/// <param name="View">Null on a page that is none of the ways.</param>
/// <param name="Files">How many files its tree has.</param>
/// <param name="Size">Bytes of all its saves and files, those before among them; null where there are too many to add up at once.</param>
public sealed record ProjectHead(Project Record, ProjectView? View, int Files, long? Size)
{
    public string AddressOf(ProjectView view) =>
        view switch
        {
            ProjectView.Tree => Places.OfTree(Record.Code),
            ProjectView.Web => Places.OfWeb(Record.Code),
            _ => Places.Of(Record),
        };

    // Adding up more takes longer than a page may; the Storage page does it in its own time.
    private const int MostAdded = 5000;

    public static async Task<ProjectHead> LoadAsync(StudioDb db, Project record, ProjectView? view, CancellationToken cancel)
    {
        var there = db.Entries.Where(e => e.ProjectId == record.Id && e.DeletedAt == null && e.Kind != EntryKind.Folder);
        var files = await there.CountAsync(cancel);
        if (files > MostAdded)
            return new ProjectHead(record, view, files, null);
        var size =
            await db.Saves.Where(s => s.Piece.ProjectId == record.Id).SumAsync(s => s.Size, cancel)
            + await there.Join(db.FileContents, e => e.Id, c => c.EntryId, (e, c) => c.Size).SumAsync(cancel);
        return new ProjectHead(record, view, files, size);
    }
}
