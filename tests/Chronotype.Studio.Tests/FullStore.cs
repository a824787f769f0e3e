using System.Reflection;
using Chronotype.Content;
using Microsoft.Extensions.DependencyInjection;

namespace Chronotype.Studio.Tests;

/// <summary>The real store, whose disk is full while somebody says so: nothing more is staged.</summary>
public class FullStore : DispatchProxy
{
    private IContentStore store = null!;

    /// <summary>How often something was to be staged while the disk was full.</summary>
    public int Refused { get; private set; }

    public bool IsFull { get; set; }

    /// <summary>How often something was staged, or was to be.</summary>
    public int Staged { get; private set; }

    /// <summary>Puts it between a studio and its store.</summary>
    public static void Between(IServiceCollection services) =>
        services.AddSingleton<IContentStore>(s =>
        {
            var proxy = Create<IContentStore, FullStore>();
            ((FullStore)(object)proxy).store = s.GetRequiredService<ContentStore>();
            return proxy;
        });

    protected override object? Invoke(MethodInfo? method, object?[]? args)
    {
        if (method!.Name == nameof(IContentStore.StageAsync))
            Staged++;
        if (IsFull && method.Name == nameof(IContentStore.StageAsync))
        {
            Refused++;
            // Half of it was taken in when there was no more room.
            var bytes = args!.OfType<Stream>().First();
            bytes.ReadExactly(new byte[bytes.Length / 2]);
            throw new StorageFullException(new IOException("No space left on device"));
        }
        try
        {
            return method.Invoke(store, args);
        }
        catch (TargetInvocationException e)
        {
            System.Runtime.ExceptionServices.ExceptionDispatchInfo.Throw(e.InnerException!);
            throw;
        }
    }
}
