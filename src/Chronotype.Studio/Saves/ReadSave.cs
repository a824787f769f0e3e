using Chronotype.Core.Content;
using Chronotype.Storage;
using Chronotype.Studio.Readers;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Saves;

/// <summary>Reads what is inside a save, once, and records it.</summary>
public sealed class ReadSave(StudioDb db, Readings readings)
{
    /// <exception cref="IOException">The content could not be read from where it is kept; nothing is recorded, and it may be tried again.</exception>
    public async Task<Reading> DoAsync(Guid saveId, ReaderTurn turn = ReaderTurn.Background, CancellationToken cancel = default)
    {
        var save = await db.Saves.AsNoTracking().Where(s => s.Id == saveId).Select(s => new { s.PieceId, s.MainHash, s.Reading }).FirstAsync(cancel);
        if (save.Reading is not null) return RecordJson.Read<Reading>(save.Reading);
        var reading = await readings.OfAsync(save.MainHash, save.PieceId, turn, cancel);
        var json = RecordJson.Write(reading);
        await db.Saves.Where(s => s.Id == saveId).ExecuteUpdateAsync(u => u
            .SetProperty(s => s.Reading, json)
            .SetProperty(s => s.Format, reading.Format)
            .SetProperty(s => s.Problem, reading.Problem)
            .SetProperty(s => s.Inside, reading.Inside), cancel);
        return reading;
    }

    /// <summary>As <see cref="DoAsync"/>, for somebody who waits for something else: a reading that takes too long does not stop them.</summary>
    /// <returns>Null where it is not read in time, or cannot be read just now.</returns>
    public async Task<Reading?> TryWithinAsync(Guid saveId, TimeSpan patience, CancellationToken cancel = default)
    {
        using var late = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        late.CancelAfter(patience);
        try
        {
            return await DoAsync(saveId, ReaderTurn.Waiting, late.Token);
        }
        catch (OperationCanceledException) when (!cancel.IsCancellationRequested)
        {
            return null;
        }
        catch (IOException)
        {
            // The disk's trouble, which the worker tells of when it tries again; the save is stored.
            return null;
        }
    }
}
