using Chronotype.Core.Content;

namespace Chronotype.Storage.Entities;

/// <summary>One verification of the content store, and what it found.</summary>
public sealed class StoreCheck
{
    public Guid Id { get; set; } = Guid.CreateVersion7();
    public DateTimeOffset StartedAt { get; set; }
    public DateTimeOffset EndedAt { get; set; }

    /// <summary>The share of the segments that was read, up to 1.</summary>
    public double Share { get; set; }

    public long BytesRead { get; set; }

    /// <summary>In how many places bytes are not as they were written, whether or not anything needs them.</summary>
    public int DamagedPlaces { get; set; }

    /// <summary>What was wrong with the index; null for nothing. It was made anew then.</summary>
    public string? IndexFault { get; set; }

    public List<CheckDamage> Damaged { get; set; } = [];
}

/// <summary>A content that a verification found damaged or missing.</summary>
public sealed class CheckDamage
{
    public long Id { get; set; }
    public Guid CheckId { get; set; }
    public ContentHash Hash { get; set; }

    /// <summary>How many bytes of it cannot be read; null where none of it can.</summary>
    public long? UnreadableBytes { get; set; }
}
