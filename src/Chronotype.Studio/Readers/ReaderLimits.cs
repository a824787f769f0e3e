using Chronotype.Core.Readers;

namespace Chronotype.Studio.Readers;

/// <summary>What one reader process may take before it is ended.</summary>
public sealed record ReaderLimits
{
    /// <summary>Memory of one reader, in bytes, held to by the operating system. All together stay under a thousand million.</summary>
    public long MemoryBytes { get; init; } = 300L << 20;

    /// <summary>Memory, in bytes, for what is large or did not do with less, as long as it is not asked for facts; one at a time, in the
    /// room of two.</summary>
    public long LargeMemoryBytes { get; init; } = 600L << 20;

    /// <summary>Contents of more bytes together are large from the start.</summary>
    public long LargeBytes { get; init; } = 48L << 20;

    /// <summary>The longest file that it may set aside on the way, in bytes.</summary>
    public long FileBytes { get; init; } = 2L << 30;

    /// <summary>Seconds of processor time to find what is inside, held to by the operating system; a large content gets more.</summary>
    public int FactsSeconds { get; init; } = 2;

    /// <summary>As <see cref="FactsSeconds"/>, for a picture of it.</summary>
    public int PictureSeconds { get; init; } = 10;

    /// <summary>As <see cref="FactsSeconds"/>, for anything else.</summary>
    public int WorkSeconds { get; init; } = 15;

    /// <summary>The first job of a reader has so many seconds more, in which the runtime compiles what it runs.</summary>
    public int FirstSeconds { get; init; } = 1;

    /// <summary>How many times as long a job may take on the clock, since others want the processor too.</summary>
    public int WallFactor { get; init; } = 6;

    /// <summary>Bytes of content for which a second more is given.</summary>
    public long BytesPerSecond { get; init; } = 8 << 20;

    /// <summary>After so many jobs a reader is replaced, whatever it leaked.</summary>
    public int Jobs { get; init; } = 100;

    /// <summary>A reader that still holds so much memory after a job, in bytes, is replaced.</summary>
    public long ResidentBytes { get; init; } = 160 << 20;

    /// <summary>How many readers work at a time. One of them is always left to what somebody waits for.</summary>
    public int Readers { get; init; } = 3;

    /// <summary>Seconds of processor time for a job on contents of so many bytes together.</summary>
    public int ProcessorSecondsFor(ReaderJobKind kind, long bytes) =>
        (int)Math.Min(36_000, bytes / BytesPerSecond)
        + kind switch
        {
            ReaderJobKind.Read or ReaderJobKind.Liken => FactsSeconds,
            ReaderJobKind.Draw => PictureSeconds,
            _ => WorkSeconds,
        };

    /// <summary>Whether a job is given <see cref="LargeMemoryBytes"/>.</summary>
    /// <param name="bytes">Of its contents together.</param>
    /// <param name="isAgain">It did not do with less.</param>
    public bool IsLarge(ReaderJobKind kind, long bytes, bool isAgain) =>
        kind is not (ReaderJobKind.Read or ReaderJobKind.Liken) && (isAgain || bytes > LargeBytes);
}

/// <summary>A content takes more to be read than is given to any.</summary>
public sealed class TooHeavyException(string what) : Exception(what);

/// <summary>A reader could not be had, or failed in a way that says nothing about the file. It may be tried again.</summary>
public sealed class ReaderFailedException(string what, Exception? inner = null) : IOException(what, inner);
