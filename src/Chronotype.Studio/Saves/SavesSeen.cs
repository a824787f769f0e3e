using System.Collections.Concurrent;
using System.Threading.Channels;

namespace Chronotype.Studio.Saves;

/// <summary>A save that arrived.</summary>
/// <param name="IsDecided">It has its number by now, or a question that waits for an answer.</param>
public sealed record SeenSave(Guid Piece, Guid Save, bool IsDecided = false);

/// <summary>Tells whoever has a piece open that a save of it arrived, while the studio runs. Nothing hangs on it: the records say the same.</summary>
public sealed class SavesSeen
{
    private const int MostTold = 64;

    private readonly ConcurrentDictionary<Guid, (Guid? Piece, Channel<SeenSave> Told)> watching = new();

    /// <summary>Listens until it is disposed of. Who does not keep up is told once of several.</summary>
    public Watch Of(Guid piece) => Listen(piece, 1);

    /// <summary>Listens to every piece of the studio.</summary>
    public Watch OfAll() => Listen(null, MostTold);

    private Watch Listen(Guid? piece, int most)
    {
        var id = Guid.NewGuid();
        var told = Channel.CreateBounded<SeenSave>(new BoundedChannelOptions(most) { FullMode = BoundedChannelFullMode.DropOldest });
        watching[id] = (piece, told);
        return new Watch(told.Reader, () => watching.TryRemove(id, out _));
    }

    /// <summary>Says that a save arrived, or that more is known of it.</summary>
    /// <param name="isDecided">As of <see cref="SeenSave"/>.</param>
    public void Tell(Guid piece, Guid save, bool isDecided = false)
    {
        foreach (var (_, one) in watching)
        {
            if (one.Piece is null || one.Piece == piece)
                one.Told.Writer.TryWrite(new SeenSave(piece, save, isDecided));
        }
    }

    /// <summary>What somebody listens to.</summary>
    public sealed class Watch(ChannelReader<SeenSave> saves, Action end) : IDisposable
    {
        public ChannelReader<SeenSave> Saves => saves;

        public void Dispose() => end();
    }
}
