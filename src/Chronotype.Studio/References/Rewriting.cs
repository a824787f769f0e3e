using Chronotype.Core.Content;
using Chronotype.Core.Readers;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Readers;
using Chronotype.Studio.Saves;

namespace Chronotype.Studio.References;

/// <summary>A file that was made of others, set aside until it is closed.</summary>
public sealed class MadeFile(string path, ReaderAnswer answer) : IDisposable
{
    public string Path => path;

    public ReaderAnswer Answer => answer;

    public void Dispose() => File.Delete(path);
}

/// <summary>Has contents written anew in a reader process. What is made is given out, or becomes the newest loose save of a piece.</summary>
public sealed class Rewriting(FileReader reader, ReceiveSave receiveSave, DataFolder data)
{
    /// <param name="open">The contents, opened anew at each call.</param>
    /// <returns>The file, or why it could not be made.</returns>
    /// <exception cref="IOException">A content could not be read from where it is kept, or the new one not be written.</exception>
    public async Task<(MadeFile? File, FileFault? Fault)> MakeAsync(
        ReaderJob job,
        Func<IReadOnlyList<Stream>> open,
        CancellationToken cancel = default
    )
    {
        Directory.CreateDirectory(data.Scratch);
        var made = Path.Combine(data.Scratch, $"{Guid.NewGuid():N}.{job.Kind.ToString().ToLowerInvariant()}");
        try
        {
            var (answer, fault) = await reader.WriteAsync(job, open, path => File.Move(path, made), cancel);
            if (answer is not null && fault is null && File.Exists(made))
                return (new MadeFile(made, answer), null);
            File.Delete(made);
            return (null, fault ?? new FileFault(FileFaultCode.NotUnderstood));
        }
        catch
        {
            File.Delete(made);
            throw;
        }
    }

    /// <summary>As <see cref="MakeAsync"/>; what is made becomes a loose save on top of the newest, under the name that the save came under.</summary>
    /// <param name="save">The save that it is made of.</param>
    public async Task<Outcome<ReceivedSave>> SaveAsync(
        Actor actor,
        Piece piece,
        Save save,
        ReaderJob job,
        Func<IReadOnlyList<Stream>> open,
        CancellationToken cancel = default
    )
    {
        var (made, _) = await MakeAsync(job, open, cancel);
        return made is null
            ? new Refusal.NotRelinked(piece.CurrentName)
            : await ReceiveAsync(actor, new SaveTarget.OfPiece(piece.Id), made, save.ReceivedName, cancel);
    }

    /// <summary>Takes a file that was made for a save, and closes it.</summary>
    internal async Task<Outcome<ReceivedSave>> ReceiveAsync(
        Actor actor,
        SaveTarget target,
        MadeFile made,
        string name,
        CancellationToken cancel
    )
    {
        using var held = made;
        await using var bytes = File.OpenRead(made.Path);
        return await receiveSave.DoAsync(actor, target, new ArrivingContent(name, bytes) { IsASave = true }, cancel);
    }
}
