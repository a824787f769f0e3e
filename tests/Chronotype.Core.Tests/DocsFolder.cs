namespace Chronotype.Core.Tests;

/// <summary>The pages and schemas that are written for people, where tests hold the program to them.</summary>
internal static class DocsFolder
{
    public static string Read(string file)
    {
        var folder = new DirectoryInfo(AppContext.BaseDirectory);
        while (!File.Exists(Path.Combine(folder.FullName, "Chronotype.slnx")))
            folder = folder.Parent!;
        return File.ReadAllText(Path.Combine(folder.FullName, "docs", file));
    }
}
