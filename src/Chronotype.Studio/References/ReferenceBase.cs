namespace Chronotype.Studio.References;

/// <summary>The folder from which a file's references lead.</summary>
internal static class ReferenceBase
{
    /// <summary>Of a file of a save: as it stands in the tree while it is the current file.</summary>
    /// <param name="folder">That the piece's current file stands in; empty for the top.</param>
    /// <param name="currentName">The piece's.</param>
    /// <param name="isFolder">Whether the save has several files: then it is a folder that stands where its current file does.</param>
    /// <param name="filePath">The file's, within the save.</param>
    public static string Of(string folder, string currentName, bool isFolder, string filePath)
    {
        if (!isFolder)
            return folder;
        var mount = Mount(folder, currentName);
        return filePath.LastIndexOf('/') is > 0 and var end ? $"{mount}/{filePath[..end]}" : mount;
    }

    /// <summary>Where a save of several files stands as a folder.</summary>
    public static string Mount(string folder, string currentName) => folder.Length == 0 ? currentName : $"{folder}/{currentName}";
}
