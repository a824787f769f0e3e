namespace Chronotype.Formats;

/// <summary>What is too large for memory on its way, in a file that is gone when it is closed.</summary>
internal static class TemporaryFile
{
    public static FileStream Open() =>
        new(
            Path.Combine(Path.GetTempPath(), $"chronotype-{Guid.NewGuid():N}"),
            new FileStreamOptions
            {
                Mode = FileMode.CreateNew,
                Access = FileAccess.ReadWrite,
                Options = FileOptions.DeleteOnClose,
            }
        );
}
