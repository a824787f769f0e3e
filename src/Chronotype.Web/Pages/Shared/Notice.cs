using Chronotype.Core.Content;
using Chronotype.Core.Versions;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Saves;
using Chronotype.Web.Words;
using Microsoft.AspNetCore.Mvc.ViewFeatures;

namespace Chronotype.Web.Pages.Shared;

public enum NoticeKind
{
    Done,
    Ask,
    Bad,
}

/// <summary>What the last action came to, shown once on the next page.</summary>
/// <param name="Insist">The save that may be kept all the same; null when there is nothing to insist on.</param>
/// <param name="InsistAs">The number that it would take.</param>
/// <param name="Give">The save that another piece, <paramref name="GiveTo"/>, may be given too.</param>
/// <param name="Undo">Where a form is sent to take it back; null where it cannot be.</param>
/// <param name="Reason">The milestone's reason, when the keep was for one.</param>
public sealed record Notice(
    NoticeKind Kind,
    string Sentence,
    Guid? Insist = null,
    string? InsistAs = null,
    string? Reason = null,
    Guid? Give = null,
    string? GiveTo = null,
    string? Undo = null
)
{
    /// <summary>It says what speaks against a save, which the piece's own page says for as long as it is not answered.</summary>
    public bool IsQuestion { get; init; }

    /// <summary>The face that what arrived became, and that may be made a save instead; null for none.</summary>
    public Guid? FaceAsSave { get; init; }

    /// <summary>The companion that can be made a save instead; null for none.</summary>
    public Guid? CompanionAsSave { get; init; }

    private const string Key = "notice";

    public static void Put(ITempDataDictionary data, Notice notice) => data[Key] = RecordJson.Write(notice);

    public static Notice? Take(ITempDataDictionary data) => data[Key] is string json ? RecordJson.Read<Notice>(json) : null;

    public static Notice Done(string sentence) => new(NoticeKind.Done, sentence);

    public static Notice About(Refusal refusal) =>
        refusal is Refusal.NotKept kept ? About(kept.Objection) : new(NoticeKind.Bad, RefusalWords.Of(refusal));

    public static Notice About(KeepResult result) =>
        result switch
        {
            KeepResult.Kept { NewerThanBase: { } newer } k => new Notice(
                NoticeKind.Ask,
                $"Kept as {k.Number}. It was based on {k.BasedOn}, but {newer} is newer: compare the two before you go on."
            ),
            KeepResult.Kept { OutgrownWidth: { } width } k => new Notice(
                NoticeKind.Ask,
                $"Kept as {k.Number}: {k.ExactName}. It needs more than {width} digits, so from here on sorting by name no longer "
                    + $"sorts by number."
            ),
            KeepResult.Kept k => Done($"Kept as {k.Number}: {k.ExactName}{(k.Count is { } count ? $". {CountWords.Of(count)}" : "")}"),
            KeepResult.Already a => Done($"This save is {a.Number} already."),
            KeepResult.Same { MayInsist: false } s => Done($"Nothing changed since {s.As}, so no number was taken."),
            KeepResult.Same { InsideOnly: true } s => new Notice(
                NoticeKind.Ask,
                $"The inside is the same as {s.As}: only times or the order of its parts differ. No number was taken.",
                s.SaveId,
                s.Next.ToString()
            ),
            KeepResult.Same s => new Notice(
                NoticeKind.Ask,
                $"This is {s.As} again, byte for byte. No number was taken.",
                s.SaveId,
                s.Next.ToString()
            ),
            KeepResult.Question q => new Notice(
                NoticeKind.Ask,
                $"{string.Join(" ", q.Doubts.Select(FactWords.Of))} It is stored as a loose save and waits for your answer.",
                q.SaveId,
                q.Next.ToString()
            )
            {
                IsQuestion = true,
            },
            KeepResult.Pending => Done("It is stored. Chronotype is reading it, and then gives it its number or asks you."),
            _ => new Notice(NoticeKind.Bad, "There is no save to keep yet. Drop a file here first."),
        };

    public static Notice Unchanged(Save newest) =>
        newest.Number is { } number
            ? Done($"Nothing changed since {new VersionNumber(number)}, so nothing was added.")
            : Done("That is the newest save already, byte for byte, so nothing was added.");
}
