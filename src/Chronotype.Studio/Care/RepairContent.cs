using Chronotype.Core.Content;
using Chronotype.Storage;
using Chronotype.Storage.Content;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Care;

/// <param name="Name">The newest version or save that has this content, by its name; null where none has.</param>
/// <param name="Bytes">Bytes that were damaged or missing here, and are kept anew.</param>
public sealed record Repaired(string? Name, long Bytes);

/// <summary>Mends damage from another copy that a person hands in. What is not damaged is not touched.</summary>
public sealed class RepairContent(StudioDb db, ContentStore store)
{
    public async Task<Repaired> DoAsync(Stream copy, CancellationToken cancel = default)
    {
        var wanted = (await db.SaveFiles.Select(f => f.Hash).Distinct().ToListAsync(cancel)).ToHashSet();
        var staged = await store.RepairAsync(copy, wanted.Contains, cancel);
        if (staged.NewBytes > 0 && wanted.Contains(staged.Hash)) await ForgetDamageAsync(staged.Hash, cancel);
        var name = await db.SaveFiles.Where(f => f.Hash == staged.Hash).Join(db.Saves, f => f.SaveId, s => s.Id, (f, s) => s)
            .OrderByDescending(s => s.Number).Select(s => s.ExactName ?? s.ReceivedName).FirstOrDefaultAsync(cancel);
        return new Repaired(name, staged.NewBytes);
    }

    // What else the repair mended is told by the next verification.
    private Task ForgetDamageAsync(ContentHash hash, CancellationToken cancel) => db.Set<Storage.Records.CheckDamage>().Where(d => d.Hash == hash).ExecuteDeleteAsync(cancel);
}
