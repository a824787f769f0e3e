using Chronotype.Core.Content;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Grace;
using Chronotype.Studio.References;
using Chronotype.Studio.Tree;
using Chronotype.Web.Pages.Shared;
using Chronotype.Web.Security;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Tree;

/// <content>The deeds that change what stands in the tree.</content>
public sealed partial class TreeModel
{
    public Task<IActionResult> OnPostFolderAsync(string project, string? folder, string? name, CancellationToken cancel) =>
        DoAsync(
            project,
            async record =>
            {
                if (In(await FolderAsync(folder, cancel), name) is not { } path)
                    return (Notice.About(NotAName(name)), folder);
                var made = await tendTree.MakeFolderAsync(User.Actor(), record.Id, path, cancel);
                return made.Done
                    ? (
                        Notice.Done($"{path}/ is there now. What goes in it is {PlanRow.RoleNameOf(made.Result.Role)}, as around it."),
                        path.Text
                    )
                    : (Notice.About(made.Refusal), folder);
            },
            cancel
        );

    public Task<IActionResult> OnPostRenameAsync(
        string project,
        string? folder,
        Guid id,
        string? name,
        bool links,
        CancellationToken cancel
    ) =>
        DoAsync(
            project,
            async record =>
            {
                var old = await db
                    .Entries.Where(e => e.Id == id && e.ProjectId == record.Id)
                    .Select(e => e.Path)
                    .FirstOrDefaultAsync(cancel);
                if (old is null)
                    return (Notice.About(new Refusal.NoSuchEntry()), folder);
                if (In(old.Folder, name) is not { } path)
                    return (Notice.About(NotAName(name)), folder);
                var outcome = await MoveAsync([(id, path)], links, cancel);
                return outcome.Done
                    ? (Moved(record, $"{old.Name} is called {path.Name} now.", outcome.Result), Renamed(folder, old, path))
                    : (Notice.About(outcome.Refusal), folder);
            },
            cancel
        );

    public Task<IActionResult> OnPostMoveAsync(
        string project,
        string? folder,
        Guid[] ids,
        string? to,
        bool links,
        CancellationToken cancel
    ) =>
        DoAsync(
            project,
            async record =>
            {
                var paths = await db
                    .Entries.Where(e => ids.Contains(e.Id) && e.ProjectId == record.Id)
                    .Select(e => new { e.Id, e.Path })
                    .ToListAsync(cancel);
                var target = string.IsNullOrEmpty(to) ? null : await FolderAsync(to, cancel);
                if (!string.IsNullOrEmpty(to) && target is null)
                    return (Notice.About(new Refusal.NoSuchEntry()), folder);
                var moves = new List<(Guid, ProjectPath)>();
                foreach (var path in paths)
                {
                    // Whatever it is called, it keeps its name.
                    if (!ProjectPath.TryParse(target is null ? path.Path.Name : $"{target}/{path.Path.Name}", out var there, out _))
                        return (Notice.About(new Refusal.PathTooLong(path.Path)), folder);
                    moves.Add((path.Id, there));
                }
                var outcome = await MoveAsync(moves, links, cancel);
                if (!outcome.Done)
                    return (Notice.About(outcome.Refusal), folder);
                var what = paths.Count == 1 ? $"{paths[0].Path.Name} stands" : $"{paths.Count} stand";
                return (Moved(record, $"{what} in {(target is null ? "the project’s top" : $"{target}/")} now.", outcome.Result), folder);
            },
            cancel
        );

    /// <summary>Says of which version a file among the outputs is.</summary>
    public Task<IActionResult> OnPostMatchAsync(string project, string? folder, Guid file, Guid save, CancellationToken cancel) =>
        DoAsync(
            project,
            async _ =>
            {
                var outcome = await matchOutputs.SayAsync(User.Actor(), file, save, cancel);
                var number = await db.Saves.Where(s => s.Id == save).Select(s => s.Number).FirstOrDefaultAsync(cancel);
                return (
                    outcome.Done ? Notice.Done($"It is an output of {DisplayText.Version(number ?? 0)}.") : Notice.About(outcome.Refusal),
                    folder
                );
            },
            cancel
        );

    public Task<IActionResult> OnPostOfNoneAsync(string project, string? folder, Guid file, CancellationToken cancel) =>
        DoAsync(
            project,
            async _ =>
            {
                var outcome = await matchOutputs.OfNoneAsync(User.Actor(), file, cancel);
                return (
                    outcome.Done
                        ? Notice.Done($"{outcome.Result.Path.Name} is of no version here. It stays where it is.")
                        : Notice.About(outcome.Refusal),
                    folder
                );
            },
            cancel
        );

    public Task<IActionResult> OnPostMoveBackAsync(string project, long at, string? folder, CancellationToken cancel) =>
        DoAsync(
            project,
            async record =>
            {
                var then = new DateTimeOffset(Math.Clamp(at, DateTimeOffset.MinValue.Ticks, DateTimeOffset.MaxValue.Ticks), TimeSpan.Zero);
                var outcome = await tendTree.MoveBackAsync(User.Actor(), record.Id, then, cancel);
                return outcome.Done
                    ? (Notice.Done("All of it is where it was."), outcome.Result.Entries[0].Path.Folder?.Text)
                    : (Notice.About(outcome.Refusal), folder);
            },
            cancel
        );

    /// <summary>Undoes that a file was moved here from another project.</summary>
    public Task<IActionResult> OnPostMoveHomeAsync(string project, string? folder, Guid id, CancellationToken cancel) =>
        DoAsync(
            project,
            async _ =>
            {
                var outcome = await shareFiles.MoveHomeAsync(User.Actor(), id, cancel);
                if (!outcome.Done)
                    return (Notice.About(outcome.Refusal), folder);
                var code = await db.Projects.Where(p => p.Id == outcome.Result.ProjectId).Select(p => p.Code).FirstAsync(cancel);
                return (Notice.Done($"{outcome.Result.Path} is back in {code}, with its past and what goes with it."), folder);
            },
            cancel
        );

    public Task<IActionResult> OnPostDeleteAsync(string project, string? folder, Guid[] ids, CancellationToken cancel) =>
        DoAsync(
            project,
            async record =>
            {
                var outcome = await tendTree.DeleteAsync(User.Actor(), ids, cancel);
                if (!outcome.Done)
                    return (Notice.About(outcome.Refusal), folder);
                var gone = outcome.Result;
                var back = string.Concat(gone.Entries.Take(MostInAddress).Select(e => $"&ids={e.Id}"));
                return (
                    Notice.Done(
                        $"{What(gone)} deleted. It can be taken back for {GracePeriod.Length.Days} days; what versions saw of it stays with them."
                    ) with
                    {
                        Undo = $"/tree/{Uri.EscapeDataString(record.Code)}?handler=Restore{back}",
                    },
                    folder
                );
            },
            cancel
        );

    public Task<IActionResult> OnPostRestoreAsync(string project, string? folder, Guid[] ids, CancellationToken cancel) =>
        DoAsync(
            project,
            async record =>
            {
                var outcome = await tendTree.RestoreAsync(User.Actor(), ids, cancel);
                return outcome.Done
                    ? (Notice.Done("It is back where it stood."), outcome.Result.Path.Folder?.Text ?? folder)
                    : (Notice.About(outcome.Refusal), folder);
            },
            cancel
        );

    public Task<IActionResult> OnPostBringBackAsync(string project, string? folder, Guid id, int sequence, CancellationToken cancel)
    {
        Looked = id;
        return DoAsync(
            project,
            async _ =>
            {
                var outcome = await tendFiles.BringBackAsync(User.Actor(), id, sequence, cancel);
                return (
                    outcome.Done
                        ? Notice.Done("That content is back, on top of the others. Nothing was overwritten.")
                        : Notice.About(outcome.Refusal),
                    folder
                );
            },
            cancel
        );
    }

    public Task<IActionResult> OnPostMarkAsync(string project, string? folder, Guid id, bool again, CancellationToken cancel)
    {
        Looked = id;
        return DoAsync(
            project,
            async _ =>
            {
                var outcome = await tendTree.MarkAsync(User.Actor(), [id], again, cancel);
                return (
                    !outcome.Done ? Notice.About(outcome.Refusal)
                    : again ? Notice.Done("It is marked: it can be made again, and is left out first where room or weight counts.")
                    : Notice.Done("It is not marked any more."),
                    folder
                );
            },
            cancel
        );
    }

    // So many are named in an address at most; more are taken back one by one, under “Deleted”.
    private const int MostInAddress = 40;

    private static string What(DeletedEntries gone)
    {
        var files = DisplayText.Count(gone.Files, "file", "files");
        if (gone.Entries is not [var one])
            return $"{gone.Entries.Count:N0} with {files} are";
        return one.Kind == EntryKind.Folder ? $"{one.Path}/ with {files} is" : $"{one.Path} is";
    }

    // Whether links are to follow is asked each time, and not remembered.
    private async Task<Outcome<MovedWithLinks>> MoveAsync(
        IReadOnlyList<(Guid Entry, ProjectPath To)> moves,
        bool links,
        CancellationToken cancel
    )
    {
        if (links)
            return await moveAndRelink.DoAsync(User.Actor(), moves, cancel);
        var moved = await tendTree.MoveAsync(User.Actor(), moves, cancel);
        return moved.Done ? new MovedWithLinks(moved.Result, [], []) : moved.Refusal;
    }

    private static Notice Moved(Project record, string sentence, MovedWithLinks moved)
    {
        if (moved.Relinked.Count > 0)
            sentence += $" The links of {string.Join(", ", moved.Relinked)} lead there, as new loose saves.";
        if (moved.NotRelinked.Count > 0)
            sentence +=
                $" Those of {string.Join(", ", moved.NotRelinked)} cannot be changed here: mend them in the program that made them.";
        return Notice.Done(sentence) with
        {
            Undo = $"/tree/{Uri.EscapeDataString(record.Code)}?handler=MoveBack&at={moved.Moved.At.UtcTicks}",
        };
    }

    // Whoever looked into a folder that was renamed looks into it on.
    private static string? Renamed(string? folder, ProjectPath old, ProjectPath now) =>
        folder == old.Text ? now.Text
        : folder?.StartsWith(old.Text + "/", StringComparison.Ordinal) == true ? now.Text + folder[old.Text.Length..]
        : folder;

    private async Task<IActionResult> DoAsync(
        string project,
        Func<Project, Task<(Notice Said, string? Folder)>> work,
        CancellationToken cancel
    )
    {
        if (await FindAsync(project, cancel) is not { } record)
            return NotFound();
        Record = record;
        var (said, folder) = await work(record);
        Notice.Put(TempData, said);
        return Redirect(Places.OfTree(record.Code, await FolderAsync(folder, cancel), Looked));
    }

    // A name is one part of a path, and none of its own.
    private static ProjectPath? In(ProjectPath? folder, string? name)
    {
        var line = TypedText.Line(name);
        if (line.AsSpan().IndexOfAny('/', '\\') >= 0)
            return null;
        return ProjectPath.TryParse(folder is null ? line : $"{folder}/{line}", out var path, out _) ? path : null;
    }

    private static Refusal.FileNameNotLegal NotAName(string? name) =>
        new(TypedText.Line(name), "a name has no “/” or “\\” in it, and is not “.” or “..”.");
}
