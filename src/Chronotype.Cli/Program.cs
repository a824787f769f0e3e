using System.CommandLine;
using System.Globalization;
using Chronotype.Cli;
using Chronotype.Cli.Content;
using Chronotype.Cli.Files;
using Chronotype.Cli.Names;
using Chronotype.Cli.Outputs;
using Chronotype.Cli.Studio;
using Chronotype.Cli.Tree;

CultureInfo.DefaultThreadCurrentCulture = CultureInfo.CurrentCulture = CultureInfo.InvariantCulture;
var root = new RootCommand("Chronotype from a shell.")
{
    NamesCommand.Make(),
    ContentCommand.Make(),
    FileCommands.Look(),
    FileCommands.Compare(),
    TreeCommands.Tree(),
    TreeCommands.References(),
    TreeCommands.Users(),
    OutputCommands.Make(),
    OutputCommands.Recipes(),
    StudioCommand.Make(),
    BackupCommand.Make(),
    KeyCommand.Make(),
};
var parsed = root.Parse(args);
if (parsed.Errors.Count > 0)
{
    foreach (var error in parsed.Errors)
        Console.Error.WriteLine(error.Message);
    Console.Error.WriteLine("Nothing was done. Add --help to see what goes with a command.");
    return ExitCodes.Unusable;
}
try
{
    return await parsed.InvokeAsync(new InvocationConfiguration { EnableDefaultExceptionHandler = false });
}
catch (UnusableInputException e)
{
    foreach (var line in e.Lines)
        Console.Error.WriteLine(line);
    return ExitCodes.Unusable;
}
catch (IOException e) when (e.Message.Contains("pipe", StringComparison.OrdinalIgnoreCase))
{
    // Whoever read the answers has seen enough.
    return ExitCodes.Done;
}
catch (OperationCanceledException)
{
    Console.Error.WriteLine("Stopped. Nothing that was kept is lost.");
    return ExitCodes.Unusable;
}
catch (IOException e)
{
    Console.Error.WriteLine(e.Message);
    return ExitCodes.Unusable;
}
