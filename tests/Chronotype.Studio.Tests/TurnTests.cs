using Chronotype.Storage;
using Chronotype.Storage.Connections;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Saves;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Tests;

public sealed class TurnTests
{
    [Fact]
    public async Task A_deed_and_a_save_of_the_records_wait_for_their_turn_and_give_it_back_however_they_end()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.BegunAsync();
        await studio.SettledAsync();
        var turn = await studio.Do((WriteTurn t) => Task.FromResult(t));
        Func<Task>[] writes =
        [
            // A deed; one that is refused; one that fails; and what contexts write without a deed.
            () => studio.Do((KeepSave d) => d.DoAsync(studio.Ilse, piece.Id, null, "", insist: false)),
            () => studio.Do((KeepSave d) => d.DoAsync(studio.Ilse, Guid.NewGuid(), null, "", insist: false)),
            () =>
                Assert.ThrowsAsync<InvalidOperationException>(() =>
                    studio.Do((DeedRunner d) => d.DoAsync<Done>(studio.Ilse, Right.Work, _ => throw new InvalidOperationException()))
                ),
            () => studio.Do((RedoneContexts c) => SavedAsync(c.CreateDbContext())),
            () => studio.Do((IDbContextFactory<StudioDb> c) => SavedAsync(c.CreateDbContext())),
        ];
        for (var i = 0; i < writes.Length; i++)
        {
            Task writing;
            using (await turn.TakeAsync(comesFirst: true))
            {
                writing = Task.Run(writes[i]);
                await Task.Delay(200);
                Assert.False(writing.IsCompleted, $"Write {i} did not wait.");
            }
            await writing.WaitAsync(TimeSpan.FromSeconds(30));
            using var free = await turn.TakeAsync(comesFirst: true).WaitAsync(TimeSpan.FromSeconds(5));
        }
        using (await turn.TakeAsync(comesFirst: true))
        {
            using var gone = new CancellationTokenSource(TimeSpan.FromMilliseconds(100));
            await Assert.ThrowsAnyAsync<OperationCanceledException>(() =>
                studio.Do((KeepSave d) => d.DoAsync(studio.Ilse, piece.Id, null, "", cancel: gone.Token))
            );
        }
        using var after = await turn.TakeAsync(comesFirst: true).WaitAsync(TimeSpan.FromSeconds(5));

        static async Task<int> SavedAsync(StudioDb db)
        {
            await using (db)
            {
                db.StoreChecks.Add(new StoreCheck());
                return await db.SaveChangesAsync();
            }
        }
    }
}
