using Chronotype.Core.Versions;

namespace Chronotype.Core.Structure;

/// <summary>What a folder of a project is for.</summary>
public enum FolderRole { Originals, Working, Outputs, Assets, Documents }

/// <summary>One folder of a plan.</summary>
/// <param name="Path">From the project's top, with <c>/</c>.</param>
/// <param name="Purpose">What goes in it, in a few words.</param>
public sealed record PlanFolder(string Path, FolderRole Role, string Purpose)
{
    public int Depth => Path.Count(c => c == '/');
    public string Name => Path[(Path.LastIndexOf('/') + 1)..];
}

/// <summary>A kind of work that a piece can be, as its code stands in a name.</summary>
public sealed record FunctionCode(string Code, string Meaning);

/// <summary>The tree of folders that a project starts with, and what goes with it.</summary>
/// <param name="Key">Its name in records and addresses.</param>
/// <param name="Home">The folder that pieces' current files stand in; a folder of the role <see cref="FolderRole.Working"/>.</param>
/// <param name="VersionsIn">The folder that numbered versions stand in.</param>
/// <param name="MilestonesIn">The folder that milestone copies stand in.</param>
public sealed record FolderPlan(
    string Key,
    string Title,
    string Purpose,
    string Home,
    string VersionsIn,
    string MilestonesIn,
    IReadOnlyList<PlanFolder> Folders,
    IReadOnlyList<FunctionCode> Functions,
    KeepSetting Keep)
{
    /// <summary>The plan of a key.</summary>
    /// <exception cref="KeyNotFoundException">There is none.</exception>
    public static FolderPlan Of(string key) =>
        All.FirstOrDefault(p => p.Key == key) ?? throw new KeyNotFoundException($"There is no folder plan '{key}'.");

    public static readonly IReadOnlyList<FolderPlan> All =
    [
        new("print", "Print and illustration", "Posters, books, packaging, sets of icons",
            "working", "working/versions", "working/milestones",
            [
                new("originals", FolderRole.Originals, "as received: sketches, photographs, texts"),
                new("originals/scans", FolderRole.Originals, "drawings on paper, scanned"),
                new("working", FolderRole.Working, "current files, layered"),
                new("working/versions", FolderRole.Working, "numbered versions"),
                new("working/milestones", FolderRole.Working, "marked copies"),
                new("assets", FolderRole.Assets, "textures, palettes, typefaces, placed pictures"),
                new("outputs", FolderRole.Outputs, "flat copies, made from versions"),
                new("outputs/print", FolderRole.Outputs, "for the printer"),
                new("outputs/screen", FolderRole.Outputs, "for screens and mail"),
                new("documents", FolderRole.Documents, "brief, quotes, letters"),
            ],
            [
                new("key", "key picture"), new("sketch", "sketch or rough"), new("layout", "page layout"), new("icon", "icon or sign"),
                new("illus", "illustration"), new("mark", "logo or mark"), new("type", "lettering"), new("pack", "packaging"),
            ],
            KeepSetting.WhenAsked),
        new("animation", "Animation", "Films, loops, title sequences",
            "working/scenes", "working/versions", "working/milestones",
            [
                new("originals", FolderRole.Originals, "as received: script, references"),
                new("originals/recordings", FolderRole.Originals, "voices, as recorded"),
                new("working", FolderRole.Working, "everything in progress"),
                new("working/scenes", FolderRole.Working, "current files, a scene each"),
                new("working/versions", FolderRole.Working, "numbered versions"),
                new("working/milestones", FolderRole.Working, "marked copies"),
                new("assets", FolderRole.Assets, "what scenes refer to"),
                new("assets/characters", FolderRole.Assets, "characters, props"),
                new("assets/sets", FolderRole.Assets, "backgrounds, sets"),
                new("assets/sound", FolderRole.Assets, "effects, music, voice"),
                new("outputs", FolderRole.Outputs, "rendered scenes, films"),
                new("documents", FolderRole.Documents, "schedule, notes, agreements"),
            ],
            [
                new("board", "storyboard"), new("anim", "animation"), new("rig", "character rig"), new("bg", "background"),
                new("comp", "composite"), new("edit", "edit of scenes"), new("title", "titles"), new("model", "model"),
            ],
            KeepSetting.WhenAsked),
        new("audio", "Audio", "Mixes, podcasts, guides, sound for picture",
            "working/mixes", "working/versions", "working/milestones",
            [
                new("originals", FolderRole.Originals, "recordings as received, never changed"),
                new("originals/takes", FolderRole.Originals, "takes, by day"),
                new("working", FolderRole.Working, "everything in progress"),
                new("working/mixes", FolderRole.Working, "current files"),
                new("working/versions", FolderRole.Working, "numbered versions"),
                new("working/milestones", FolderRole.Working, "marked copies"),
                new("assets", FolderRole.Assets, "music, effects, atmospheres"),
                new("outputs", FolderRole.Outputs, "masters and copies for delivery"),
                new("outputs/stems", FolderRole.Outputs, "parts of a mix"),
                new("documents", FolderRole.Documents, "scripts, cue sheets, rights"),
            ],
            [
                new("mix", "mix"), new("edit", "edited recording"), new("voice", "voice"), new("music", "music"),
                new("atmo", "atmosphere"), new("fx", "effect"), new("session", "session file"),
            ],
            KeepSetting.WhenAsked),
    ];
}
