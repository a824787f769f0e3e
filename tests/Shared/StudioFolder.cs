namespace Chronotype.Tests;

/// <summary>A data folder of a test's own, gone when the test is.</summary>
public sealed class StudioFolder : IDisposable
{
    public string Path { get; } = Directory.CreateTempSubdirectory("chronotype-test-").FullName;

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
