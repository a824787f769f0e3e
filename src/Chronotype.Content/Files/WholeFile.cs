namespace Chronotype.Content.Files;

/// <summary>Small files that take the place of the ones before, wholly or not at all.</summary>
internal static class WholeFile
{
    /// <summary>When it returns, the file is there durably.</summary>
    public static void Write(IStoreFiles files, string folder, string name, ReadOnlySpan<byte> bytes)
    {
        var passing = Path.Combine(folder, name + ".new");
        files.Delete(passing);
        using (var file = files.Create(passing))
        {
            file.Write(bytes, 0);
            file.Flush();
        }
        files.Rename(passing, Path.Combine(folder, name));
        files.FlushFolder(folder);
    }
}
