using Chronotype.Core.Content;
using Chronotype.Formats;
using Chronotype.Storage;
using Chronotype.Storage.Content;
using Chronotype.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Saves;

/// <summary>Reads what is inside a save, once, and records it.</summary>
public sealed class ReadSave(StudioDb db, IContentStore store)
{
    public async Task<Reading> DoAsync(Guid saveId, CancellationToken cancel = default)
    {
        var save = await db.Saves.AsNoTracking().FirstAsync(s => s.Id == saveId, cancel);
        if (save.Reading is not null) return RecordJson.Read<Reading>(save.Reading);
        var reading = await Task.Run(() => Read(save), cancel);
        var json = RecordJson.Write(reading);
        await db.Saves.Where(s => s.Id == saveId).ExecuteUpdateAsync(u => u
            .SetProperty(s => s.Reading, json)
            .SetProperty(s => s.Format, reading.Format)
            .SetProperty(s => s.Problem, reading.Problem)
            .SetProperty(s => s.Inside, reading.Inside), cancel);
        return reading;
    }

    private Reading Read(Save save)
    {
        using var content = store.OpenRead(save.MainHash);
        return FormatReader.Read(content);
    }
}
