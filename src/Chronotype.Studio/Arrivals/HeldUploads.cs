using System.Collections.Concurrent;
using System.Text.Json;
using Chronotype.Content;
using Chronotype.Content.Files;
using Chronotype.Core.Content;
using Chronotype.Storage;

namespace Chronotype.Studio.Arrivals;

/// <summary>A file that arrives in parts.</summary>
/// <param name="Name">As the browser gave it; not trusted.</param>
/// <param name="Length">Bytes that it is to have.</param>
/// <param name="PersonId">Who sends it; nobody else may go on with it.</param>
public sealed record HeldUpload(Guid Id, string Name, long Length, Guid PersonId, DateTimeOffset BegunAt);

/// <summary>
/// Files that arrive in parts, held until they are whole and have been given a place, so that a connection that breaks costs nothing
/// that had arrived. What nobody goes on with is dropped after <see cref="Lasts"/>.
/// </summary>
public sealed class HeldUploads(DataFolder data, TimeProvider time)
{
    /// <summary>How long a part is held after its last byte came.</summary>
    public static readonly TimeSpan Lasts = TimeSpan.FromDays(3);

    // A part is written by one sender at a time.
    private readonly ConcurrentDictionary<Guid, byte> busy = new();

    /// <summary>So many uploads of one person may be under way, and of all people together.</summary>
    public const int MostOfPerson = 100,
        MostOfStudio = 1_000;

    /// <exception cref="StorageFullException">The disk is full, or has no room for all that is under way.</exception>
    /// <exception cref="TooManyUploadsException">Too many are under way already.</exception>
    public async Task<HeldUpload> BeginAsync(string name, long length, Guid person, CancellationToken cancel = default)
    {
        ArgumentOutOfRangeException.ThrowIfNegative(length);
        var held = new HeldUpload(Guid.CreateVersion7(), name, length, person, time.GetUtcNow());
        Directory.CreateDirectory(data.Uploads);
        CheckRoom(length, person);
        await Guarded(async () =>
        {
            await WriteAsync(PartOf(held.Id), "", cancel);
            // It is there once it can be told what it is.
            await WriteAsync(FactsOf(held.Id), RecordJson.Write(held), cancel);
            FolderFlush.Flush(data.Uploads);
            return true;
        });
        return held;
    }

    // All announced uploads must find room together, so that none breaks off for want of it.
    private void CheckRoom(long length, Guid person)
    {
        var (all, own, outstanding) = (0, 0, length);
        foreach (var facts in Directory.GetFiles(data.Uploads, "*.json"))
        {
            try
            {
                var held = RecordJson.Read<HeldUpload>(File.ReadAllText(facts));
                all++;
                own += held.PersonId == person ? 1 : 0;
                outstanding = checked(outstanding + held.Length - new FileInfo(PartOf(held.Id)).Length);
            }
            catch (Exception e) when (e is FileNotFoundException or JsonException)
            {
                // It has got its place meanwhile, or a stop left half of it.
            }
            catch (OverflowException)
            {
                outstanding = long.MaxValue;
            }
        }
        if (own >= MostOfPerson || all >= MostOfStudio)
            throw new TooManyUploadsException(own >= MostOfPerson ? MostOfPerson : MostOfStudio);
        if (outstanding > new DriveInfo(data.Root).AvailableFreeSpace)
            throw new StorageFullException(new IOException("There is less room on the disk than all uploads under way need together."));
    }

    /// <returns>It, and how much of it has arrived; null where there is none, or it is somebody else's.</returns>
    public async Task<(HeldUpload Held, long Arrived)?> FindAsync(Guid id, Guid person, CancellationToken cancel = default)
    {
        try
        {
            var held = RecordJson.Read<HeldUpload>(await File.ReadAllTextAsync(FactsOf(id), cancel));
            return held.PersonId == person ? (held, new FileInfo(PartOf(id)).Length) : null;
        }
        catch (Exception e) when (e is FileNotFoundException or DirectoryNotFoundException or JsonException)
        {
            return null;
        }
    }

    /// <summary>Takes a part, as much of it as arrives.</summary>
    /// <param name="at">Where it begins: exactly where what is there ends.</param>
    /// <returns>How much has arrived now; null where another sender is at it, or it does not begin there.</returns>
    /// <exception cref="StorageFullException">The disk is full; what had arrived is held.</exception>
    public async Task<long?> AppendAsync(HeldUpload held, long at, Stream bytes, CancellationToken cancel = default)
    {
        if (!busy.TryAdd(held.Id, 0))
            return null;
        try
        {
            return await Guarded<long?>(async () =>
            {
                await using var part = new FileStream(
                    PartOf(held.Id),
                    FileMode.Open,
                    FileAccess.Write,
                    FileShare.Read,
                    1,
                    FileOptions.Asynchronous
                );
                if (part.Length != at)
                    return null;
                part.Position = at;
                var buffer = new byte[1 << 17];
                try
                {
                    // Never more than was said: the rest is somebody's mistake.
                    for (int read; part.Position < held.Length; await part.WriteAsync(buffer.AsMemory(0, read), CancellationToken.None))
                    {
                        var most = (int)Math.Min(buffer.Length, held.Length - part.Position);
                        read = await bytes.ReadAsync(buffer.AsMemory(0, most), cancel);
                        if (read == 0)
                            break;
                    }
                }
                finally
                {
                    // Also of a connection that broke: what came so far is where it goes on, and is told to have arrived.
                    part.Flush(flushToDisk: true);
                }
                return part.Position;
            });
        }
        finally
        {
            busy.TryRemove(held.Id, out _);
        }
    }

    /// <summary>All of a file that has arrived whole.</summary>
    public Stream Open(HeldUpload held) =>
        new FileStream(
            PartOf(held.Id),
            FileMode.Open,
            FileAccess.Read,
            FileShare.Read,
            1 << 16,
            FileOptions.Asynchronous | FileOptions.SequentialScan
        );

    /// <summary>Lets it go: it has its place, or is not wanted any more.</summary>
    public void Drop(Guid id)
    {
        File.Delete(FactsOf(id));
        File.Delete(PartOf(id));
    }

    /// <summary>Lets go of what nobody went on with.</summary>
    public void DropOld()
    {
        if (!Directory.Exists(data.Uploads))
            return;
        var before = (time.GetUtcNow() - Lasts).UtcDateTime;
        // Of each what it is and what has arrived, as far as a stop left both.
        foreach (var upload in Directory.GetFiles(data.Uploads).GroupBy(Path.GetFileNameWithoutExtension).ToList())
        {
            if (Guid.TryParse(upload.Key, out var id) && !busy.ContainsKey(id) && upload.Max(File.GetLastWriteTimeUtc) < before)
                Drop(id);
        }
    }

    private static async Task WriteAsync(string path, string text, CancellationToken cancel)
    {
        await using var file = new FileStream(path, FileMode.Create, FileAccess.Write);
        await file.WriteAsync(System.Text.Encoding.UTF8.GetBytes(text), cancel);
        file.Flush(flushToDisk: true);
    }

    private static async Task<T> Guarded<T>(Func<Task<T>> write)
    {
        try
        {
            return await write();
        }
        catch (IOException e) when (DataFolder.IsFull(e))
        {
            throw new StorageFullException(e);
        }
    }

    private string PartOf(Guid id) => Path.Combine(data.Uploads, $"{id:N}.part");

    private string FactsOf(Guid id) => Path.Combine(data.Uploads, $"{id:N}.json");
}

/// <summary>More uploads are under way than one person, or the studio, may have.</summary>
public sealed class TooManyUploadsException(int most)
    : Exception($"{most} uploads are under way already. Wait until some of them are finished, or cancel them; then send this file again.");
