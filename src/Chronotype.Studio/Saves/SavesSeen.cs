using System.Collections.Concurrent;
using System.Threading.Channels;

namespace Chronotype.Studio.Saves;

/// <summary>Tells whoever has a piece open that a save of it arrived, while the studio runs. Nothing hangs on it: the records say the same.</summary>
public sealed class SavesSeen
{
    private readonly ConcurrentDictionary<Guid, (Guid Piece, Channel<Guid> Told)> watching = new();

    /// <summary>Listens until it is disposed of. Who does not keep up is told once of several.</summary>
    public Watch Of(Guid piece)
    {
        var id = Guid.NewGuid();
        var told = Channel.CreateBounded<Guid>(new BoundedChannelOptions(1) { FullMode = BoundedChannelFullMode.DropOldest });
        watching[id] = (piece, told);
        return new Watch(told.Reader, () => watching.TryRemove(id, out _));
    }

    /// <summary>Says that a save arrived, or that more is known of it.</summary>
    public void Tell(Guid piece, Guid save)
    {
        foreach (var (_, one) in watching)
        {
            if (one.Piece == piece)
                one.Told.Writer.TryWrite(save);
        }
    }

    /// <summary>What somebody listens to.</summary>
    public sealed class Watch(ChannelReader<Guid> saves, Action end) : IDisposable
    {
        public ChannelReader<Guid> Saves => saves;

        public void Dispose() => end();
    }
}
