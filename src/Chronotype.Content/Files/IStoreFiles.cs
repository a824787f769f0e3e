namespace Chronotype.Content.Files;

/// <summary>
/// The few things that the content store asks of a disk. Everything it writes goes through here, so that each can be made to
/// fail in turn, and a loss of power can be played.
/// </summary>
public interface IStoreFiles
{
    /// <summary>The names of a folder's files; none where there is no folder.</summary>
    IReadOnlyList<string> List(string folder);

    /// <summary>Whether a file is there.</summary>
    bool Exists(string path);

    /// <summary>Makes a folder with those above it, durably.</summary>
    void CreateFolder(string folder);

    /// <summary>Makes a new file, which is empty.</summary>
    /// <exception cref="IOException">There is one of this name.</exception>
    IStoreFile Create(string path);

    /// <summary>Opens a file that is there.</summary>
    /// <exception cref="FileNotFoundException">There is none.</exception>
    IStoreFile Open(string path, bool forWriting);

    /// <summary>Gives a file another name, in place of what had it. Durable once the folder is flushed.</summary>
    void Rename(string from, string to);

    /// <summary>Removes a file; nothing where there is none.</summary>
    void Delete(string path);

    /// <summary>Makes what was created, renamed and deleted in a folder durable.</summary>
    void FlushFolder(string folder);

    /// <summary>Holds a file for this process alone until it is disposed of.</summary>
    /// <exception cref="IOException">Another process holds it.</exception>
    IDisposable Hold(string path);
}

/// <summary>A file that is read and written at places. Reading may go on beside writing.</summary>
public interface IStoreFile : IDisposable
{
    /// <summary>Bytes.</summary>
    long Length { get; }

    /// <summary>Reads as much as there is, up to all of <paramref name="into"/>.</summary>
    /// <returns>Fewer bytes than asked for only at the file's end.</returns>
    int Read(Span<byte> into, long at);

    /// <exception cref="StorageFullException">The disk is full. How much was written is not known.</exception>
    void Write(ReadOnlySpan<byte> bytes, long at);

    /// <summary>
    /// Has the disk set room aside up to a length, so that writing there does not meet a full one. The length stays as it is.
    /// </summary>
    /// <exception cref="StorageFullException">There is not so much room.</exception>
    void Allocate(long upTo);

    /// <summary>Has the disk begin to write some bytes, so that a later flush waits less. It promises nothing.</summary>
    void BeginFlush(long at, long length);

    /// <summary>Makes what was written durable.</summary>
    void Flush();

    /// <summary>Cuts the file to a length in bytes.</summary>
    void Truncate(long length);
}
