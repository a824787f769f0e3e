using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Versions;

namespace Chronotype.Core.Structure;

/// <summary>What a folder of a project is for.</summary>
public enum FolderRole
{
    /// <summary>Files as received, never changed.</summary>
    Originals,

    /// <summary>What is being made.</summary>
    Working,

    /// <summary>Copies for use, from versions.</summary>
    Outputs,

    /// <summary>What pieces refer to.</summary>
    Assets,

    /// <summary>Letters, briefs, contracts: what is kept with a project and is no work of it.</summary>
    Documents,

    /// <summary>A working folder: pieces' current files stand here.</summary>
    Home,

    /// <summary>A working folder: numbered versions stand here.</summary>
    Versions,

    /// <summary>A working folder: milestone copies stand here.</summary>
    Milestones,

    /// <summary>A working folder: masters stand here.</summary>
    Masters,
}

/// <summary>What follows from a folder's role.</summary>
public static class FolderRoles
{
    /// <summary>Pieces live here, and what stands here is theirs.</summary>
    public static bool IsWorking(this FolderRole role) =>
        role is FolderRole.Working or FolderRole.Home or FolderRole.Versions or FolderRole.Milestones or FolderRole.Masters;

    /// <summary>A file that is here may be given other content; what it held before stays.</summary>
    public static bool MayReplace(this FolderRole role) => role is FolderRole.Assets or FolderRole.Documents;
}

/// <summary>One folder of a plan.</summary>
/// <param name="Path">From the project's top.</param>
/// <param name="Role">What its files are.</param>
/// <param name="Purpose">What goes in it, in a few words.</param>
public sealed record PlanFolder(ProjectPath Path, FolderRole Role, string Purpose)
{
    internal PlanFolder(string path, FolderRole role, string purpose)
        : this(ProjectPath.Parse(path), role, purpose) { }
}

/// <summary>A kind of work that a piece can be, as its code stands in a name.</summary>
public sealed record FunctionCode(string Code, string Meaning);

/// <summary>A piece whose name is reserved when a project starts.</summary>
/// <param name="Slots">By label, what it is called by.</param>
public sealed record ReservedName(IReadOnlyDictionary<string, string> Slots);

/// <summary>The tree of folders that a project starts with, and what goes with it.</summary>
/// <param name="Key">Its name in records and addresses.</param>
/// <param name="Title">Its name for people.</param>
/// <param name="Purpose">What work it is for, in a few words.</param>
/// <param name="Folders">From the top down.</param>
/// <param name="Functions">The codes that its pieces may have.</param>
/// <param name="Keep">When saves of its pieces are kept by themselves.</param>
public sealed record FolderPlan(
    string Key,
    string Title,
    string Purpose,
    IReadOnlyList<PlanFolder> Folders,
    IReadOnlyList<FunctionCode> Functions,
    KeepSetting Keep
)
{
    /// <summary>What the project's files must be; empty where they may be anything.</summary>
    public ProjectSpec Spec { get; init; } = new();

    /// <summary>The convention that the project's names follow, without its lists; null for the studio's, as it is when one starts.</summary>
    public Convention? Convention { get; init; }

    /// <summary>The pieces that are there from the start, without content.</summary>
    public IReadOnlyList<ReservedName> Reserved { get; init; } = [];

    // What files of a kind most often are, the likeliest first.
    private static readonly (string[] Extensions, string[] Functions)[] Likely =
    [
        ([".svg"], ["icon", "mark", "illus", "title"]),
        ([".ora", ".tif", ".tiff", ".png", ".jpg", ".jpeg", ".webp"], ["key", "illus", "bg"]),
        ([".wav", ".flac", ".aif", ".aiff", ".mp3", ".ogg", ".opus"], ["mix", "edit"]),
        ([".otio"], ["edit"]),
        ([".glb", ".gltf"], ["model"]),
        ([".pdf", ".txt", ".md"], ["layout"]),
    ];

    /// <summary>The function that a file of a kind most likely has under this plan; null where none is likelier than another.</summary>
    /// <param name="extension">With its dot, in lower case.</param>
    public FunctionCode? Likeliest(string extension) =>
        Likely
            .Where(l => l.Extensions.Contains(extension))
            .SelectMany(l => l.Functions)
            .Select(code => Functions.FirstOrDefault(f => f.Code == code))
            .FirstOrDefault(f => f is not null);

    /// <summary>The same folders, each after the one that it lies in, and else in the order that they have.</summary>
    public static IReadOnlyList<PlanFolder> InOrder(IReadOnlyList<PlanFolder> folders)
    {
        var known = folders.Select(f => f.Path.Key).ToHashSet();
        // What lies in a folder that is not among them stands at the top.
        var around = folders.ToLookup(f => f.Path.Folder?.Key is { } key && known.Contains(key) ? key : "");
        return [.. Within("")];
        IEnumerable<PlanFolder> Within(string key) => around[key].SelectMany(f => Within(f.Path.Key).Prepend(f));
    }

    /// <summary>The plan of those that every studio begins with.</summary>
    /// <exception cref="KeyNotFoundException">There is none.</exception>
    public static FolderPlan Of(string key) =>
        All.FirstOrDefault(p => p.Key == key) ?? throw new KeyNotFoundException($"There is no folder plan '{key}'.");

    /// <summary>The plans that every studio begins with.</summary>
    public static readonly IReadOnlyList<FolderPlan> All =
    [
        new(
            "print",
            "Print and illustration",
            "Posters, books, packaging, sets of icons",
            [
                new("originals", FolderRole.Originals, "as received: sketches, photographs, texts"),
                new("originals/scans", FolderRole.Originals, "drawings on paper, scanned"),
                new("working", FolderRole.Home, "current files, layered"),
                new("working/versions", FolderRole.Versions, "numbered versions"),
                new("working/milestones", FolderRole.Milestones, "marked copies"),
                new("working/masters", FolderRole.Masters, "finished natives"),
                new("assets", FolderRole.Assets, "textures, palettes, typefaces, placed pictures"),
                new("outputs", FolderRole.Outputs, "flat copies, made from versions"),
                new("outputs/print", FolderRole.Outputs, "for the printer"),
                new("outputs/screen", FolderRole.Outputs, "for screens and mail"),
                new("documents", FolderRole.Documents, "brief, quotes, letters"),
            ],
            [
                new("key", "key picture"),
                new("sketch", "sketch or rough"),
                new("layout", "page layout"),
                new("icon", "icon or sign"),
                new("illus", "illustration"),
                new("mark", "logo or mark"),
                new("type", "lettering"),
                new("pack", "packaging"),
            ],
            KeepSetting.WhenAsked
        ),
        new(
            "animation",
            "Animation",
            "Films, loops, title sequences",
            [
                new("originals", FolderRole.Originals, "as received: script, references"),
                new("originals/recordings", FolderRole.Originals, "voices, as recorded"),
                new("working", FolderRole.Working, "everything in progress"),
                new("working/scenes", FolderRole.Home, "current files, a scene each"),
                new("working/versions", FolderRole.Versions, "numbered versions"),
                new("working/milestones", FolderRole.Milestones, "marked copies"),
                new("working/masters", FolderRole.Masters, "finished natives"),
                new("assets", FolderRole.Assets, "what scenes refer to"),
                new("assets/characters", FolderRole.Assets, "characters, props"),
                new("assets/sets", FolderRole.Assets, "backgrounds, sets"),
                new("assets/sound", FolderRole.Assets, "effects, music, voice"),
                new("outputs", FolderRole.Outputs, "rendered scenes, films"),
                new("documents", FolderRole.Documents, "schedule, notes, agreements"),
            ],
            [
                new("board", "storyboard"),
                new("anim", "animation"),
                new("rig", "character rig"),
                new("bg", "background"),
                new("comp", "composite"),
                new("edit", "edit of scenes"),
                new("title", "titles"),
                new("model", "model"),
            ],
            KeepSetting.WhenAsked
        ),
        new(
            "audio",
            "Audio",
            "Mixes, podcasts, guides, sound for picture",
            [
                new("originals", FolderRole.Originals, "recordings as received, never changed"),
                new("originals/takes", FolderRole.Originals, "takes, by day"),
                new("working", FolderRole.Working, "everything in progress"),
                new("working/mixes", FolderRole.Home, "current files"),
                new("working/versions", FolderRole.Versions, "numbered versions"),
                new("working/milestones", FolderRole.Milestones, "marked copies"),
                new("working/masters", FolderRole.Masters, "finished natives"),
                new("assets", FolderRole.Assets, "music, effects, atmospheres"),
                new("outputs", FolderRole.Outputs, "copies for delivery"),
                new("outputs/stems", FolderRole.Outputs, "parts of a mix"),
                new("documents", FolderRole.Documents, "scripts, cue sheets, rights"),
            ],
            [
                new("mix", "mix"),
                new("edit", "edited recording"),
                new("voice", "voice"),
                new("music", "music"),
                new("atmo", "atmosphere"),
                new("fx", "effect"),
                new("session", "session file"),
            ],
            KeepSetting.WhenAsked
        ),
    ];
}
