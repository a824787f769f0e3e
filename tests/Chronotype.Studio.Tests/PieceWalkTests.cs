using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Storage.Mirror;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Grace;
using Chronotype.Studio.Jobs;
using Chronotype.Studio.Lines;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Saves;
using Chronotype.Studio.Share;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Tests;

/// <summary>
/// A piece's life in any order, beside a model that knows only what was saved on which line: the current file holds what it should, a
/// number is given once, what is refused changes nothing, what is taken back is as it was, and nothing that came is gone.
/// </summary>
public class PieceWalkTests
{
    private const int Steps = 140;
    private const int Kinds = 14;

    public static TheoryData<int> Seeds { get; } = [.. Enumerable.Range(1, Thorough.Times(3, 24))];

    [Theory]
    [MemberData(nameof(Seeds))]
    public async Task Whatever_is_done_with_a_piece_in_whatever_order_it_is_told_as_it_was_done_and_nothing_is_gone(int seed)
    {
        await using var studio = await StudioInUse.OpenAsync();
        var walk = new Walk(studio, new Random(seed), await studio.PieceAsync());
        for (var step = 0; step < Steps; step++)
            await walk.StepAsync();
        await walk.EndAsync();
    }

    private sealed class Walk(StudioInUse studio, Random random, Piece piece)
    {
        private static readonly string[] Subjects = ["Moonpull poster", "Ferry poster", "Gull poster"];

        private readonly List<string> told = [];
        private readonly HashSet<string> done = [];
        private readonly HashSet<ContentHash> came = [];

        // By line, what came on it in its order.
        private readonly Dictionary<Guid, List<Came>> lines = [];
        private readonly Dictionary<Guid, int> numbers = [];
        private readonly HashSet<Guid> dropped = [];
        private Guid on;
        private int alts;

        private sealed record Came(Guid Save, ContentHash Content)
        {
            public bool IsDiscarded { get; set; }
        }

        private List<Came> Here => lines[on];

        private ContentHash? Newest(Guid line) => lines[line].LastOrDefault(c => !c.IsDiscarded)?.Content;

        /// <summary>Does something, and looks at everything.</summary>
        public async Task StepAsync()
        {
            studio.Time.Advance(TimeSpan.FromMinutes(1));
            if (lines.Count == 0)
            {
                on = (await LinesAsync()).Single().Id;
                lines[on] = [];
                await SaveAsync();
            }
            var before = await TellAsync();
            var (what, refusal) = await DoAsync();
            told.Add(refusal is null ? what : $"{what}: {refusal.GetType().Name}");
            if (refusal is null)
                done.Add(what.Split(' ')[0]);
            else
                Same(before, await TellAsync());
            await LookAsync();
        }

        /// <summary>What waits is let go, and what is there stays; the records are made anew from what lies beside the content, and tell the same.</summary>
        public async Task EndAsync()
        {
            // Nearly every kind of deed was done at least once, and not only refused.
            Assert.InRange(done.Count, Kinds - 4, Kinds);

            await studio.SettledAsync();
            var before = await TellAsync();
            studio.Time.Advance(GracePeriod.Length + TimeSpan.FromDays(1));
            await studio.Do((JobQueue q) => q.AddAsync([JobRequest.Store(JobKind.EndGrace), JobRequest.Store(JobKind.CompactStore)]));
            await studio.SettledAsync();
            Assert.DoesNotContain(await studio.JobsAsync(), j => j.State == JobState.Failed);
            Same(before, await TellAsync());
            came.Clear();
            await LookAsync();

            using var copy = new StudioFolder();
            StudioFolder.Copy(studio.DataFolder, copy.Path);
            foreach (var database in Directory.GetFiles(copy.Path, "studio.db*"))
                File.Delete(database);
            using (var data = new DataFolder(copy.Path))
            using (var store = ContentStore.Open(data.Content))
            {
                var rebuilt = await new StudioRebuild(data, store, studio.Time).RunAsync(evenIfSound: false);
                Assert.Empty(rebuilt.Left);
                Assert.Empty(rebuilt.Missing);
            }
            await using var db = new StudioDb(
                new DbContextOptionsBuilder<StudioDb>()
                    .UseSqlite($"Data Source={Path.Combine(copy.Path, "studio.db")};Pooling=False")
                    .Options
            )
            {
                Sees = null,
            };
            Same(before, await TellAsync(db));
        }

        private async Task<(string What, Refusal? Refusal)> DoAsync()
        {
            switch (random.Next(22))
            {
                case < 5:
                    await SaveAsync();
                    return ("save", null);
                case < 7:
                    return await KeepAsync();
                case 7:
                    return await LeaveAsync();
                case 8:
                    return await GoOnAsync();
                case 9:
                    return await HomeAsync();
                case 10:
                    return await DropAsync();
                case 11:
                    return await UndropAsync();
                case 12:
                    return await DiscardAsync();
                case 13:
                    return await UndiscardAsync();
                case 14:
                    return await BackAsync();
                case 15:
                    return await MarkAsync();
                case < 18:
                    return await ShareAsync();
                case 18:
                case 19:
                    return await FileAsync();
                default:
                    return await UndoAsync();
            }
        }

        private byte[] Content() => Samples.Noise(3000, random.Next(12));

        private async Task SaveAsync()
        {
            var content = Content();
            var received = await studio.TakeAsync(piece, content, "poster.lay");
            came.Add(ContentHash.Of(content));
            if (received.IsNew)
                Here.Add(new(received.Save.Id, ContentHash.Of(content)));
            Assert.Equal(ContentHash.Of(content), Newest(on));
        }

        private async Task<(string, Refusal?)> KeepAsync()
        {
            var outcome = await studio.Do((KeepSave d) => d.DoAsync(studio.Odo, piece.Id, null, null, insist: true));
            if (outcome.Result is KeepResult.Pending)
            {
                await studio.SettledAsync();
                outcome = await studio.Do((KeepSave d) => d.DoAsync(studio.Odo, piece.Id, null, null, insist: true));
            }
            Assert.True(outcome.Result is KeepResult.Kept or KeepResult.Already or KeepResult.Nothing or KeepResult.Same, $"{outcome}");
            return ("keep", outcome.Refusal);
        }

        private async Task<(string, Refusal?)> LeaveAsync()
        {
            var (at, goesOn) = (Any(numbers.Keys), random.Next(2) == 0);
            if (at == default)
                return ("leave nothing", new Refusal.NoSuchSave());
            // Now and then a name that is taken.
            var name = $"alt{(random.Next(4) == 0 ? Math.Max(alts, 1) : ++alts)}";
            var outcome = await studio.Do((LeaveLine d) => d.DoAsync(studio.Ilse, piece.Id, at, name, goesOn));
            if (outcome.Done)
            {
                var from = lines.Values.SelectMany(l => l).First(c => c.Save == at);
                lines[outcome.Result.Alt.Id] = [new(outcome.Result.First.Id, from.Content)];
                on = goesOn ? outcome.Result.Alt.Id : on;
            }
            return ($"leave at {at} for {name}, {goesOn}", outcome.Refusal);
        }

        private async Task<(string, Refusal?)> GoOnAsync()
        {
            var line = Any(lines.Keys);
            var outcome = await studio.Do((TendAlts d) => d.GoOnAsync(studio.Ilse, piece.Id, line));
            Assert.Equal(!dropped.Contains(line), outcome.Done);
            on = outcome.Done ? line : on;
            return ($"go-on {line}", outcome.Refusal);
        }

        private async Task<(string, Refusal?)> HomeAsync()
        {
            var (alt, main) = (Any(lines.Keys), (await LinesAsync()).Single(l => l.Name.Length == 0).Id);
            var outcome = await studio.Do((TendAlts d) => d.BringHomeAsync(studio.Ilse, piece.Id, alt));
            if (outcome.Done)
            {
                lines[main].Add(new(outcome.Result.Came.Id, Newest(alt)!.Value));
                on = main;
            }
            return ($"home {alt}", outcome.Refusal);
        }

        private async Task<(string, Refusal?)> DropAsync()
        {
            var alt = Any(lines.Keys);
            var outcome = await studio.Do((TendAlts d) => d.DropAsync(studio.Ilse, piece.Id, alt));
            if (outcome.Done)
                dropped.Add(alt);
            return ($"drop {alt}", outcome.Refusal);
        }

        private async Task<(string, Refusal?)> UndropAsync()
        {
            var alt = Any(dropped);
            var outcome = await studio.Do((TendAlts d) => d.TakeBackAsync(studio.Ilse, alt));
            Assert.Equal(dropped.Remove(alt), outcome.Done);
            return ($"undrop {alt}", outcome.Refusal);
        }

        private async Task<(string, Refusal?)> DiscardAsync()
        {
            var save = Any(Here.Select(c => c.Save));
            var outcome = await studio.Do((Remove d) => d.SaveAsync(studio.Ilse, piece.Id, save));
            if (outcome.Done)
                Here.Single(c => c.Save == save).IsDiscarded = true;
            return ($"discard {save}", outcome.Refusal);
        }

        private async Task<(string, Refusal?)> UndiscardAsync()
        {
            var save = Any(Here.Where(c => c.IsDiscarded).Select(c => c.Save));
            var outcome = await studio.Do((Remove d) => d.TakeBackSaveAsync(studio.Ilse, save));
            if (outcome.Done)
                Here.Single(c => c.Save == save).IsDiscarded = false;
            return ($"undiscard {save}", outcome.Refusal);
        }

        private async Task<(string, Refusal?)> BackAsync()
        {
            var (line, save) = Any(lines.SelectMany(l => l.Value, (l, c) => (l.Key, c)));
            var outcome = await studio.Do((BringBack d) => d.DoAsync(studio.Ilse, piece.Id, save.Save));
            if (outcome.Done)
                Here.Add(new(outcome.Result.Id, save.Content));
            if (save.IsDiscarded || dropped.Contains(line))
                Assert.IsType<Refusal.NoSuchSave>(outcome.Refusal);
            return ($"back {save.Save}", outcome.Refusal);
        }

        private async Task<(string, Refusal?)> MarkAsync()
        {
            var number = new VersionNumber(random.Next(1, 6));
            var outcome = await studio.Do((MarkMilestone d) => d.DoAsync(studio.Ilse, piece.Id, number, "client round"));
            return ($"mark {number}", outcome.Refusal);
        }

        /// <summary>A program saves the piece's file, or an alt's.</summary>
        private async Task<(string, Refusal?)> ShareAsync()
        {
            var files = (await EntriesAsync()).FindAll(e => e.Kind is EntryKind.CurrentFile or EntryKind.AltFile);
            if (files.Count == 0)
                return ("share nothing", new Refusal.NoSuchEntry());
            var (file, content) = (Any(files), Content());
            var outcome = await studio.Do((ShareFiles d) => d.PutAsync(studio.Odo, piece.ProjectId, file.Path, new MemoryStream(content)));
            came.Add(ContentHash.Of(content));
            studio.Time.Advance(ShareTimes.Usual.Quiet * 2);
            await studio.Do(async (SettleShare d) => await d.RoundAsync());
            var onto = file.LineId ?? on;
            if (outcome.Done && Newest(onto) != ContentHash.Of(content))
                lines[onto].Add(new((await SavesAsync()).FindLast(s => s.LineId == onto)!.Id, ContentHash.Of(content)));
            return ($"share {file.Path}", outcome.Refusal);
        }

        private async Task<(string, Refusal?)> FileAsync()
        {
            var (alt, stands) = (Any(lines.Keys), random.Next(3) > 0);
            var outcome = await studio.Do((AltFiles d) => d.HaveAsync(studio.Ilse, piece.Id, alt, stands));
            return ($"file of {alt}, {stands}", outcome.Refusal);
        }

        /// <summary>Something that can be undone, undone at once.</summary>
        private async Task<(string, Refusal?)> UndoAsync()
        {
            await studio.SettledAsync();
            var (before, what) = (await TellAsync(), random.Next(6));
            switch (what)
            {
                case 0:
                    (await studio.Do((Remove d) => d.PieceAsync(studio.Ilse, piece.Id))).Expect();
                    Assert.Empty(await EntriesAsync());
                    studio.Time.Advance(TimeSpan.FromMinutes(1));
                    (await studio.Do((Remove d) => d.TakeBackPieceAsync(studio.Odo, piece.Id))).Expect();
                    break;
                case 1:
                    var called = StudioInUse.Called(Any(Subjects), "key");
                    var renamed = await studio.Do((RenamePiece d) => d.DoAsync(studio.Ilse, piece.Id, "TIDES", called));
                    if (!renamed.Done)
                        break;
                    await LookAsync();
                    // Half of the time it stays so.
                    if (random.Next(2) == 0)
                        return ("undo nothing of a rename", null);
                    var run = await studio.Do((StudioDb db) => db.RenameRuns.OrderByDescending(r => r.Id).Select(r => r.Id).FirstAsync());
                    studio.Time.Advance(TimeSpan.FromMinutes(1));
                    (await studio.Do((RenamePiece d) => d.UndoAsync(studio.Odo, piece.Id, run))).Expect();
                    break;
                case 2:
                    if ((await EntriesAsync()).Find(e => e.Kind == EntryKind.CurrentFile) is not { } current)
                        break;
                    (await studio.Do((ShareFiles d) => d.DeleteAsync(studio.Odo, piece.ProjectId, current.Path))).Expect();
                    Assert.Null(await studio.Do((StudioDb db) => new ShareTree(db, piece.ProjectId).FindAsync(current.Path)));
                    (await studio.Do((ShareFiles d) => d.PutBackAsync(studio.Ilse, piece.Id))).Expect();
                    break;
                case 3:
                case 4:
                    var alt = Any(lines.Keys.Where(l => l != on && !dropped.Contains(l)));
                    if (!(await studio.Do((TendAlts d) => d.DropAsync(studio.Ilse, piece.Id, alt))).Done)
                        break;
                    studio.Time.Advance(TimeSpan.FromMinutes(1));
                    (await studio.Do((TendAlts d) => d.TakeBackAsync(studio.Odo, alt))).Expect();
                    break;
                default:
                    (await studio.Do((Remove d) => d.ProjectAsync(studio.Ilse, piece.ProjectId))).Expect();
                    studio.Time.Advance(TimeSpan.FromMinutes(1));
                    (await studio.Do((Remove d) => d.TakeBackProjectAsync(studio.Odo, piece.ProjectId))).Expect();
                    break;
            }
            Same(before, await TellAsync());
            return ($"undo {what}", null);
        }

        private async Task LookAsync()
        {
            var (saves, nodes) = (await SavesAsync(), await studio.Do((StudioDb db) => NodesAsync(db, piece.ProjectId)));

            // A number is one for good, the next in its line, and never given twice.
            foreach (var save in saves.Where(s => s.Number is not null).OrderBy(s => s.KeptAt).ThenBy(s => s.Number))
                if (numbers.TryGetValue(save.Id, out var number))
                    Same($"{number}", $"{save.Number}");
                else
                {
                    var ofLine = await AllSavesAsync(save.LineId);
                    Same(
                        $"{ofLine.Where(s => numbers.ContainsKey(s)).Select(s => numbers[s]).DefaultIfEmpty().Max() + 1}",
                        $"{save.Number}"
                    );
                    numbers[save.Id] = save.Number!.Value;
                }

            // Each version stands under its exact name, and nothing else does.
            Same(
                string.Join(
                    '\n',
                    saves.Where(s => s.Number is not null).Select(s => $"{s.ExactName} {s.MainHash}").Order(StringComparer.Ordinal)
                ),
                string.Join(
                    '\n',
                    nodes
                        .Where(n => n.Entry?.Kind == EntryKind.Version)
                        .Select(n => $"{n.Path!.Name} {n.Hash}")
                        .Order(StringComparer.Ordinal)
                )
            );
            Same("", string.Join('\n', nodes.GroupBy(n => n.Path!.Key).Where(g => g.Count() > 1).Select(g => g.Key)));

            // The current file is what came last on the line that one works on; a file of an alt what came last there.
            var current = Newest(on);
            Same($"{current}", $"{saves.SingleOrDefault(s => s.IsCurrent)?.MainHash}");
            foreach (var node in nodes.Where(n => n.Entry is { PieceId: not null, Kind: EntryKind.CurrentFile or EntryKind.AltFile }))
                Same(
                    $"{node.Path} {Newest(node.Entry!.Kind == EntryKind.CurrentFile ? on : node.Entry.LineId!.Value)}",
                    $"{node.Path} {node.Hash}"
                );
            foreach (var (line, held) in lines.Where(l => !dropped.Contains(l.Key)))
                Same(
                    string.Join(' ', held.Where(c => !c.IsDiscarded).Select(c => c.Content)),
                    string.Join(' ', saves.Where(s => s.LineId == line).Select(s => s.MainHash))
                );

            var missing = await studio.Do(
                (IContentStore s) => Task.FromResult(came.Concat(saves.Select(c => c.MainHash)).Where(h => !s.Has(h)).ToList())
            );
            Same("", string.Join(' ', missing));
        }

        private Task<List<Line>> LinesAsync() =>
            studio.Do((StudioDb db) => db.Lines.AsNoTracking().Where(l => l.PieceId == piece.Id).ToListAsync());

        private Task<List<Save>> SavesAsync() => studio.SavesAsync(piece);

        private Task<List<Guid>> AllSavesAsync(Guid line) =>
            studio.Do((StudioDb db) => db.Saves.IgnoreQueryFilters().Where(s => s.LineId == line).Select(s => s.Id).ToListAsync());

        private Task<List<TreeEntry>> EntriesAsync() =>
            studio.Do((StudioDb db) => db.Entries.AsNoTracking().Where(e => e.PieceId == piece.Id && e.DeletedAt == null).ToListAsync());

        private Task<string> TellAsync() => studio.Do((StudioDb db) => TellAsync(db));

        /// <summary>All that somebody can see of the project: what stands on the share, and what stands at the piece.</summary>
        private async Task<string> TellAsync(StudioDb db)
        {
            var nodes = await NodesAsync(db, piece.ProjectId);
            var saves = await db
                .Saves.AsNoTracking()
                .Include(s => s.Line)
                .Include(s => s.Milestone)
                .Where(s => s.PieceId == piece.Id)
                .OrderBy(s => s.Sequence)
                .ToListAsync();
            return string.Join(
                '\n',
                nodes
                    .Select(n => $"{n.Path} {n.Hash} {n.IsReadOnly} {n.Entry?.Kind}")
                    .Concat(
                        saves.Select(s =>
                            $"{s.Line.Name} {s.Sequence} {s.Number} {s.ExactName} {s.MainHash} {s.IsCurrent} {s.Line.IsCurrent} {s.Aside} {s.BroughtBackFrom} {s.Milestone?.ExactName}"
                        )
                    )
            );
        }

        private static async Task<List<ShareNode>> NodesAsync(StudioDb db, Guid project)
        {
            var tree = new ShareTree(db, project);
            var nodes = new List<ShareNode>();
            var folders = new Stack<ShareNode>([(await tree.FindAsync(null))!]);
            while (folders.TryPop(out var folder))
                foreach (var node in await tree.ListAsync(folder))
                {
                    nodes.Add(node);
                    if (node.IsFolder)
                        folders.Push(node);
                }
            return [.. nodes.OrderBy(n => n.Path!.Key, StringComparer.Ordinal)];
        }

        // The default where there is none, which is then refused.
        private T Any<T>(IEnumerable<T> some) => some.ToList() is { Count: > 0 } all ? all[random.Next(all.Count)] : default!;

        private void Same(string expected, string found) =>
            Assert.True(expected == found, $"After\n  {string.Join("\n  ", told)}\nexpected\n{expected}\nfound\n{found}");
    }
}
