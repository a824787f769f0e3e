using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Naming.Checking;

namespace Chronotype.Core.Structure;

/// <summary>What a folder plan must be, so that a project can start with it.</summary>
public static class PlanRules
{
    /// <summary>The most of each that a plan may have, and the longest texts, in characters.</summary>
    public const int MostFolders = 2000,
        MostFunctions = 200,
        MostReserved = 300,
        MaxKey = 40,
        MaxTitle = 80,
        MaxPurpose = 200,
        MaxMeaning = ConventionRules.MaxMeaning;

    // What a project's own name and its files' names need of the longest path that most systems take.
    private const int MaxPath = 200;

    /// <summary>Every fault of a plan; none for one that a project can start with.</summary>
    public static IReadOnlyList<SettingFault> Check(FolderPlan plan)
    {
        var faults = new List<SettingFault>();
        void Fault(string place, string message) => faults.Add(new SettingFault(place, message));
        if (!IsKey(plan.Key))
            Fault("plan", $"A plan's key has 1 to {MaxKey} lower-case letters, digits and hyphens, and begins with a letter.");
        if (plan.Title.Length is 0 or > MaxTitle)
            Fault("title", $"A title has 1 to {MaxTitle} characters.");
        if (plan.Purpose.Length > MaxPurpose)
            Fault("purpose", $"What it is for is said in at most {MaxPurpose} characters.");
        CheckFolders(plan.Folders, Fault);
        CheckFunctions(plan.Functions, Fault);
        if (plan.Spec.OutOfRange() is { } point)
            Fault("spec", $"What is asked of the {point} is out of range.");
        CheckReserved(plan.Reserved, Fault);
        return faults;
    }

    /// <summary>Whether a text may be a plan's key.</summary>
    public static bool IsKey(string key) =>
        key.Length is > 0 and <= MaxKey
        && char.IsAsciiLetterLower(key[0])
        && key.All(c => char.IsAsciiLetterLower(c) || char.IsAsciiDigit(c) || c == '-');

    private static void CheckFolders(IReadOnlyList<PlanFolder> folders, Action<string, string> fault)
    {
        if (folders.Count > MostFolders)
            fault("folders", $"A plan has at most {MostFolders} folders.");
        if (!folders.Any(f => f.Role == FolderRole.Home))
            fault("folders", "No folder is for current files: one has the role “home”.");
        var known = new Dictionary<string, PlanFolder>();
        for (var i = 0; i < Math.Min(folders.Count, MostFolders); i++)
        {
            var folder = folders[i];
            var place = $"folders[{i}]";
            var names = new List<NameFault>();
            FileSystemRules.Check(folder.Path.Name, null, names);
            if (names.Count > 0)
                fault($"{place}.path", names[0].Message);
            if (folder.Path.Text.Length > MaxPath)
                fault($"{place}.path", $"A folder's path has at most {MaxPath} characters, so that its files' names find room.");
            if (folder.Purpose.Length > MaxPurpose)
                fault($"{place}.purpose", $"What it is for is said in at most {MaxPurpose} characters.");
            if (!known.TryAdd(folder.Path.Key, folder))
                fault($"{place}.path", $"“{folder.Path}” stands twice in the plan, or differs in case alone.");
        }
        for (var i = 0; i < Math.Min(folders.Count, MostFolders); i++)
        {
            if (folders[i].Path.Folder is not { } around)
                continue;
            if (!known.TryGetValue(around.Key, out var parent))
                fault($"folders[{i}].path", $"The folder “{around}” that it lies in is not in the plan.");
            else if (parent.Role.IsWorking() != folders[i].Role.IsWorking())
                fault(
                    $"folders[{i}].role",
                    parent.Role.IsWorking()
                        ? $"“{around}” is a working folder, and so is what lies in it."
                        : $"“{around}” is no working folder, and so nothing in it is one."
                );
        }
    }

    private static void CheckFunctions(IReadOnlyList<FunctionCode> functions, Action<string, string> fault)
    {
        if (functions.Count > MostFunctions)
            fault("functions", $"A plan has at most {MostFunctions} functions.");
        var codes = new HashSet<string>(StringComparer.OrdinalIgnoreCase);
        for (var i = 0; i < functions.Count; i++)
        {
            if (!CodeRule.IsCode(functions[i].Code))
                fault($"functions[{i}].code", $"A code has 1 to {CodeRule.MaxLength} letters and digits, with hyphens inside.");
            else if (!codes.Add(functions[i].Code))
                fault($"functions[{i}].code", $"“{functions[i].Code}” stands twice, or differs in case alone.");
            if (functions[i].Meaning.Length > MaxMeaning)
                fault($"functions[{i}].meaning", $"A meaning has at most {MaxMeaning} characters.");
        }
    }

    private static void CheckReserved(IReadOnlyList<ReservedName> reserved, Action<string, string> fault)
    {
        if (reserved.Count > MostReserved)
            fault("reserved", $"A plan reserves at most {MostReserved} names.");
        for (var i = 0; i < reserved.Count; i++)
        {
            if (reserved[i].Slots.Values.All(string.IsNullOrWhiteSpace))
                fault($"reserved[{i}]", "A reserved name says something in one slot at least.");
            if (reserved[i].Slots.Values.Any(v => v.Length > MaxPurpose))
                fault($"reserved[{i}]", $"A slot of it has more than {MaxPurpose} characters.");
        }
    }
}
