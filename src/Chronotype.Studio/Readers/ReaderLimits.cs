namespace Chronotype.Studio.Readers;

/// <summary>What one reader process may take before it is ended.</summary>
public sealed record ReaderLimits
{
    /// <summary>Private memory, in bytes, held to by the operating system.</summary>
    public long MemoryBytes { get; init; } = 1536L << 20;

    /// <summary>The longest file that it may set aside on the way, in bytes.</summary>
    public long FileBytes { get; init; } = 2L << 30;

    /// <summary>Seconds of processor time for a job, held to by the operating system; a large content gets more.</summary>
    public int ProcessorSeconds { get; init; } = 15;

    /// <summary>How many times as long a job may take on the clock, since others want the processor too.</summary>
    public int WallFactor { get; init; } = 4;

    /// <summary>Bytes of content for which a second more is given.</summary>
    public long BytesPerSecond { get; init; } = 8 << 20;

    /// <summary>After so many jobs a reader is replaced, whatever it leaked.</summary>
    public int Jobs { get; init; } = 100;

    /// <summary>A reader that still holds so much memory after a job, in bytes, is replaced.</summary>
    public long ResidentBytes { get; init; } = 384 << 20;

    /// <summary>How many readers work at a time. One of them is always left to what somebody waits for.</summary>
    public int Readers { get; init; } = 3;

    public int ProcessorSecondsFor(long bytes) => ProcessorSeconds + (int)Math.Min(36_000, bytes / BytesPerSecond);
}

/// <summary>A content takes more to be read than is given to any, tried twice.</summary>
public sealed class TooHeavyException(string what) : Exception(what);

/// <summary>A reader could not be had, or failed in a way that says nothing about the file. It may be tried again.</summary>
public sealed class ReaderFailedException(string what, Exception? inner = null) : IOException(what, inner);
