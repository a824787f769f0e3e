using System.Collections.Concurrent;
using Chronotype.Core.Naming;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Conventions;

/// <summary>The studio's convention and the codes that go with it.</summary>
public sealed class ConventionStore(StudioDb db)
{
    /// <summary>The lists that other records hold: the clients' codes and the projects'.</summary>
    public const string ClientList = "client",
        ProjectList = "project";

    private const int MostRemembered = 64;

    private static readonly ConcurrentDictionary<string, Convention> Remembered = [];
    private static readonly ConcurrentDictionary<string, NameGrammar> Grammars = [];

    /// <summary>
    /// A convention as records hold it, without its lists. The same text gives the same object, with what it has worked out.
    /// </summary>
    public static Convention Read(string json)
    {
        if (Remembered.TryGetValue(json, out var known))
            return known;
        if (Remembered.Count >= MostRemembered)
            Remembered.Clear();
        return Remembered[json] =
            ConventionFile.Read(json, new Dictionary<string, CodeList>()).Convention
            ?? throw new InvalidOperationException("A convention in the records cannot be read.");
    }

    /// <summary>
    /// Reads names of versions under a convention with the studio's codes. For the same codes it is the same object, with what it has
    /// worked out.
    /// </summary>
    /// <param name="json">As records hold it.</param>
    public static NameGrammar WorkingGrammar(string json, IReadOnlyDictionary<string, CodeList> lists)
    {
        var codes = lists
            .OrderBy(l => l.Key, StringComparer.Ordinal)
            .Select(l => $"{l.Key}:{string.Join(',', l.Value.Codes.Select(c => c.Code))}");
        var key = $"{json}\n{string.Join('\n', codes)}";
        if (Grammars.TryGetValue(key, out var known))
            return known;
        if (Grammars.Count >= MostRemembered)
            Grammars.Clear();
        var convention = Read(json);
        return Grammars[key] = new NameGrammar([(NameForm.Working, convention.Form(NameForm.Working))], lists, convention.Filler);
    }

    public static string Write(Convention convention) => ConventionFile.Write(convention, withLists: false);

    /// <summary>The slots whose value a person gives when a piece is started; the others are computed.</summary>
    public static IEnumerable<Slot> OwnSlots(Convention convention) =>
        convention.Slots.Where(s => s.Rule is WordsRule or SizeRule or CountRule or CodeRule { List: not (ClientList or ProjectList) });

    /// <summary>The convention that new projects begin with, as records hold it.</summary>
    public async Task<string> JsonAsync(CancellationToken cancel = default) =>
        await db.Studio.Select(s => s.Convention).SingleOrDefaultAsync(cancel) ?? Write(Convention.ForPlans());

    /// <summary>The convention that new projects begin with, with its lists.</summary>
    public async Task<Convention> LoadAsync(CancellationToken cancel = default)
    {
        var convention = Read(await JsonAsync(cancel));
        var lists = await ListsAsync(convention.Slots, cancel);
        // Codes are refused when a new convention could not hold them; what is there already is kept.
        return ConventionRules.Check(convention.Slots, convention.Labels, lists, convention.Filler).Count == 0
            ? convention.With(lists)
            : convention;
    }

    /// <summary>Why the studio's codes, as they are now, do not go with its convention: a sentence, or null where they do.</summary>
    public async Task<string?> ConflictAsync(CancellationToken cancel = default)
    {
        var convention = Read(await JsonAsync(cancel));
        var lists = await ListsAsync(convention.Slots, db.Projects.IgnoreQueryFilters([StudioDb.Seen]), cancel);
        if (ConventionRules.Check(convention.Slots, convention.Labels, lists, convention.Filler).FirstOrDefault() is { } fault)
            return fault.Message;
        return convention.With(lists).Grammar.FindAmbiguity() is { } twice
            ? $"The name “{twice.Name}” would have two readings: {twice.First}; or {twice.Second}."
            : null;
    }

    /// <summary>
    /// The codes of the lists that some slots name, and of the hands; lists without codes are left out, and take any code.
    /// </summary>
    public Task<Dictionary<string, CodeList>> ListsAsync(IReadOnlyList<Slot> slots, CancellationToken cancel = default) =>
        ListsAsync(slots, db.Projects, cancel);

    private async Task<Dictionary<string, CodeList>> ListsAsync(
        IReadOnlyList<Slot> slots,
        IQueryable<Project> projects,
        CancellationToken cancel
    )
    {
        var all = new Dictionary<string, List<CodeMeaning>>();
        foreach (var client in await db.Clients.OrderBy(c => c.Code).Select(c => new CodeMeaning(c.Code, c.Name)).ToListAsync(cancel))
            Add(ClientList, client);
        foreach (var project in await projects.OrderBy(p => p.Code).Select(p => new CodeMeaning(p.Code, p.Title)).ToListAsync(cancel))
            Add(ProjectList, project);
        foreach (var code in await db.Codes.OrderBy(c => c.Code).ToListAsync(cancel))
            Add(code.List, new CodeMeaning(code.Code, code.Meaning));
        foreach (var person in await db.Users.OrderBy(p => p.Initials).Select(p => new CodeMeaning(p.Initials, p.Name)).ToListAsync(cancel))
            Add(Convention.HandList, person);
        var named = slots.Select(s => s.Rule).OfType<CodeRule>().Select(r => r.List).ToHashSet();
        if (slots.Any(s => s.Rule is HandRule))
            named.Add(Convention.HandList);
        return all.Where(l => named.Contains(l.Key)).ToDictionary(l => l.Key, l => new CodeList(l.Value));

        void Add(string list, CodeMeaning code)
        {
            if (!all.TryGetValue(list, out var codes))
                all[list] = codes = [];
            codes.Add(code);
        }
    }
}
