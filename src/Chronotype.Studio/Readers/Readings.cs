using System.Collections.Concurrent;
using Chronotype.Core.Content;

namespace Chronotype.Studio.Readers;

/// <summary>Reads each content once at a time, however many ask. Whoever stops waiting does not stop the reading for the others.</summary>
public sealed class Readings(FileReader reader)
{
    private readonly ConcurrentDictionary<ContentHash, Lazy<Task<Reading>>> underWay = new();

    /// <exception cref="IOException">The content could not be read from where it is kept, or no reader be had.</exception>
    public async Task<Reading> OfAsync(ContentHash content, Guid piece, ReaderTurn turn, CancellationToken cancel = default)
    {
        var reading = underWay.GetOrAdd(content, _ => new Lazy<Task<Reading>>(() => ReadAsync(content, piece, turn)));
        return await reading.Value.WaitAsync(cancel);
    }

    private async Task<Reading> ReadAsync(ContentHash content, Guid piece, ReaderTurn turn)
    {
        try
        {
            return await reader.ReadAsync(content, piece, turn);
        }
        finally
        {
            underWay.TryRemove(content, out _);
        }
    }
}
