using Chronotype.Core.Content;
using Chronotype.Core.Versions;
using Chronotype.Storage.Records;
using Chronotype.Studio;
using Chronotype.Studio.Saves;
using Microsoft.AspNetCore.Mvc.ViewFeatures;

namespace Chronotype.Web.Pages.Pieces;

public enum SaidKind { Done, Ask, Bad }

/// <summary>What the last action came to, shown once on the next page.</summary>
/// <param name="Insist">The save that may be kept all the same; null when there is nothing to insist on.</param>
/// <param name="InsistAs">The number that it would take.</param>
/// <param name="Give">The save that another piece, <paramref name="GiveTo"/>, may be given too.</param>
/// <param name="Reason">The milestone's reason, when the keep was for one.</param>
public sealed record Said(SaidKind Kind, string Sentence, Guid? Insist = null, string? InsistAs = null, string? Reason = null, Guid? Give = null, string? GiveTo = null)
{
    private const string Key = "said";

    public static void Put(ITempDataDictionary data, Said said) => data[Key] = RecordJson.Write(said);

    public static Said? Take(ITempDataDictionary data) => data[Key] is string json ? RecordJson.Read<Said>(json) : null;

    public static Said About(KeepResult result) => result switch
    {
        KeepResult.Kept { NewerThanBase: { } newer } k => new Said(SaidKind.Ask,
            $"Kept as {k.Number}. It was based on {k.BasedOn}, but {newer} is newer: compare the two before you go on."),
        KeepResult.Kept { OutgrownWidth: { } width } k => new Said(SaidKind.Ask, $"Kept as {k.Number}: {k.ExactName}. It needs more than {width} digits, so from here on sorting by name no longer sorts by number."),
        KeepResult.Kept k => new Said(SaidKind.Done, $"Kept as {k.Number}: {k.ExactName}"),
        KeepResult.Already a => new Said(SaidKind.Done, $"This save is {a.Number} already."),
        KeepResult.Same { MayInsist: false } s => new Said(SaidKind.Done, $"Nothing changed since {s.As}, so no number was taken."),
        KeepResult.Same { InsideOnly: true } s => new Said(SaidKind.Ask, $"The inside is the same as {s.As}: only times or the order of its parts differ. No number was taken.", s.SaveId, s.Next.ToString()),
        KeepResult.Same s => new Said(SaidKind.Ask, $"This is {s.As} again, byte for byte. No number was taken.", s.SaveId, s.Next.ToString()),
        KeepResult.Question q => new Said(SaidKind.Ask, $"{string.Join(" ", q.Doubts)} It is stored as a loose save and waits for your answer.", q.SaveId, q.Next.ToString()),
        _ => new Said(SaidKind.Bad, "There is no save to keep yet. Drop a file here first."),
    };

    public static Said Unchanged(Save newest) => newest.Number is { } number
        ? new Said(SaidKind.Done, $"Nothing changed since {new VersionNumber(number)}, so nothing was added.")
        : new Said(SaidKind.Done, "That is the newest save already, byte for byte, so nothing was added.");
}
