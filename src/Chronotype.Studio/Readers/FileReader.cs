using Chronotype.Core.Comparing;
using Chronotype.Core.Content;
using Chronotype.Core.Readers;
using Chronotype.Storage.Content;

namespace Chronotype.Studio.Readers;

/// <summary>A picture of a content for the screen.</summary>
/// <param name="MediaType">As RFC 6838 names it.</param>
public sealed record Drawing(ReadOnlyMemory<byte> Bytes, string MediaType);

/// <summary>Reads, draws and compares contents in reader processes. Whatever a content is, this process only hands its bytes on.</summary>
public sealed class FileReader(ReaderPool pool, IContentStore store)
{
    private const string Kept = "It is stored, and can be kept and downloaded.";

    /// <exception cref="IOException">The content could not be read from where it is kept; that is no verdict on the file.</exception>
    public async Task<Reading> ReadAsync(ContentHash content, Guid piece, ReaderTurn turn, CancellationToken cancel = default)
    {
        try
        {
            var (answer, _) = await pool.DoAsync(new ReaderJob { Kind = ReaderJobKind.Read }, piece, turn, () => [store.OpenRead(content)], cancel);
            return answer.Reading ?? throw new ReaderFailedException("The reader gave no answer.");
        }
        catch (TooHeavyException)
        {
            return new Reading { Problem = $"This file is too heavy to read here: it takes more memory or time than is given to one file. {Kept}" };
        }
    }

    /// <returns>Null where the format has nothing to see.</returns>
    /// <exception cref="CannotBeDrawnException">The message says why; asking again changes nothing.</exception>
    public async Task<Drawing?> DrawAsync(ContentHash content, Guid piece, int side, CancellationToken cancel = default)
    {
        try
        {
            var (answer, bytes) = await pool.DoAsync(new ReaderJob { Kind = ReaderJobKind.Draw, Side = side }, piece, ReaderTurn.Waiting, () => [store.OpenRead(content)], cancel);
            return answer is { Refusal: { } refusal } ? throw new CannotBeDrawnException(refusal)
                : answer.MediaType is "image/webp" or "image/svg+xml" ? new Drawing(bytes, answer.MediaType) : null;
        }
        catch (TooHeavyException)
        {
            throw new CannotBeDrawnException($"This file is too heavy to draw here. {Kept}");
        }
    }

    /// <param name="extension">Of the piece's main file, with its dot.</param>
    public async Task<Comparison> CompareAsync(
        (ContentHash Content, Reading Reading) before, (ContentHash Content, Reading Reading) after, string extension, Guid piece, ReaderTurn turn, CancellationToken cancel = default)
    {
        var job = new ReaderJob { Kind = ReaderJobKind.Compare, Extension = extension, Readings = [before.Reading, after.Reading] };
        try
        {
            var (answer, _) = await pool.DoAsync(job, piece, turn, () => [store.OpenRead(before.Content), store.OpenRead(after.Content)], cancel);
            return answer.Comparison ?? throw new ReaderFailedException("The reader gave no answer.");
        }
        catch (TooHeavyException)
        {
            return Comparison.NotMeasurable("The two are too heavy to compare here, so what changed cannot be measured. Both are stored as they came.");
        }
    }
}

/// <summary>There is no picture of a content; the message is a sentence for the person who looks for it.</summary>
public sealed class CannotBeDrawnException(string message) : Exception(message);
