using Chronotype.Core.Naming;
using Chronotype.Core.Naming.Checking;
using Chronotype.Core.Structure;
using Chronotype.Core.Versions;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Conventions;
using Chronotype.Studio.Projects;
using Chronotype.Studio.Tree;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Pieces;

/// <summary>A piece that a file may be a save of.</summary>
/// <param name="Share">How much of the file's name speaks for it, from 0 to 1; 1 for the piece's own name.</param>
/// <param name="Unsaid">How many letters of the piece's own words the file's name does not say.</param>
public sealed record ProposedPlace(
    Guid PieceId,
    string CurrentName,
    string Extension,
    VersionNumber Next,
    double Share,
    int Unsaid,
    IReadOnlyList<PlaceReason> Reasons
);

/// <summary>What speaks for a piece.</summary>
public abstract record PlaceReason
{
    /// <summary>The name is the piece's own, with a number that a person gave it, or none.</summary>
    public sealed record OwnName(VersionNumber? Number) : PlaceReason;

    /// <summary>The piece had the name before its names were changed.</summary>
    public sealed record FormerName : PlaceReason;

    /// <summary>The name is that of the piece's file, or of a version, with an ending of companions behind it.</summary>
    public sealed record GoesWith : PlaceReason;

    /// <summary>A word of the name is, or is nearly, in one of the piece's slots.</summary>
    public sealed record WordInSlot(string Word, string Slot) : PlaceReason;
}

/// <summary>What a file's name says, and where the file belongs.</summary>
/// <param name="Places">The likeliest first; none where the name fits no piece.</param>
/// <param name="Slots">By label, what a new piece would be called by.</param>
/// <param name="Marks">The copy marks and dates in it, none over another; a mark's places are those of <paramref name="Name"/>.</param>
public sealed record Proposal(
    string Name,
    IReadOnlyList<ProposedPlace> Places,
    IReadOnlyDictionary<string, string> Slots,
    IReadOnlyList<NameMark> Marks
);

/// <summary>Reads what it can from the name that a file came under. It proposes; a file is taken whatever it is called.</summary>
public sealed class PlaceFile(StudioDb db, ConventionStore studio)
{
    /// <summary>For one file. Where there are several, what is known of the project is loaded once: <see cref="LoadAsync"/>.</summary>
    /// <param name="hand">The initials of whoever brings it.</param>
    public async Task<Proposal> DoAsync(Guid projectId, string receivedName, string hand, CancellationToken cancel = default) =>
        (await LoadAsync(projectId, cancel)).Propose(receivedName, hand);

    /// <summary>What must be known of a project to say where files belong in it.</summary>
    public async Task<ProjectPlaces> LoadAsync(Guid projectId, CancellationToken cancel = default)
    {
        var project = await db.Projects.AsNoTracking().Include(p => p.Client).FirstAsync(p => p.Id == projectId, cancel);
        var pieces = await db.Pieces.AsNoTracking().Include(p => p.Lines).Where(p => p.ProjectId == projectId).ToListAsync(cancel);
        foreach (var piece in pieces)
            piece.Project = project;
        var former = await db
            .RenamedNames.Where(r => r.ProjectId == projectId && r.Thing != NamedThing.Project)
            .Select(r => new { r.From, r.PieceId })
            .ToListAsync(cancel);
        return new ProjectPlaces(
            project,
            pieces,
            await studio.ListsAsync(ConventionStore.Read(project.Convention).Slots, cancel),
            (await db.Codes.AsNoTracking().ToListAsync(cancel)).ToLookup(c => c.Code, c => c.Meaning),
            former.ToLookup(f => f.From, f => f.PieceId, StringComparer.OrdinalIgnoreCase),
            await CompanionFiles.EndingsAsync(db, cancel)
        );
    }
}

/// <summary>A project's pieces and names, to say where files belong by what they are called.</summary>
public sealed class ProjectPlaces
{
    private const int MostPlaces = 3;

    // Words of every script are compared, those of Latin letters without their accents.
    private const Scripts Read = Scripts.Any & ~Scripts.Latin;

    /// <summary>Less than half of a name speaks for nothing.</summary>
    private const double LeastShare = 0.5;

    /// <summary>A word with a slip in it says less than the word itself.</summary>
    private const double Nearly = 0.9;

    private readonly Convention convention;
    private readonly IReadOnlyList<Piece> pieces;
    private readonly Dictionary<string, CodeList> lists;
    private readonly ILookup<string, string> meanings;
    private readonly ILookup<string, Guid> former;
    private readonly IReadOnlyCollection<string> endings;

    internal ProjectPlaces(
        Project project,
        IReadOnlyList<Piece> pieces,
        Dictionary<string, CodeList> lists,
        ILookup<string, string> meanings,
        ILookup<string, Guid> former,
        IReadOnlyCollection<string> endings
    )
    {
        (Project, this.pieces, this.lists, this.meanings, this.former, this.endings) = (project, pieces, lists, meanings, former, endings);
        convention = ConventionStore.Read(project.Convention);
    }

    /// <summary>With its client.</summary>
    public Project Project { get; }

    /// <param name="hand">The initials of whoever brings it.</param>
    public Proposal Propose(string receivedName, string hand)
    {
        var name = FileNames.Received(receivedName);
        var had = former[name].Concat(former[FileNames.Stem(name)]).ToHashSet();
        var reading = convention.Grammar.Read(name);
        var words = WordsOf(name);
        var goesWith = Companions.Split(name, endings)?.Of is { } file ? convention.Grammar.Read(file) : null;
        var places = pieces
            .Select(p => Place(p, name, reading, had, words, goesWith))
            .Where(p => p is not null)
            .Select(p => p!)
            .OrderByDescending(p => p.Share)
            .ThenBy(p => p.Unsaid)
            .ThenBy(p => p.Extension != FileNames.Extension(name))
            .ThenBy(p => p.CurrentName, StringComparer.Ordinal)
            .Take(MostPlaces)
            .ToList();
        return new Proposal(name, places, Slots(name, reading, words, hand), Marks(name, reading));
    }

    private ProposedPlace? Place(
        Piece piece,
        string name,
        NameReading? reading,
        HashSet<Guid> had,
        IReadOnlyList<string> words,
        NameReading? goesWith
    )
    {
        var names = PieceNames.Of(piece).On(piece.Line.Name);
        ProposedPlace Of(double share, int unsaid, params IReadOnlyList<PlaceReason> reasons) =>
            new(piece.Id, piece.CurrentName, piece.Extension, names.Next(piece.Line.HighestNumber, name), share, unsaid, reasons);
        if (reading is not null && names.IsOwn(reading.Values()))
            return Of(1, 0, new PlaceReason.OwnName(names.NumberByHand(name)));
        if (goesWith is not null && piece.Extension != FileNames.Extension(name) && names.IsOwn(goesWith.Values()))
            return Of(1, 0, new PlaceReason.GoesWith());
        if (had.Contains(piece.Id))
            return Of(1, 0, new PlaceReason.FormerName());

        // Each word of the piece is said once, by the word that is most like it.
        var own = PieceNames.SlotsOf(piece);
        var unsaid = names
            .Convention.Slots.Where(s => own.ContainsKey(s.Label))
            .SelectMany(s => Words.Split(own[s.Label], Read).Select(w => (Slot: s, Word: w)))
            .ToList();
        var reasons = new PlaceReason.WordInSlot?[words.Count];
        var spoken = 0.0;
        void Say(double weight, Func<string, (Slot Slot, string Word), bool> says)
        {
            for (var i = 0; i < words.Count; i++)
            {
                if (reasons[i] is not null || unsaid.FindIndex(u => says(words[i], u)) is not (>= 0 and var at))
                    continue;
                reasons[i] = new(words[i], unsaid[at].Slot.Label);
                spoken += weight * words[i].Length;
                unsaid.RemoveAt(at);
            }
        }
        Say(1, (word, u) => word == u.Word);
        Say(1, (word, u) => u.Slot.Rule is CodeRule && meanings[own[u.Slot.Label]].SelectMany(m => Words.Split(m, Read)).Contains(word));
        Say(Nearly, (word, u) => IsNearly(word, u.Word));
        var rest = Words.Split(piece.CurrentName, Read);
        spoken += words.Where((w, i) => reasons[i] is null && rest.Contains(w)).Sum(w => w.Length);
        var share = spoken / Math.Max(1, words.Sum(w => w.Length));
        var given = reasons.OfType<PlaceReason.WordInSlot>().ToList();
        return share >= LeastShare && given.Exists(g => names.Convention.Slots.Any(s => s.Label == g.Slot && s.Rule is WordsRule))
            ? Of(Math.Min(0.99, share), unsaid.Sum(u => u.Word.Length), [.. given])
            : null;
    }

    private Dictionary<string, string> Slots(string name, NameReading? reading, IReadOnlyList<string> words, string hand)
    {
        var plan = PlanStore.Of(Project);
        IReadOnlyDictionary<string, string> values = reading?.Values() ?? Repaired(name, hand);
        var own = new Dictionary<string, string>();
        foreach (var slot in ConventionStore.OwnSlots(convention))
        {
            var value = values.GetValueOrDefault(slot.Label, "");
            if (slot.Rule is not CodeRule rule)
            {
                if (value.Length > 0 && value != convention.Filler)
                    own[slot.Label] = value;
                continue;
            }
            // A repair also guesses at the nearest code. Only what the name says in so many words is proposed, and where it says
            // nothing, what a file of this kind most often is in a project of this plan.
            var isListed = lists.GetValueOrDefault(rule.List) is { } list && list.Has(value);
            if (isListed && (reading is not null || Says(words, value)))
                own[slot.Label] = value;
            else if (
                plan.Likeliest(FileNames.Extension(name)) is { } likely
                && lists.GetValueOrDefault(rule.List)?.Has(likely.Code) == true
                && plan.Functions.Any(f => lists[rule.List].Has(f.Code))
            )
                own[slot.Label] = likely.Code;
        }
        return own;
    }

    private bool Says(IReadOnlyList<string> words, string code) =>
        words.Any(w => w.Equals(code, StringComparison.OrdinalIgnoreCase) || IsNearly(w, code.ToLowerInvariant()))
        || meanings[code].SelectMany(m => Words.Split(m, Read)).Any(m => words.Contains(m));

    // The nearest name of the current form says most of what a new piece may be called by.
    private IReadOnlyDictionary<string, string> Repaired(string name, string hand)
    {
        var grammar = ConventionStore.WorkingGrammar(Project.Convention, lists);
        var known = new Dictionary<string, string>();
        foreach (var slot in convention.Slots)
        {
            if (slot.Rule is CodeRule { List: ConventionStore.ClientList })
                known[slot.Label] = Project.Client.Code;
            else if (slot.Rule is CodeRule { List: ConventionStore.ProjectList })
                known[slot.Label] = Project.Code;
            else if (slot.Rule is HandRule)
                known[slot.Label] = hand;
            else if (slot.Rule is VersionRule)
                known[slot.Label] = "1";
        }
        // A date that the form has no place for, and what only says that it is a copy, are no part of what a piece is called by.
        var plain = Without(
            name,
            m =>
                m.Kind == NameMarkKind.Copy
                || (m.Kind == NameMarkKind.Date && !convention.Form(NameForm.Working).Any(s => s.Rule is DateRule))
        );
        var repair = new NameChecker(grammar).Check(plain, new NameKnowledge(known)).Repairs.FirstOrDefault();
        return repair is not null && grammar.Read(repair.Name) is { } reading ? reading.Values() : new Dictionary<string, string>();
    }

    private static IReadOnlyList<NameMark> Marks(string name, NameReading? reading)
    {
        if (reading is not null)
            return [];
        // Marks may overlap; a date tells more than a copy mark, and a longer mark more than a shorter.
        var told = new List<NameMark>();
        foreach (
            var mark in NameMarks
                .Find(FileNames.Stem(name))
                .OrderBy(m => m.Kind != NameMarkKind.Date)
                .ThenByDescending(m => m.TextEnd - m.TextAt)
        )
        {
            if (mark.Kind != NameMarkKind.NumberWord && !told.Exists(t => mark.TextAt < t.TextEnd && t.TextAt < mark.TextEnd))
                told.Add(mark);
        }
        return [.. told.OrderBy(m => m.TextAt)];
    }

    // The words of a name, without its extension, copy marks, dates and bare numbers.
    private static List<string> WordsOf(string name)
    {
        return
        [
            .. Words
                .Split(FileNames.Stem(Without(name, _ => true)), Read)
                .Where(w => w.Any(char.IsLetter) && !(w.Length <= 4 && w[0] is 'v' or 'r' && w[1..].All(char.IsAsciiDigit))),
        ];
    }

    private static string Without(string name, Func<NameMark, bool> which)
    {
        var text = name.ToCharArray();
        foreach (var mark in NameMarks.Find(FileNames.Stem(name)).Where(which))
        {
            for (var i = mark.At; i < mark.TextEnd; i++)
                text[i] = ' ';
        }
        return string.Join(' ', new string(text).Split(' ', StringSplitOptions.RemoveEmptyEntries))
            .Replace(" .", ".", StringComparison.Ordinal);
    }

    // A slip is told by the rest of the word, so the word must be long enough.
    private static bool IsNearly(string a, string b) => a == b || (Math.Min(a.Length, b.Length) >= 4 && HandSlip.MayBe(a, b));
}
