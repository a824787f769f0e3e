using Chronotype.Core.Comparing;
using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Formats;
using Chronotype.Storage;
using Chronotype.Storage.Content;
using Chronotype.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Saves;

/// <summary>Says what changed between two saves; each pair of contents is measured once.</summary>
public sealed class CompareSaves(StudioDb db, IContentStore store, ReadSave readSave)
{
    public async Task<Comparison> DoAsync(Guid beforeId, Guid afterId, CancellationToken cancel = default)
    {
        var before = await db.Saves.AsNoTracking().Include(s => s.Files).FirstAsync(s => s.Id == beforeId, cancel);
        var after = await db.Saves.AsNoTracking().Include(s => s.Files).FirstAsync(s => s.Id == afterId, cancel);
        if (before.Identity == after.Identity) return new Comparison(0, "The two hold the same content.", []);
        var known = await db.MeasuredChanges.AsNoTracking().FirstOrDefaultAsync(c => c.Before == before.Identity && c.After == after.Identity, cancel);
        if (known is not null) return RecordJson.Read<Comparison>(known.Result);

        var readings = (await readSave.DoAsync(beforeId, cancel), await readSave.DoAsync(afterId, cancel));
        var result = await Task.Run(() => Measure(before, readings.Item1, after, readings.Item2, cancel), cancel);
        var json = RecordJson.Write(result);
        // Two readers may measure one pair at once; the second finds it written.
        await db.Database.ExecuteSqlAsync(
            $"INSERT OR IGNORE INTO MeasuredChanges (Before, After, Result) VALUES ({before.Identity.ToString()}, {after.Identity.ToString()}, {json})", cancel);
        return result;
    }

    private Comparison Measure(Save before, Reading beforeReading, Save after, Reading afterReading, CancellationToken cancel)
    {
        using var first = store.OpenRead(before.MainHash);
        using var second = store.OpenRead(after.MainHash);
        var main = after.Files.First(f => f.IsMain);
        var result = SaveComparer.Compare(first, beforeReading, second, afterReading, FileNames.Extension(main.Path), cancel);
        if (before.Files.Count == 1 && after.Files.Count == 1) return result;
        var companions = Companions(before.Files, after.Files);
        var gone = companions.Count(c => c.Kind != PartChangeKind.Same);
        return result with
        {
            // The main file stands for the piece; a companion that changed shows even where the main file did not.
            Change = result.Change is 0 && gone > 0 ? (double)gone / companions.Count : result.Change,
            Summary = $"{result.Summary} {gone} of {companions.Count} companions differ.",
            Parts = [.. result.Parts, .. companions.Where(c => c.Kind != PartChangeKind.Same)],
        };
    }

    private static List<PartChange> Companions(List<SaveFile> before, List<SaveFile> after)
    {
        var old = before.Where(f => !f.IsMain).ToDictionary(f => f.Path);
        var changes = new List<PartChange>();
        foreach (var file in after.Where(f => !f.IsMain))
        {
            var kind = !old.Remove(file.Path, out var was) ? PartChangeKind.Added : was.Hash == file.Hash ? PartChangeKind.Same : PartChangeKind.Changed;
            changes.Add(new PartChange(file.Path, kind));
        }
        changes.AddRange(old.Keys.Select(path => new PartChange(path, PartChangeKind.Removed)));
        return changes;
    }
}
