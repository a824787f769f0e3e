namespace Chronotype.Storage;

/// <summary>Where one studio's data lies. Only one process holds it at a time.</summary>
public sealed class DataFolder : IDisposable
{
    private readonly FileStream held;

    /// <summary>Opens the folder, making it where there is none.</summary>
    /// <exception cref="IOException">Another process holds it, or it cannot be written; the message says which folder.</exception>
    public DataFolder(string root)
    {
        Root = Path.GetFullPath(root);
        // Work in progress and password hashes are nobody else's on this machine.
        if (OperatingSystem.IsWindows()) Directory.CreateDirectory(Root);
        else Directory.CreateDirectory(Root, UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute);
        try
        {
            held = new FileStream(Path.Combine(Root, ".in-use"), FileMode.OpenOrCreate, FileAccess.ReadWrite, FileShare.None);
        }
        catch (IOException e)
        {
            throw new IOException($"The data folder {Root} is in use by another Chronotype. Stop that one first, or give another folder.", e);
        }
    }

    public string Root { get; }
    public string Database => Path.Combine(Root, "studio.db");
    public string Content => Path.Combine(Root, "content");

    /// <summary>Made from content and made again when it is gone.</summary>
    public string Previews => Path.Combine(Root, "previews");

    /// <summary>The keys that sign cookies.</summary>
    public string Keys => Path.Combine(Root, "keys");

    public void Dispose() => held.Dispose();
}
