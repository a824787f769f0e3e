using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Records;
using Chronotype.Studio.Pieces;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Saves;

/// <summary>What came of asking for a number.</summary>
public abstract record KeepResult
{
    /// <param name="NewerThanBase">The version that was newest when this one's base was not; null where it was.</param>
    /// <param name="OutgrownWidth">The digits that numbers have had so far, when this is the first that needs more; null for any other.</param>
    public sealed record Kept(Guid SaveId, VersionNumber Number, string ExactName, VersionNumber? BasedOn, VersionNumber? NewerThanBase, int? OutgrownWidth = null) : KeepResult;

    /// <summary>The save has a number already.</summary>
    public sealed record Already(VersionNumber Number) : KeepResult;

    public sealed record Same(Guid SaveId, VersionNumber As, bool InsideOnly, bool MayInsist, VersionNumber Next) : KeepResult;

    public sealed record Question(Guid SaveId, IReadOnlyList<string> Doubts, VersionNumber Next) : KeepResult;

    /// <summary>There is no loose save to keep.</summary>
    public sealed record Nothing : KeepResult;
}

/// <summary>Gives a loose save the next number.</summary>
public sealed class KeepSave(StudioDb db, ReadSave readSave, TimeProvider time)
{
    public const int MaxNote = 2000;

    /// <summary>How long a keep waits for the save to be read; then it is kept unread, and read afterwards.</summary>
    public static readonly TimeSpan Patience = TimeSpan.FromSeconds(4);

    /// <param name="saveId">Null: the newest.</param>
    /// <param name="insist">The person has seen the objection and wants the number all the same.</param>
    public async Task<KeepResult> DoAsync(Guid pieceId, Guid? saveId, Guid personId, string? note, bool insist = false, CancellationToken cancel = default)
    {
        var id = saveId ?? await db.Saves.Where(s => s.PieceId == pieceId).OrderByDescending(s => s.Sequence).Select(s => (Guid?)s.Id).FirstOrDefaultAsync(cancel);
        if (id is null) return new KeepResult.Nothing();
        // What is inside decides, so it is read before the number is asked for, and before anyone has to wait for us.
        var reading = await readSave.TryWithinAsync(id.Value, Patience, cancel);

        await using var transaction = await db.Database.BeginTransactionAsync(cancel);
        var result = await Decide(pieceId, id.Value, reading, personId, note, insist, cancel);
        await db.SaveChangesAsync(cancel);
        await transaction.CommitAsync(cancel);
        return result;
    }

    private async Task<KeepResult> Decide(Guid pieceId, Guid saveId, Reading? reading, Guid personId, string? note, bool insist, CancellationToken cancel)
    {
        var piece = await db.Pieces.Include(p => p.Project).ThenInclude(p => p.Client).FirstAsync(p => p.Id == pieceId, cancel);
        var save = await db.Saves.Include(s => s.Files).FirstOrDefaultAsync(s => s.Id == saveId && s.PieceId == pieceId, cancel);
        if (save is null) return new KeepResult.Nothing();
        // The context may have read these rows before the transaction held them still.
        await db.Entry(piece).ReloadAsync(cancel);
        await db.Entry(save).ReloadAsync(cancel);
        if (save.Number is { } number) return new KeepResult.Already(new VersionNumber(number));

        var names = PieceNames.Of(piece);
        var line = await db.Saves.Where(s => s.PieceId == pieceId && s.Number != null)
            .Select(s => new { s.Number, s.Identity, s.Inside }).ToListAsync(cancel);
        var verdict = KeepRule.Decide(
            save.Identity, reading?.Inside, Number(save.BaseNumber),
            line.ConvertAll(v => new KeptContent(new VersionNumber(v.Number!.Value), v.Identity, v.Inside)),
            Number(piece.HighestNumber), names.Convention.Version.Start, names.NumberByHand(save.ReceivedName),
            await Doubts(piece, save, reading, cancel), insist);
        return verdict switch
        {
            KeepVerdict.Same same => new KeepResult.Same(save.Id, same.As, same.InsideOnly, same.MayInsist, names.Next(piece.HighestNumber, save.ReceivedName)),
            KeepVerdict.Question question => new KeepResult.Question(save.Id, question.Doubts, names.Next(piece.HighestNumber, save.ReceivedName)),
            KeepVerdict.Keep keep => await Give(piece, save, keep, names, personId, note, cancel),
            _ => throw new InvalidOperationException($"No one has said what to do about {verdict}."),
        };
    }

    private async Task<KeepResult> Give(Piece piece, Save save, KeepVerdict.Keep keep, PieceNames names, Guid personId, string? note, CancellationToken cancel)
    {
        var hand = await db.Users.Where(p => p.Id == personId).Select(p => p.Initials).FirstAsync(cancel);
        var width = names.Convention.Version.Width;
        var (before, now) = ($"{piece.HighestNumber ?? 0}".Length, $"{keep.Number.Value}".Length);
        piece.HighestNumber = keep.Number.Value;
        save.Number = keep.Number.Value;
        save.KeptAt = time.GetUtcNow();
        save.ExactName = names.Working(hand, keep.Number, DateOnly.FromDateTime(time.GetLocalNow().DateTime), ExtensionOf(save)).Name!.ToString();
        save.KeptById = personId;
        save.Note = WriteNote.Clean(note);
        return new KeepResult.Kept(save.Id, keep.Number, save.ExactName, Number(save.BaseNumber), keep.NewerThanBase, before <= width && now > width ? width : null);
    }

    private async Task<IReadOnlyList<string>> Doubts(Piece piece, Save save, Reading? reading, CancellationToken cancel)
    {
        var json = await db.Saves.Where(s => s.PieceId == piece.Id && s.Number != null)
            .OrderByDescending(s => s.Number).Select(s => s.Reading).FirstOrDefaultAsync(cancel);
        // What could not be read yet says neither that anything was lost nor that nothing was.
        var doubts = reading is null ? [] : SaveDoubts.Find(json is null ? null : RecordJson.Read<Reading>(json), reading).ToList();
        if (save.ArrivalNotice is not null) doubts.Add(save.ArrivalNotice);
        var extension = ExtensionOf(save);
        if (extension != piece.Extension) doubts.Add($"This piece is {Kind(piece.Extension)}; this save is {Kind(extension)}.");
        return doubts;
    }

    private static string ExtensionOf(Save save) => FileNames.Extension(save.Files.First(f => f.IsMain).Path);

    private static string Kind(string extension) => extension.Length == 0 ? "a file without an extension" : $"a {extension} file";

    private static VersionNumber? Number(int? value) => value is { } v ? new VersionNumber(v) : null;
}
