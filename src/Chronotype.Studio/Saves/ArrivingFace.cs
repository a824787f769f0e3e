using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Versions;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Saves;

/// <summary>Whether what arrives for a piece is the face of one of its saves, or brings one along.</summary>
internal static class ArrivingFace
{
    /// <summary>What has to be read before that can be told; nothing for most.</summary>
    /// <param name="extension">Of the piece's files; null or empty where it has none yet.</param>
    /// <param name="name">What the file was called when it came.</param>
    public static IEnumerable<ContentFile> ToBeRead(string? extension, string name, SaveContent content)
    {
        if (content.Files.Count == 1)
            return extension is { Length: > 0 } && FileNames.Extension(name) != extension ? [content.Main] : [];
        var companions = FaceRule.Companions(content.Main.Path, content.Files.Select(f => f.Path));
        return companions.Count == 0 ? [] : [content.Main, .. companions.Select(c => content.Files.First(f => f.Path == c))];
    }

    /// <summary>A flat file that comes beside a native that cannot be read: it is no save of its own, and shows what that one looks like.</summary>
    /// <returns>The save whose face it is; null where it is none.</returns>
    public static async Task<FacedSave?> OfAsync(
        Deed deed,
        Piece piece,
        Save newest,
        string name,
        SaveContent content,
        CancellationToken cancel
    )
    {
        var db = deed.Db;
        if (content.Files.Count > 1 || FileNames.Extension(name) == piece.Extension)
            return null;
        if (
            !await AttachFace.CanBeFaceAsync(db, content.Main.Hash, cancel) || !await AttachFace.NeedsFaceAsync(db, newest.MainHash, cancel)
        )
            return null;
        var saves = await db
            .Saves.Where(s => s.PieceId == piece.Id && s.MainHash != content.Main.Hash)
            .OrderByDescending(s => s.Sequence)
            .Select(s => new
            {
                s.Id,
                s.MainHash,
                s.ReceivedName,
                s.ExactName,
                s.ArrivedAt,
            })
            .ToListAsync(cancel);
        var found = FaceRule.Find(
            FileNames.Stem(name),
            piece.CurrentName,
            deed.Now,
            saves.ConvertAll(s => new ClosedSave(s.ReceivedName, s.ExactName, s.ArrivedAt))
        );
        if (found is not { } fit || !await AttachFace.NeedsFaceAsync(db, saves[fit.Index].MainHash, cancel))
            return null;
        var save = await db.Saves.FirstAsync(s => s.Id == saves[fit.Index].Id, cancel);
        return await AttachFace.WithinAsync(deed, save, new FaceFile(content.Main.Hash, content.Main.Size, name), fit.Origin, cancel);
    }

    /// <summary>Gives a save that arrived the face that lies in its own folder, or that came in its sitting before it did.</summary>
    public static async Task GiveAsync(Deed deed, Save save, Save? newest, SaveContent content, CancellationToken cancel)
    {
        var db = deed.Db;
        if (await AttachFace.NeedsFaceAsync(db, content.Main.Hash, cancel))
        {
            foreach (var path in FaceRule.Companions(content.Main.Path, content.Files.Select(f => f.Path)))
            {
                var file = content.Files.First(f => f.Path == path);
                if (!await AttachFace.CanBeFaceAsync(db, file.Hash, cancel))
                    continue;
                await AttachFace.WithinAsync(deed, save, new FaceFile(file.Hash, file.Size, file.Path.Text), FaceOrigin.Companion, cancel);
                return;
            }
        }
        // What comes after a native that is closed, under the same extension, is closed, too.
        if (newest is not null && await AttachFace.NeedsFaceAsync(db, newest.MainHash, cancel))
            await MoveToAsync(deed, save, cancel);
    }

    // Gives a save the face that came in its sitting before it did, and was taken for the one of the save before.
    private static async Task MoveToAsync(Deed deed, Save save, CancellationToken cancel)
    {
        var last = await deed
            .Db.Faces.Where(f => f.TakenOffAt == null && f.Origin != FaceOrigin.ByHand && f.Origin != FaceOrigin.Companion)
            .Join(deed.Db.Saves.Where(s => s.PieceId == save.PieceId), f => f.SaveId, s => s.Id, (f, s) => new { Face = f, Save = s })
            .OrderByDescending(x => x.Face.AttachedAt)
            .FirstOrDefaultAsync(cancel);
        if (
            last is null
            || last.Save.Sequence != save.Sequence - 1
            || !Sittings.Together(last.Face.AttachedAt, save.ArrivedAt)
            || Sittings.Together(last.Save.ArrivedAt, last.Face.AttachedAt)
            // What has the name of that very version is its own.
            || FaceRule.IsNamed(last.Save.ExactName, last.Face.Name)
        )
            return;
        last.Face.TakenOffAt = deed.Now;
        var before = await deed
            .Db.Faces.Where(f => f.SaveId == last.Save.Id && f.TakenOffAt == null && f.Id != last.Face.Id)
            .ToListAsync(cancel);
        last.Save.FaceHash = before.MaxBy(f => (f.AttachedAt, f.Id))?.Hash;
        await AttachFace.CompareAnewAsync(deed, last.Save, cancel);
        await AttachFace.WithinAsync(deed, save, new FaceFile(last.Face.Hash, last.Face.Size, last.Face.Name), last.Face.Origin, cancel);
    }
}
