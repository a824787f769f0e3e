using Chronotype.Core.Structure;

namespace Chronotype.Web.Pages.Tree;

/// <summary>What a folder is for, in words for somebody who has not seen one.</summary>
public static class FolderWords
{
    /// <param name="purpose">What its plan says of it; empty or null for nothing.</param>
    public static string Of(FolderRole role, string? purpose) =>
        (purpose is { Length: > 0 } ? $"{char.ToUpperInvariant(purpose[0])}{purpose[1..]}. " : "")
        + role switch
        {
            FolderRole.Originals => "Files stay as they were received: a second of the same name stands beside the first.",
            FolderRole.Assets => "What pieces refer to. A file may be replaced; every earlier content stays.",
            FolderRole.Outputs => "Copies for use, from versions.",
            FolderRole.Documents => "What is kept with the project. A file may be replaced; every earlier content stays.",
            _ => "Pieces stand here: a file that is dropped begins one, or is the next save of one.",
        };

    public static string Empty(FolderRole role) =>
        role switch
        {
            FolderRole.Originals =>
                "Drop recordings, photographs or scans here, as you received them. Work starts on a copy: an original is "
                    + "never changed.",
            FolderRole.Assets =>
                "Drop textures, clips or typefaces here. What your pieces refer to is found here, and you see who uses it.",
            FolderRole.Outputs => "Flat copies for use stand here.",
            FolderRole.Documents => "Drop a brief, a quote or a letter here.",
            _ => "Drop a file here to begin a piece.",
        };
}
