using Chronotype.Core.Structure;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.People;

/// <summary>Sets what holds for all projects of the studio.</summary>
public sealed class SetStudio(DeedRunner deeds)
{
    private const int MostEndings = 60,
        MaxEnding = 17;

    /// <param name="leavesSettingsBehind">
    /// What programs keep for themselves in files of open formats is left out of what leaves the studio.
    /// </param>
    /// <param name="companions">Endings of the studio's own that make a file the companion of another: <c>.xmp</c>.</param>
    public Task<Outcome<StudioRecord>> DoAsync(
        Actor actor,
        bool leavesSettingsBehind,
        IReadOnlyList<string> companions,
        CancellationToken cancel = default
    ) =>
        deeds.DoAsync<StudioRecord>(
            actor,
            Right.SetConvention,
            async deed =>
            {
                var endings = companions
                    .Select(e => e.Trim().ToLowerInvariant())
                    .Where(e => e.Length > 0)
                    .Select(e => e[0] == '.' ? e : $".{e}")
                    .Distinct()
                    .Except(Companions.Usual)
                    .ToList();
                if (endings.Find(e => e.Length is < 2 or > MaxEnding || !e.Skip(1).All(char.IsAsciiLetterOrDigit)) is { } wrong)
                    return new Refusal.EndingNotLegal(wrong);
                if (endings.Count > MostEndings)
                    return new Refusal.Length("companions", 0, MostEndings * MaxEnding);
                var record = await deed.Db.Studio.SingleAsync(cancel);
                record.LeavesSettingsBehind = leavesSettingsBehind;
                record.Companions = endings.Count == 0 ? null : string.Join('\n', endings);
                return record;
            },
            cancel
        );
}
