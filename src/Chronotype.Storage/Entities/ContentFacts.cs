using Chronotype.Core.Content;
using Chronotype.Core.Structure;

namespace Chronotype.Storage.Entities;

/// <summary>What became of reading a content.</summary>
public enum FactsState
{
    /// <summary>It was read.</summary>
    Read,

    /// <summary>It is not what its format says; the facts say why.</summary>
    Faulty,

    /// <summary>It is beyond what is read or drawn here: too heavy, too large, of a coding that is not read. It may well be whole.</summary>
    Beyond,
}

/// <summary>What one reader found in one content. It can be read again at any time.</summary>
public sealed class ContentFacts
{
    public ContentHash Content { get; set; }

    /// <summary>Which reader.</summary>
    public required string Reader { get; set; }

    /// <summary>Of the reader. What an older one found is read anew.</summary>
    public int Version { get; set; }

    public FactsState State { get; set; }
    public FileFormat Format { get; set; }

    /// <summary>Equal for contents that are the same inside; null where that is not told apart from the bytes.</summary>
    public ContentHash? Inside { get; set; }

    /// <summary>What of it a spec can speak of, so that the files that are off one are found without reading the rest.</summary>
    public FileMeasures Measures { get; set; } = new();

    /// <summary>As JSON.</summary>
    public required string Facts { get; set; }
}

/// <summary>What changed between two saves' contents. It can be measured again at any time.</summary>
public sealed class ContentComparison
{
    /// <summary>The identity of the earlier save.</summary>
    public ContentHash Before { get; set; }

    /// <summary>The identity of the later save.</summary>
    public ContentHash After { get; set; }

    /// <summary>Of the comparer. What an older one found is measured anew.</summary>
    public int Version { get; set; }

    /// <summary>From 0 to 1; null where it is not measurable.</summary>
    public double? Change { get; set; }

    /// <summary>A comparison as JSON.</summary>
    public required string Result { get; set; }

    /// <summary>What changed most of it, shortened for lists, as JSON; null from a release that did not write it.</summary>
    public string? Digest { get; set; }
}
