using Chronotype.Content.Files;

namespace Chronotype.Content;

/// <summary>
/// A hold on a store's segments across processes: who copies them takes it, and so does who takes bytes away, so that neither
/// happens in the middle of the other. Saves go on meanwhile. A process that ends lets go.
/// </summary>
internal static class KeepStill
{
    private const string FileName = "still";
    private static readonly TimeSpan Pause = TimeSpan.FromMilliseconds(200);

    /// <summary>Takes the hold as soon as it is free.</summary>
    public static IDisposable Wait(IStoreFiles files, string folder, CancellationToken cancel)
    {
        while (true)
        {
            if (Try(files, folder) is { } held)
                return held;
            cancel.WaitHandle.WaitOne(Pause);
            cancel.ThrowIfCancellationRequested();
        }
    }

    /// <returns>Null where somebody else has it.</returns>
    public static IDisposable? Try(IStoreFiles files, string folder)
    {
        try
        {
            return files.Hold(Path.Combine(folder, FileName));
        }
        catch (StorageFullException)
        {
            throw;
        }
        catch (IOException)
        {
            return null;
        }
    }
}
