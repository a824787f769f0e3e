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

    /// <summary>Bytes.</summary>
    public long Length => new FileInfo(path).Length;

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

    /// <summary>As <see cref="MakeAsync"/>; what is made becomes a loose save on top of the newest.</summary>
    /// <param name="save">The save that it is made of.</param>
    /// <param name="name">What the file is called; null for the name that the save came under.</param>
    public async Task<Outcome<ReceivedSave>> SaveAsync(
        Actor actor,
        Piece piece,
        Save save,
        ReaderJob job,
        Func<IReadOnlyList<Stream>> open,
        string? name = null,
        CancellationToken cancel = default
    )
    {
        var (made, _) = await MakeAsync(job, open, cancel);
        if (made is null)
            return new Refusal.NotRelinked(piece.CurrentName);
        using (made)
        {
            await using var bytes = File.OpenRead(made.Path);
            var content = new ArrivingContent(name ?? save.ReceivedName, bytes) { IsNoFace = true };
            return await receiveSave.DoAsync(actor, new SaveTarget.OfPiece(piece.Id), content, cancel);
        }
    }
}
