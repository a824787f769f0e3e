using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Storage;
using Chronotype.Storage.Content;
using Chronotype.Storage.Records;
using Chronotype.Studio.Pieces;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Saves;

/// <param name="Save">The save that holds the content: the new one, or the newest when that holds it already.</param>
/// <param name="IsNew">False when nothing was added, since the newest save holds the same content.</param>
/// <param name="NumberNotice">Why a number written into the file's name is not taken; null where there is nothing to say.</param>
public sealed record TakenSave(Save Save, bool IsNew, string? NumberNotice = null);

/// <summary>Takes content that arrives for a piece. It is stored, durably, before anything is decided about it.</summary>
public sealed class TakeSave(StudioDb db, IContentStore store, TimeProvider time)
{
    /// <param name="receivedName">As the browser or program gave it; not trusted.</param>
    /// <param name="content">Read to its end in constant memory.</param>
    /// <exception cref="StorageFullException">The disk is full; nothing was taken, and nothing older is touched.</exception>
    public async Task<TakenSave> DoAsync(Guid pieceId, Guid personId, string receivedName, Stream content, CancellationToken cancel = default)
    {
        var name = FileNames.Received(receivedName);
        using var staged = await store.StageAsync(content, cancel);
        var arrived = await ContentOf(pieceId, name, staged, cancel);
        return await Record(pieceId, personId, name, arrived, cancel);
    }

    /// <param name="Notice">What the person should know about how it arrived; null for nothing.</param>
    /// <param name="ChangedAt">By path, when files were last changed.</param>
    private sealed record Arrived(SaveContent Content, string? Notice, IReadOnlyDictionary<ProjectPath, DateTime?> ChangedAt, IReadOnlyList<ProjectPath> EmptyFolders);

    private async Task<Arrived> ContentOf(Guid pieceId, string name, StagedContent staged, CancellationToken cancel)
    {
        string? notice = null;
        if (FileNames.Extension(name) == ".zip")
        {
            try
            {
                return await FolderOf(pieceId, staged, cancel);
            }
            catch (FolderZip.NotUnpackedException e)
            {
                notice = e.Message;
            }
        }
        await store.CommitAsync(staged, cancel);
        var path = ProjectPath.TryParse(name, out var legal, out _) ? legal : ProjectPath.Parse("file" + FileNames.Extension(name));
        return new Arrived(new SaveContent([new ContentFile(path, staged.Hash, staged.Size)], path), notice, new Dictionary<ProjectPath, DateTime?>(), []);
    }

    private static string? NumberNotice(Piece piece, string name)
    {
        var names = PieceNames.Of(piece);
        var next = names.Next(piece.HighestNumber, name);
        return names.NumberByHand(name) is { } number && number != next
            ? $"Its name says {number}, but numbers are used once and in order here, so it is a loose save until it is kept as {next}."
            : null;
    }

    private async Task<Arrived> FolderOf(Guid pieceId, StagedContent staged, CancellationToken cancel)
    {
        using var unpacked = await FolderZip.UnpackAsync(staged, store, cancel);
        foreach (var (_, content, _) in unpacked.Files) await store.CommitAsync(content, cancel);
        var files = unpacked.Files.ConvertAll(u => new ContentFile(u.Path, u.Content.Hash, u.Content.Size));
        var before = await db.Pieces.Where(p => p.Id == pieceId).Select(p => new
        {
            p.Extension,
            Main = p.Saves.OrderByDescending(s => s.Sequence).SelectMany(s => s.Files).Where(f => f.IsMain).Select(f => f.Path).FirstOrDefault(),
        }).FirstAsync(cancel);
        return new Arrived(new SaveContent(files, FolderZip.Main(files, before.Main, before.Extension)), null, unpacked.Files.ToDictionary(u => u.Path, u => u.ChangedAt), unpacked.EmptyFolders);
    }

    private async Task<TakenSave> Record(Guid pieceId, Guid personId, string name, Arrived arrived, CancellationToken cancel)
    {
        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        var piece = await db.Pieces.Include(p => p.Project).ThenInclude(p => p.Client).FirstAsync(p => p.Id == pieceId, cancel);
        var content = arrived.Content;
        // What was read of it before the upload says nothing about now.
        await db.Entry(piece).ReloadAsync(cancel);
        await ForgetDamageAsync(content, cancel);
        var newest = await db.Saves.Where(s => s.PieceId == pieceId).OrderByDescending(s => s.Sequence).FirstOrDefaultAsync(cancel);
        if (newest is not null && newest.Identity == content.Identity)
        {
            await transaction.CommitAsync(cancel);
            return new TakenSave(newest, false);
        }

        var save = new Save
        {
            PieceId = pieceId,
            Sequence = ++piece.HighestSequence,
            ArrivedAt = time.GetUtcNow(),
            ArrivedById = personId,
            ReceivedName = name,
            Identity = content.Identity,
            MainHash = content.Main.Hash,
            Size = content.Size,
            Files = content.Files.Select(f => new SaveFile { Path = f.Path.Text, Hash = f.Hash, Size = f.Size, IsMain = f == content.Main, ChangedAt = arrived.ChangedAt.GetValueOrDefault(f.Path) }).ToList(),
            BaseNumber = await db.Saves.Where(s => s.PieceId == pieceId).MaxAsync(s => s.Number, cancel),
            ArrivalNotice = arrived.Notice,
            EmptyFolders = arrived.EmptyFolders.Count == 0 ? null : string.Join('\n', arrived.EmptyFolders),
        };
        if (piece.Extension.Length == 0) piece.Extension = FileNames.Extension(content.Main.Path.Name);
        db.Saves.Add(save);
        await db.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
        return new TakenSave(save, true, NumberNotice(piece, name));
    }

    // Whatever of these contents was damaged was written anew as they arrived.
    private async Task ForgetDamageAsync(SaveContent content, CancellationToken cancel)
    {
        if (!await db.Set<CheckDamage>().AnyAsync(cancel)) return;
        var hashes = content.Files.Select(f => f.Hash).ToHashSet();
        foreach (var damage in (await db.Set<CheckDamage>().ToListAsync(cancel)).Where(d => hashes.Contains(d.Hash))) db.Remove(damage);
        await db.SaveChangesAsync(cancel);
    }
}
