using System.Globalization;
using System.IO.Compression;
using System.Text;
using System.Text.Json;
using Chronotype.Core.Content;
using Chronotype.Core.Readers;
using Chronotype.Formats;
using Chronotype.Formats.Outputs;
using Chronotype.Formats.Rewriting;
using Chronotype.Formats.Sound;
using Chronotype.Reader;

// Reads foreign bytes apart from what matters: this process is handed bytes and no paths, has no records to lose, no network where the system
// allows the studio to take it away, no files but a folder of its own where bubblewrap is there, and the system ends it when it takes too
// much. It is started by the studio, does one job after another, and ends when its input does.
if (
    args.Length != 2
    || !long.TryParse(args[0], CultureInfo.InvariantCulture, out var memory)
    || !long.TryParse(args[1], CultureInfo.InvariantCulture, out var file)
)
{
    Console.Error.WriteLine("Chronotype starts this program by itself, to read files in: MEMORY-BYTES FILE-BYTES.");
    return 2;
}
CultureInfo.DefaultThreadCurrentCulture = CultureInfo.CurrentCulture = CultureInfo.InvariantCulture;
SystemLimits.LeadGroup();
SystemLimits.NoCoreFile();
SystemLimits.GoFirst();
SystemLimits.Memory(memory);
SystemLimits.File(file);
ExternalTool.MemoryLeft = () => memory - Environment.WorkingSet;
EndWithParent();

using var input = Console.OpenStandardInput();
using var output = Console.OpenStandardOutput();

// What a library prints must not stand between frames.
Console.SetOut(TextWriter.Null);
var wire = new ReaderWire(input, output);
while (wire.Receive() is (ReaderFrame.Job, var json))
{
    var job = RecordJson.Read<ReaderJob>(Encoding.UTF8.GetString(json));
    SystemLimits.ProcessorFromNow(job.ProcessorSeconds);
    if (job.GoesLast)
        SystemLimits.GoLast();
    var (answer, drawing) = Do(job);
    wire.SendAnswer(Encoding.UTF8.GetBytes(RecordJson.Write(answer with { Resident = Environment.WorkingSet })), drawing);
}
return 0;

(ReaderAnswer Answer, byte[] Drawing) Do(ReaderJob job)
{
    var sources = job.Lengths.Select((length, i) => new AskedStream(wire, i, length)).ToList();
    try
    {
        var done = DoWith(job, sources);
        // A library may have swallowed it and gone on with what it had.
        return sources.Exists(s => s.HasFailed) ? Fault("The content could not be read from where it is kept.") : done;
    }
    catch (UnreadableFileException e) when (!sources.Exists(s => s.HasFailed))
    {
        return (new ReaderAnswer { Refusal = e.Fault }, []);
    }
    catch (Exception e) when (e is not OutOfMemoryException)
    {
        return Fault($"{e.GetType().Name}: {e.Message}");
    }
}

static (ReaderAnswer Answer, byte[] Drawing) DoWith(ReaderJob job, List<AskedStream> sources)
{
    switch (job.Kind)
    {
        case ReaderJobKind.Read:
            var facts = job.IsHeaderOnly ? FormatReader.Header(sources[0]) : FormatReader.Read(sources[0], job.Patterns);
            return (new ReaderAnswer { Facts = facts }, []);
        case ReaderJobKind.Draw:
            return PreviewMaker.Make(sources[0], job.Side, job.Page) is { } preview
                ? (new ReaderAnswer { MediaType = preview.MediaType }, preview.Bytes)
                : (new ReaderAnswer(), []);
        case ReaderJobKind.Compare:
            return (new ReaderAnswer { Comparison = SaveComparer.Compare(sources[0], job.Facts[0], sources[1], job.Facts[1]) }, []);
        case ReaderJobKind.Cut:
            var file = $"tiles-{Guid.NewGuid():N}.zip";
            var pictures = sources.Select((s, i) => new PictureSource(s, job.Facts[i], At(job.Pages, i), At(job.Layers, i))).ToList();
            var tiles = pictures.Count == 1 ? TileCutter.Cut(pictures[0], file) : TileCutter.CutDifference(pictures[0], pictures[1], file);
            return (new ReaderAnswer { Tiles = tiles, File = file }, []);
        case ReaderJobKind.Chart:
            return Made("chart", made => new ReaderAnswer { Chart = SoundForBrowser.Chart(sources[0], made) });
        case ReaderJobKind.Samples:
            return Made("samples", made => Done(() => SoundForBrowser.Samples(sources[0], job.Block, made)));
        case ReaderJobKind.Playable:
            return Made("sound.wav", made => Done(() => SoundForBrowser.Playable(sources[0], made)));
        case ReaderJobKind.Residue:
            return Made("residue.wav", made => Done(() => SoundForBrowser.Residue(sources[0], sources[1], job.Matches, made)));
        case ReaderJobKind.Relink:
            return Written("relinked", output => ReferenceRewriter.Rewrite(sources[0], job.Rewritten, output, job.Patterns));
        case ReaderJobKind.Pack:
            return Written("packed", output => FilePacker.Pack(sources, job.Packed, output));
        case ReaderJobKind.PutOut:
            return Written("put-out", output => FilePacker.PutOut(sources[0], job.Placed, output));
        case ReaderJobKind.Carry:
            return Written(
                "carried",
                output =>
                {
                    if (job.Cut is { } cut)
                        PartCutter.Cut(sources[0], cut, output);
                    else
                        CarriedParts.Keep(sources[0], job.Carried.ToHashSet(), output);
                }
            );
        case ReaderJobKind.Put:
            return Written(
                "put",
                output => PartPutter.Put(sources[0], sources[1], job.Carried, job.PutName, job.Cut?.Stretch, job.PutAt, output)
            );
        case ReaderJobKind.Sheet:
            return Written("sheet", output => SheetMaker.Make(job.Sheet!, sources, output));
        case ReaderJobKind.Estimate:
            var (bytes, texts) = OutputMaker.Estimate(sources[0], job.Recipe!, sources[1..]);
            return (new ReaderAnswer { Bytes = bytes, Texts = texts }, []);
        case ReaderJobKind.Liken:
            return (new ReaderAnswer { Likeness = LikenessReader.Read(sources[0]) }, []);
        case ReaderJobKind.Bare:
            return Written("bare", output => CarriedParts.WithoutSettings(sources[0], output));
        case ReaderJobKind.Make:
            return Made(
                "output",
                made =>
                {
                    using var output = File.Create(made);
                    return new ReaderAnswer { Made = OutputMaker.Make(sources[0], job.Recipe!, output, job.From, sources[1..]) };
                }
            );
        case ReaderJobKind.Embedded:
            return Made(
                "embedded.zip",
                made =>
                {
                    using var archive = ZipFile.Open(made, ZipArchiveMode.Create);
                    var parts = FilePacker.Find(
                        sources[0],
                        (part, bytes) =>
                        {
                            using var entry = archive.CreateEntry(part.Hash.ToString(), CompressionLevel.NoCompression).Open();
                            entry.Write(bytes);
                        }
                    );
                    return new ReaderAnswer { Embedded = parts };
                }
            );
        default:
            return Fault($"There is no job {job.Kind}.");
    }
}

static (ReaderAnswer, byte[]) Made(string name, Func<string, ReaderAnswer> make)
{
    var file = $"{Guid.NewGuid():N}-{name}";
    return (make(file) with { File = file }, []);
}

static (ReaderAnswer, byte[]) Written(string name, Action<Stream> write) =>
    Made(
        name,
        made =>
            Done(() =>
            {
                using var output = File.Create(made);
                write(output);
            })
    );

static ReaderAnswer Done(Action make)
{
    make();
    return new ReaderAnswer();
}

static T? At<T>(IReadOnlyList<T> list, int i) => i < list.Count ? list[i] : default;

static (ReaderAnswer, byte[]) Fault(string what) => (new ReaderAnswer { Fault = what }, []);

// A reader that hangs would not see that its input ended; and a studio that was killed cannot end it.
// The studio holds the other end of the input; when that is closed, nobody waits for an answer any more.
static void EndWithParent()
{
    new Thread(() =>
    {
        while (!SystemLimits.IsInputClosed())
            Thread.Sleep(500);
        SystemLimits.KillGroup();
    })
    {
        IsBackground = true,
    }.Start();
}
