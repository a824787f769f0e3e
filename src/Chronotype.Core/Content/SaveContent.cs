using System.Security.Cryptography;
using System.Text;

namespace Chronotype.Core.Content;

/// <summary>One file of a save.</summary>
/// <param name="Path">Where it lies within the piece.</param>
/// <param name="Hash">Its content.</param>
/// <param name="Size">Bytes.</param>
public sealed record ContentFile(ProjectPath Path, ContentHash Hash, long Size);

/// <summary>What a save holds: one or more files, one of them the main one.</summary>
public sealed class SaveContent
{
    /// <exception cref="ArgumentException">No file, two of one path, or a main path that none of them has.</exception>
    public SaveContent(IReadOnlyList<ContentFile> files, ProjectPath main)
    {
        if (files.Count == 0)
            throw new ArgumentException("A save holds at least one file.");
        if (files.Select(f => f.Path).Distinct().Count() != files.Count)
            throw new ArgumentException("Two files of a save have one path.");
        Files = [.. files.OrderBy(f => f.Path.Text, StringComparer.Ordinal)];
        Main = files.FirstOrDefault(f => f.Path == main) ?? throw new ArgumentException($"The main file {main} is not among the files.");
    }

    /// <summary>In the order of their paths.</summary>
    public IReadOnlyList<ContentFile> Files { get; }

    /// <summary>The file that a program opens.</summary>
    public ContentFile Main { get; }

    /// <summary>Bytes of all files together.</summary>
    public long Size => Files.Sum(f => f.Size);

    /// <summary>
    /// Equal for equal content. A single file's identity is the hash of its bytes, whatever it was called;
    /// a folder's is the SHA-256 over its paths, hashes and sizes.
    /// </summary>
    public ContentHash Identity
    {
        get
        {
            if (Files.Count == 1)
                return Files[0].Hash;
            using var sha = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
            foreach (var file in Files)
            {
                sha.AppendData(Encoding.UTF8.GetBytes($"{file.Path}\0{file.Hash}\0{file.Size}\n"));
            }
            return ContentHash.FromDigest(sha.GetHashAndReset());
        }
    }
}
