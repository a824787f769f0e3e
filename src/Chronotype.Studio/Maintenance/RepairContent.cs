using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Readers;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Maintenance;

/// <param name="Name">The newest version or save that has this content, by its name; null where none has.</param>
/// <param name="Bytes">Bytes that were damaged or missing here, and are kept anew.</param>
public sealed record Repaired(string? Name, long Bytes);

/// <summary>Mends damage from another copy that a person hands in. What is not damaged is not touched.</summary>
public sealed class RepairContent(DeedRunner deeds, IDbContextFactory<StudioDb> contexts, ContentStore store, DerivedFacts derived)
{
    public async Task<Outcome<Repaired>> DoAsync(Actor actor, Stream copy, CancellationToken cancel = default)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var wanted = await HeldContent.AllAsync(db, cancel);
        using var staged = await store.RepairAsync(copy, wanted.Contains, cancel);
        return await deeds.DoAsync<Repaired>(
            actor,
            Right.Work,
            async deed =>
            {
                if (staged.NewBytes > 0 && wanted.Contains(staged.Hash))
                {
                    // What else the repair mended is told by the next verification.
                    await deed.Db.Set<CheckDamage>().Where(d => d.Hash == staged.Hash).ExecuteDeleteAsync(cancel);
                    await derived.DropAsync(deed.Db, [staged.Hash], cancel);
                }
                var name = await deed
                    .Db.SaveFiles.Where(f => f.Hash == staged.Hash)
                    .Join(deed.Db.Saves.WithDeleted(), f => f.SaveId, s => s.Id, (f, s) => s)
                    .OrderByDescending(s => s.Number)
                    .Select(s => s.ExactName ?? s.ReceivedName)
                    .FirstOrDefaultAsync(cancel);
                return new Repaired(name, staged.NewBytes);
            },
            cancel
        );
    }
}
