namespace Chronotype.Tests;

/// <summary>A data folder of a test's own, gone when the test is.</summary>
public sealed class StudioFolder : IDisposable
{
    public string Path { get; } = Directory.CreateTempSubdirectory("chronotype-test-").FullName;

    /// <summary>Copies what lies in a data folder, also while a studio has it open, as a kill at that moment would leave it.</summary>
    public static void Copy(string from, string to)
    {
        // But for what only says that it is open.
        foreach (
            var file in Directory
                .GetFiles(from, "*", SearchOption.AllDirectories)
                .Where(f => System.IO.Path.GetFileName(f) is not (".in-use" or "lock"))
        )
        {
            var target = System.IO.Path.Combine(to, System.IO.Path.GetRelativePath(from, file));
            Directory.CreateDirectory(System.IO.Path.GetDirectoryName(target)!);
            using var source = new FileStream(file, FileMode.Open, FileAccess.Read, FileShare.ReadWrite | FileShare.Delete);
            using var copy = File.Create(target);
            source.CopyTo(copy);
        }
    }

    public void Dispose()
    {
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        // What was under way when the studio stopped may write for a moment more.
        for (var tries = 1; Directory.Exists(Path); tries++)
        {
            try
            {
                Directory.Delete(Path, recursive: true);
            }
            catch (IOException) when (tries < 40)
            {
                Thread.Sleep(50);
            }
        }
    }
}
