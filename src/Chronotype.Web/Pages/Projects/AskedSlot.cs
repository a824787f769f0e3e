using Chronotype.Core.Naming;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Conventions;
using Chronotype.Studio.Projects;
using Chronotype.Web.Uploads;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Web.Pages.Projects;

/// <summary>A slot that a person fills when a piece is started.</summary>
/// <param name="Codes">What may be chosen; null where it is typed.</param>
/// <param name="IsNeeded">Whether the current file's name needs it; else it may stand open.</param>
public sealed record AskedSlot(Slot Slot, IReadOnlyList<CodeMeaning>? Codes, bool IsNeeded)
{
    public string Field => SlotFields.Prefix + Slot.Label;
    public string Title => char.ToUpperInvariant(Slot.Label[0]) + Slot.Label[1..].Replace('-', ' ');

    /// <summary>The slots that a project's convention asks for, words first; the codes of its plan stand first on their list.</summary>
    public static async Task<IReadOnlyList<AskedSlot>> LoadAsync(StudioDb db, Project project, CancellationToken cancel)
    {
        var convention = ConventionStore.Read(project.Convention);
        var needed = convention.Form(NameForm.Current);
        var order = PlanStore.Of(project).Functions.Select((f, i) => (f.Code, i)).ToDictionary(f => f.Code, f => f.i);
        var codes = (await db.Codes.AsNoTracking().ToListAsync(cancel)).ToLookup(c => c.List);
        return
        [
            .. ConventionStore
                .OwnSlots(convention)
                .Select(slot => new AskedSlot(
                    slot,
                    slot.Rule is CodeRule { List: var list }
                        ?
                        [
                            .. codes[list]
                                .OrderBy(c => order.GetValueOrDefault(c.Code, int.MaxValue))
                                .ThenBy(c => c.Code, StringComparer.Ordinal)
                                .Select(c => new CodeMeaning(c.Code, c.Meaning)),
                        ]
                        : null,
                    needed.Contains(slot) && !slot.MayBeAbsent
                ))
                .OrderBy(a => a.Slot.Rule is not WordsRule)
                .ThenBy(a => !a.IsNeeded),
        ];
    }
}
