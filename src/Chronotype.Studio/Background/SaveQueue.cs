using System.Threading.Channels;

namespace Chronotype.Studio.Background;

/// <summary>Saves that wait to be read, kept by their piece's setting, and measured.</summary>
public sealed class SaveQueue
{
    private readonly Channel<Guid> channel = Channel.CreateUnbounded<Guid>();

    public void Add(Guid saveId) => channel.Writer.TryWrite(saveId);

    internal IAsyncEnumerable<Guid> ReadAllAsync(CancellationToken cancel) => channel.Reader.ReadAllAsync(cancel);
}
