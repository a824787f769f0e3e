using System.ComponentModel;
using System.Diagnostics;
using System.Globalization;
using System.Runtime.InteropServices;
using System.Text;
using System.Text.Json;
using Chronotype.Core.Content;
using Chronotype.Core.Readers;

namespace Chronotype.Studio.Readers;

/// <summary>One reader process, kept warm. It does one job at a time, and is ended when it passes a limit.</summary>
internal sealed class ReaderProcess : IDisposable
{
    private const string Program = "Chronotype.Reader";

    private readonly ReaderLimits limits;
    private readonly Process process;
    private readonly ReaderWire wire;
    private readonly string scratch;
    private readonly int id;
    private int jobs;

    // Over what it may take of the processor; it would come to the same again.
    private const int EndedByProcessorLimit = 128 + 24;

    /// <param name="memory">Bytes that it may hold.</param>
    /// <param name="scratchRoot">Where its folder for what it sets aside is made; the folder goes with the process.</param>
    /// <exception cref="ReaderFailedException">It could not be started.</exception>
    public ReaderProcess(ReaderLimits limits, long memory, ReaderIsolation isolation, string scratchRoot)
    {
        this.limits = limits;
        scratch = Directory.CreateDirectory(Path.Combine(scratchRoot, Guid.NewGuid().ToString("N"))).FullName;
        try
        {
            process = Process.Start(StartInfo(limits, memory, isolation, scratch))!;
            id = process.Id;
        }
        catch (Exception e) when (e is Win32Exception or IOException)
        {
            Directory.Delete(scratch, recursive: true);
            throw new ReaderFailedException(
                "The program that reads files could not be started, so nothing can be read now. What is stored is not touched.",
                e
            );
        }
        // What a library says on the way is for nobody, and must not fill the pipe.
        process.BeginErrorReadLine();
        wire = new ReaderWire(process.StandardOutput.BaseStream, process.StandardInput.BaseStream);
    }

    /// <summary>Whether it may do another job.</summary>
    public bool IsFit { get; private set; } = true;

    /// <summary>The full path of a file that it made; null where it is none of its own.</summary>
    /// <param name="name">As it called it.</param>
    public string? PathOf(string name) =>
        name == Path.GetFileName(name) && File.Exists(Path.Combine(scratch, name)) ? Path.Combine(scratch, name) : null;

    /// <summary>Does a job to its end, on the calling thread.</summary>
    /// <param name="sources">The contents, seekable.</param>
    /// <param name="progress">Takes how many bytes it has asked for, and of how many.</param>
    /// <exception cref="LimitException">It took too much, or died of the file, and is gone.</exception>
    /// <exception cref="OperationCanceledException">It was cancelled, and is gone.</exception>
    /// <exception cref="IOException">A content could not be read from where it is kept; that is no fault of the file.</exception>
    public (ReaderAnswer Answer, ReadOnlyMemory<byte> Drawing) Do(
        ReaderJob job,
        IReadOnlyList<Stream> sources,
        IProgress<(long Done, long Total)>? progress,
        CancellationToken cancel
    )
    {
        if (jobs++ == 0)
            job = job with { ProcessorSeconds = job.ProcessorSeconds + limits.FirstSeconds };
        var wall = TimeSpan.FromSeconds((double)job.ProcessorSeconds * limits.WallFactor);
        using var late = new CancellationTokenSource(wall);
        using var either = CancellationTokenSource.CreateLinkedTokenSource(late.Token, cancel);
        using var ending = either.Token.Register(Kill);
        try
        {
            var done = Converse(job, sources, progress);
            IsFit = !either.IsCancellationRequested && jobs < limits.Jobs && done.Answer.Resident < limits.ResidentBytes;
            return done;
        }
        catch (SourceException e)
        {
            Kill();
            System.Runtime.ExceptionServices.ExceptionDispatchInfo.Throw(e.InnerException!);
            throw;
        }
        catch (Exception e) when (e is IOException or InvalidDataException or JsonException or ObjectDisposedException)
        {
            var code = either.IsCancellationRequested ? null : Ending();
            Kill();
            cancel.ThrowIfCancellationRequested();
            if (late.IsCancellationRequested)
                throw new LimitException($"It took longer than {wall.TotalSeconds:0} s.", isSure: false, e);
            throw new LimitException($"The reader ended ({code}).", isSure: code == EndedByProcessorLimit, e);
        }
    }

    public void Dispose()
    {
        Kill();
        process.Dispose();
        try
        {
            Directory.Delete(scratch, recursive: true);
        }
        catch (IOException)
        {
            // Cleared away at the next start.
        }
    }

    private (ReaderAnswer Answer, ReadOnlyMemory<byte> Drawing) Converse(
        ReaderJob job,
        IReadOnlyList<Stream> sources,
        IProgress<(long Done, long Total)>? progress
    )
    {
        var (asked, total) = (0L, Math.Max(1, job.Lengths.Sum()) * Math.Max(1, job.Passes));
        wire.Send(ReaderFrame.Job, Encoding.UTF8.GetBytes(RecordJson.Write(job)));
        var buffer = Array.Empty<byte>();
        while (true)
        {
            switch (wire.Receive())
            {
                case (ReaderFrame.Want, var payload):
                    var (source, offset, count) = ReaderWire.ReadWant(payload, job.Lengths);
                    // What it goes over once more than was thought is not counted.
                    asked = Math.Min(asked + count, total);
                    progress?.Report((asked, total));
                    if (buffer.Length < count)
                        buffer = new byte[count];
                    wire.Send(ReaderFrame.Bytes, buffer.AsSpan(0, Read(sources[source], offset, buffer.AsSpan(0, count))));
                    break;
                case (ReaderFrame.Answer, var payload):
                    var (json, drawing) = ReaderWire.ReadAnswer(payload);
                    return (RecordJson.Read<ReaderAnswer>(Encoding.UTF8.GetString(json.Span)), drawing);
                case null:
                    throw new IOException("The reader is gone.");
                default:
                    throw new InvalidDataException("The reader sent what no reader sends.");
            }
        }
    }

    private static int Read(Stream source, long offset, Span<byte> into)
    {
        try
        {
            source.Position = offset;
            return source.ReadAtLeast(into, into.Length, throwOnEndOfStream: false);
        }
        catch (Exception e)
        {
            throw new SourceException(e);
        }
    }

    private int? Ending() => process.WaitForExit(1000) ? process.ExitCode : null;

    private void Kill()
    {
        IsFit = false;
        ProcessGroup.Kill(process, id);
    }

    private static ProcessStartInfo StartInfo(ReaderLimits limits, long memory, ReaderIsolation isolation, string scratch)
    {
        var program = Path.Combine(AppContext.BaseDirectory, Program);
        // The runtime that runs the studio runs its readers; a studio that was published with its own has readers that have it, too.
        var host = Path.GetFullPath(
            Path.Combine(RuntimeEnvironment.GetRuntimeDirectory(), "../../..", OperatingSystem.IsWindows() ? "dotnet.exe" : "dotnet")
        );
        var info =
            File.Exists(host) && File.Exists(program + ".dll")
                ? isolation.Start(scratch, host, program + ".dll")
                : isolation.Start(scratch, program);
        info.ArgumentList.Add(memory.ToString(CultureInfo.InvariantCulture));
        info.ArgumentList.Add(limits.FileBytes.ToString(CultureInfo.InvariantCulture));
        info.RedirectStandardInput = info.RedirectStandardOutput = info.RedirectStandardError = true;
        // Nothing of the studio's surroundings, which may hold a key of an object store, is any business of a reader.
        info.Environment.Clear();
        info.Environment["TMPDIR"] = info.Environment["HOME"] = scratch;
        info.Environment["LANG"] = "C.UTF-8";
        info.Environment["DOTNET_EnableDiagnostics"] = "0";
        info.Environment["DOTNET_GCHeapHardLimit"] = $"0x{memory * 6 / 10:x}";
        info.Environment["DOTNET_gcConcurrent"] = "0";
        info.Environment["DOTNET_CLI_TELEMETRY_OPTOUT"] = "1";
        info.Environment["MALLOC_ARENA_MAX"] = "2";
        info.Environment["VIPS_CONCURRENCY"] = "1";
        return info;
    }

    /// <summary>A limit was passed, or the reader died of what it read.</summary>
    /// <param name="isSure">It was the file's doing, and would be again.</param>
    public sealed class LimitException(string what, bool isSure, Exception inner) : Exception(what, inner)
    {
        public bool IsSure => isSure;
    }

    private sealed class SourceException(Exception inner) : Exception(inner.Message, inner);
}
