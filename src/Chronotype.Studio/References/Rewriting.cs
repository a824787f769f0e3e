using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Core.Readers;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Jobs;
using Chronotype.Studio.Pieces;
using Chronotype.Studio.Readers;
using Chronotype.Studio.Saves;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.References;

/// <summary>A file that was made of others, set aside until it is closed.</summary>
public sealed class MadeFile(string path, ReaderAnswer answer) : IDisposable
{
    public string Path => path;

    public ReaderAnswer Answer => answer;

    public void Dispose() => File.Delete(path);
}

/// <summary>Has contents written anew in a reader process. What is made is given out, or becomes the newest loose save of a piece.</summary>
public sealed class Rewriting(FileReader reader, ReceiveSave receiveSave, DeedRunner deeds, IContentStore store, DataFolder data)
{
    /// <param name="open">The contents, opened anew at each call.</param>
    /// <returns>The file, or why it could not be made.</returns>
    /// <exception cref="IOException">A content could not be read from where it is kept, or the new one not be written.</exception>
    public async Task<(MadeFile? File, FileFault? Fault)> MakeAsync(
        ReaderJob job,
        Func<IReadOnlyList<Stream>> open,
        CancellationToken cancel = default,
        IProgress<(long Done, long Total)>? progress = null
    )
    {
        Directory.CreateDirectory(data.Scratch);
        var made = Path.Combine(data.Scratch, $"{Guid.NewGuid():N}.{job.Kind.ToString().ToLowerInvariant()}");
        try
        {
            var (answer, fault) = await reader.WriteAsync(job, open, path => File.Move(path, made), cancel, progress);
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

    /// <summary>Puts files that were made in the place of files of a folder: as a loose save on top, with all else of it as it is.</summary>
    /// <param name="saveId">The save of several files.</param>
    /// <param name="made">By the path of the file that each takes the place of.</param>
    internal async Task<Outcome<ReceivedSave>> InFolderAsync(
        Actor actor,
        Guid saveId,
        IReadOnlyDictionary<string, MadeFile> made,
        CancellationToken cancel
    )
    {
        var staged = new Dictionary<string, StagedContent>();
        try
        {
            foreach (var (path, file) in made)
            {
                await using var bytes = File.OpenRead(file.Path);
                staged[path] = await store.StageAsync(bytes, cancel);
            }
            await store.CommitAsync([.. staged.Values], cancel);
            return await deeds.DoAsync<ReceivedSave>(
                actor,
                Right.Work,
                async deed =>
                {
                    var old = await deed
                        .Db.Saves.Include(s => s.Files)
                        .Include(s => s.Faces)
                        .AsSplitQuery()
                        .Include(s => s.Piece)
                            .ThenInclude(p => p.Lines)
                        .Include(s => s.Piece)
                            .ThenInclude(p => p.Project)
                                .ThenInclude(p => p.Client)
                        .FirstOrDefaultAsync(s => s.Id == saveId, CancellationToken.None);
                    if (old is null)
                        return new Refusal.NoSuchSave();
                    var put = staged.ToDictionary(s => s.Key, s => (s.Value.Hash, s.Value.Size));
                    var save = await BringBack.OnTopOfAsync(deed, old.Piece, old, CancellationToken.None, put);
                    save.BaseNumber = old.Number ?? old.BaseNumber;
                    save.NewBytes = staged.Values.Sum(s => s.NewBytes);
                    foreach (var (hash, _) in put.Values)
                        await deed.QueueAsync(JobRequest.Read(hash, old.PieceId), CancellationToken.None);
                    if (KeepBySetting.IsKeptAtOnce(old.Piece.Keep ?? old.Piece.Project.Keep, save.Sequence))
                        await deed.QueueAsync(JobRequest.KeepBySetting(save.Id, old.PieceId), CancellationToken.None);
                    var next = PieceNames.Of(old.Piece).On(old.Piece.Line.Name).Next(old.Piece.Line.HighestNumber);
                    return new ReceivedSave(old.Piece, save, true, null, null, next, null) { InOrder = next };
                },
                CancellationToken.None
            );
        }
        finally
        {
            foreach (var one in staged.Values)
                one.Dispose();
        }
    }
}
