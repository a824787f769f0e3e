using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Structure;
using Chronotype.Core.Versions;
using Chronotype.Studio.Conventions;
using Chronotype.Studio.Deeds;
using Chronotype.Web.Pages.Spec;
using Chronotype.Web.Words;

namespace Chronotype.Web.Pages.Plans;

/// <summary>A folder of a plan as it is typed.</summary>
public sealed record FolderLine(string Path, FolderRole Role, string Purpose);

/// <summary>A folder plan as it is typed: what stands in its fields, legal or not.</summary>
public sealed record PlanForm(
    string Title,
    string Purpose,
    KeepSetting Keep,
    IReadOnlyList<FolderLine> Folders,
    IReadOnlyList<FunctionCode> Functions,
    IReadOnlyList<IReadOnlyDictionary<string, string>> Reserved,
    SpecForm Spec,
    string Convention
)
{
    /// <summary>The convention is the studio's, as it is when a project starts.</summary>
    public const string Studios = "";

    /// <summary>The convention is the one that the plan has.</summary>
    public const string Own = "own";

    public static PlanForm Of(FolderPlan plan) =>
        new(
            plan.Title,
            plan.Purpose,
            plan.Keep,
            [.. plan.Folders.Select(f => new FolderLine(f.Path.Text, f.Role, f.Purpose))],
            plan.Functions,
            [.. plan.Reserved.Select(r => r.Slots)],
            SpecForm.Of(plan.Spec),
            plan.Convention is null ? Studios : Own
        );

    /// <param name="slots">The labels of the slots that a reserved name may fill.</param>
    public static PlanForm From(IFormCollection form, SpecForm spec, IReadOnlyList<string> slots)
    {
        string At(string field, int i) => form[field].ElementAtOrDefault(i)?.Trim() ?? "";
        IEnumerable<int> Rows(string field) => Enumerable.Range(0, form[field].Count);
        return new PlanForm(
            TypedText.Line(At("Title", 0)),
            TypedText.Line(At("Purpose", 0)),
            Enum.TryParse<KeepSetting>(At("Keep", 0), out var keep) && Enum.IsDefined(keep) ? keep : KeepSetting.WhenAsked,
            [
                .. Rows("FolderPath")
                    .Where(i => At("FolderPath", i).Length > 0)
                    .Select(i => new FolderLine(
                        At("FolderPath", i).TrimEnd('/'),
                        Enum.TryParse<FolderRole>(At("FolderRole", i), out var role) && Enum.IsDefined(role) ? role : default,
                        TypedText.Line(At("FolderPurpose", i))
                    )),
            ],
            [
                .. Rows("FunctionCode")
                    .Where(i => At("FunctionCode", i).Length > 0)
                    .Select(i => new FunctionCode(At("FunctionCode", i), TypedText.Line(At("FunctionMeaning", i)))),
            ],
            [
                .. Enumerable
                    .Range(0, slots.Select(s => form[$"Reserved.{s}"].Count).DefaultIfEmpty().Max())
                    .Select(i =>
                        slots
                            .Select(s => (Label: s, Value: TypedText.Line(At($"Reserved.{s}", i))))
                            .Where(s => s.Value.Length > 0)
                            .ToDictionary(s => s.Label, s => s.Value)
                    )
                    .Where(r => r.Count > 0),
            ],
            spec,
            At("Convention", 0)
        );
    }

    /// <summary>The plan that it says, or every fault that stands in its way.</summary>
    /// <param name="convention">Null for the studio's.</param>
    public (FolderPlan? Plan, IReadOnlyList<string> Faults) Read(string key, Convention? convention)
    {
        var faults = new List<string>();
        var folders = new List<PlanFolder>();
        foreach (var line in Folders)
        {
            if (ProjectPath.TryParse(line.Path, out var path, out _))
                folders.Add(new PlanFolder(path, line.Role, line.Purpose));
            else
                faults.Add($"“{line.Path}” is no path of folders within a project, such as “working/scenes”.");
        }
        var (spec, wrong) = Spec.Read();
        if (wrong is { } point)
            faults.Add($"{SpecWords.Title(point)} of the spec cannot be that.");
        if (faults.Count > 0)
            return (null, faults);
        var plan = new FolderPlan(key, Title, Purpose, FolderPlan.InOrder(folders), Functions, Keep)
        {
            Spec = spec!,
            Convention = convention,
            Reserved = [.. Reserved.Select(r => new ReservedName(r))],
        };
        return PlanRules.Check(plan) is { Count: > 0 } rules ? (null, [.. rules.Select(f => Said(f, plan))]) : (plan, []);
    }

    /// <summary>The slots that a reserved name may fill, under a convention.</summary>
    public static IReadOnlyList<string> SlotsOf(Convention convention) =>
        [.. ConventionStore.OwnSlots(convention).OrderBy(s => s.Rule is not WordsRule).Select(s => s.Label)];

    // A place in a file means nothing to whoever fills in a form.
    private static string Said(SettingFault fault, FolderPlan plan)
    {
        if (fault.Place.Split('[', ']') is not [var list, var at, ..] || !int.TryParse(at, out var i))
            return fault.Message;
        return list switch
        {
            "folders" => $"{plan.Folders[i].Path}: {fault.Message}",
            "functions" => $"Function {plan.Functions[i].Code}: {fault.Message}",
            _ => $"Reserved name {i + 1}: {fault.Message}",
        };
    }
}
