namespace Chronotype.Tests;

/// <summary>A data folder of a test's own, gone when the test is.</summary>
public sealed class StudioFolder : IDisposable
{
    public string Path { get; } = Directory.CreateTempSubdirectory("chronotype-test-").FullName;

    public void Dispose()
    {
        Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
        Directory.Delete(Path, recursive: true);
    }
}
