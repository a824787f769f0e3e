namespace Chronotype.Storage;

/// <summary>Where one studio's data lies. Only one process holds it at a time.</summary>
public sealed class DataFolder : IDisposable
{
    private const UnixFileMode OwnerOnly = UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute;
    private const int Enospc = 28,
        Edquot = 122,
        WindowsDiskFull = 112;

    private readonly FileStream held;

    /// <summary>Opens the folder, making it where there is none.</summary>
    /// <exception cref="IOException">Another process holds it, or it cannot be written; the message says which folder.</exception>
    public DataFolder(string root)
    {
        Root = Path.GetFullPath(root);
        try
        {
            // Work in progress and password hashes are nobody else's on this machine.
            if (OperatingSystem.IsWindows())
                Directory.CreateDirectory(Root);
            else if (!Directory.Exists(Root))
                Directory.CreateDirectory(Root, OwnerOnly);
            else if (File.GetUnixFileMode(Root) != OwnerOnly)
                File.SetUnixFileMode(Root, OwnerOnly);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new IOException(
                $"The data folder {Root} cannot be used by this account ({e.Message.TrimEnd('.')}). Nothing was changed; give the "
                    + $"folder to the account that runs Chronotype, or give another folder.",
                e
            );
        }
        try
        {
            held = new FileStream(Path.Combine(Root, ".in-use"), FileMode.OpenOrCreate, FileAccess.ReadWrite, FileShare.None);
        }
        catch (UnauthorizedAccessException e)
        {
            throw new IOException(
                $"The data folder {Root} cannot be written by this account. Nothing was changed; give the folder to the account that "
                    + $"runs Chronotype, or give another folder.",
                e
            );
        }
        catch (IOException e) when (IsFull(e))
        {
            throw new IOException(
                $"The disk that holds the data folder {Root} is full. Nothing was changed and nothing is lost; make room and start again.",
                e
            );
        }
        catch (IOException e)
        {
            throw new IOException(
                $"The data folder {Root} is in use by another Chronotype. Stop that one first, or give another folder.",
                e
            );
        }
        // Left by a process that was killed.
        if (Directory.Exists(Scratch))
            Directory.Delete(Scratch, recursive: true);
    }

    public string Root { get; }
    public string Database => Path.Combine(Root, "studio.db");
    public string Content => Path.Combine(Root, "content");

    /// <summary>Made from content and made again when it is gone.</summary>
    public string Previews => Path.Combine(Root, "previews");

    /// <summary>Pictures cut for zooming; made again when they are gone.</summary>
    public string Sounds => Path.Combine(Root, "sounds");

    /// <summary>Files that arrive in parts, until they are whole and have a place.</summary>
    public string Uploads => Path.Combine(Root, "uploads");

    public string Tiles => Path.Combine(Root, "tiles");

    /// <summary>What is set aside while something is read; nothing in it is needed after a stop.</summary>
    public string Scratch => Path.Combine(Root, "scratch");

    /// <summary>The keys that sign cookies.</summary>
    public string Keys => Path.Combine(Root, "keys");

    public void Dispose() => held.Dispose();

    /// <summary>Whether writing failed for want of space.</summary>
    /// <summary>Whether the records could not be written for want of room.</summary>
    public static bool IsFull(Exception? e) =>
        e switch
        {
            null => false,
            Microsoft.Data.Sqlite.SqliteException { SqliteErrorCode: SQLitePCL.raw.SQLITE_FULL } => true,
            IOException io => IsFull(io),
            _ => IsFull(e.InnerException),
        };

    public static bool IsFull(IOException e) => (e.HResult & 0xFFFF) is Enospc or Edquot or WindowsDiskFull;
}
