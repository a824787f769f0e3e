using Chronotype.Core.Comparing;
using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Storage;
using Chronotype.Storage.Records;
using Chronotype.Studio.Readers;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Saves;

/// <summary>Says what changed between two saves; each pair of contents is measured once.</summary>
public sealed class CompareSaves(StudioDb db, FileReader reader, ReadSave readSave)
{
    public async Task<Comparison> DoAsync(Guid beforeId, Guid afterId, ReaderTurn turn = ReaderTurn.Background, CancellationToken cancel = default)
    {
        var before = await db.Saves.AsNoTracking().Include(s => s.Files).FirstAsync(s => s.Id == beforeId, cancel);
        var after = await db.Saves.AsNoTracking().Include(s => s.Files).FirstAsync(s => s.Id == afterId, cancel);
        if (before.Identity == after.Identity) return new Comparison(0, "The two hold the same content.", []);
        var known = await db.MeasuredChanges.AsNoTracking().FirstOrDefaultAsync(c => c.Before == before.Identity && c.After == after.Identity, cancel);
        if (known is not null) return RecordJson.Read<Comparison>(known.Result);

        var (beforeReading, afterReading) = (await readSave.DoAsync(beforeId, turn, cancel), await readSave.DoAsync(afterId, turn, cancel));
        var extension = FileNames.Extension(after.Files.First(f => f.IsMain).Path);
        var result = WithCompanions(await reader.CompareAsync((before.MainHash, beforeReading), (after.MainHash, afterReading), extension, after.PieceId, turn, cancel), before, after);
        var json = RecordJson.Write(result);
        // Two readers may measure one pair at once; the second finds it written.
        await db.Database.ExecuteSqlAsync(
            $"INSERT OR IGNORE INTO MeasuredChanges (Before, After, Result) VALUES ({before.Identity.ToString()}, {after.Identity.ToString()}, {json})", cancel);
        return result;
    }

    private static Comparison WithCompanions(Comparison result, Save before, Save after)
    {
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
