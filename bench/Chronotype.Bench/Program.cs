using System.Globalization;
using Chronotype.Bench;
using Chronotype.Bench.Contents;

CultureInfo.DefaultThreadCurrentCulture = CultureInfo.CurrentCulture = CultureInfo.InvariantCulture;
var chosen = args.Length > 0 ? args[0] : "all";
if (
    chosen
    is not (
        "all"
        or "names"
        or "piece-page"
        or "day"
        or "upload"
        or "sound"
        or "picture"
        or "outputs"
        or "first-sight"
        or "bad-input"
        or "tree"
        or "share"
        or "waits"
        or "load"
        or "content"
    )
)
{
    Console.Error.WriteLine(
        "dotnet run -c Release --project bench/Chronotype.Bench -- [names | piece-page | day | upload | sound | picture | outputs [sound | picture] | first-sight | bad-input | tree | share [many | saves | copy | large] | waits [rounds | outputs | backups] | load [MINUTES] | content [hashes | put | read | poster | recording "
            + "| index]]"
    );
    return 2;
}
Console.WriteLine(
    $"{Environment.ProcessorCount} processors, {System.Runtime.InteropServices.RuntimeInformation.OSDescription}, .NET "
        + $"{Environment.Version}"
);
if (chosen is "all" or "names")
    Names.Run();
if (chosen is "all" or "piece-page")
    await PiecePage.RunAsync();
if (chosen is "all" or "day")
    await Day.RunAsync();
if (chosen is "all" or "upload")
    await Upload.RunAsync();
if (chosen is "all" or "sound")
    HourOfSound.Run();
if (chosen is "all" or "picture")
    LayeredPicture.Run();
if (chosen is "all" or "outputs")
    MadeOutputs.Run(chosen == "outputs" && args.Length > 1 ? args[1] : "");
if (chosen is "all" or "first-sight")
    await FirstSight.RunAsync();
if (chosen is "all" or "bad-input")
    BadInput.Run();
if (chosen is "all" or "tree")
    await Tree.RunAsync();
if (chosen is "all" or "share")
    await Share.RunAsync(chosen == "share" && args.Length > 1 ? args[1] : "");
if (chosen is "all" or "waits")
    await Waits.RunAsync(chosen == "waits" && args.Length > 1 ? args[1] : "");
if (chosen == "load")
    await Load.RunAsync(TimeSpan.FromMinutes(args.Length > 1 ? double.Parse(args[1]) : 20));
if (chosen is "all" or "content")
    ContentBench.Run(args.Length > 1 ? args[1] : "");
return 0;
