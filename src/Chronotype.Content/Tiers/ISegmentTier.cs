using Chronotype.Content.Files;

namespace Chronotype.Content.Tiers;

/// <summary>A place beyond this disk for segments that are full and change no more. All may be called at once.</summary>
public interface ISegmentTier : IDisposable
{
    /// <summary>Where it is, for people.</summary>
    string Name { get; }

    /// <summary>The names of the segments that lie there whole, with their lengths in bytes.</summary>
    /// <exception cref="IOException">The place cannot be reached.</exception>
    IReadOnlyDictionary<string, long> List();

    /// <summary>Puts a whole segment there, in place of one of its name. It lies there durably and whole when this returns.</summary>
    void Place(string name, IStoreFile segment);

    /// <returns>Fewer bytes than asked for only at the segment's end.</returns>
    /// <exception cref="FileNotFoundException">There is no such segment.</exception>
    int Read(string name, Span<byte> into, long at);

    /// <summary>Removes a segment; nothing where there is none.</summary>
    void Delete(string name);
}
