using System.Globalization;
using Chronotype.Demo;
using Chronotype.Storage;

if (args.Length != 1)
{
    Console.Error.WriteLine("Makes the demo studio. One argument: its data folder, which must hold no studio yet.");
    return 2;
}

// What is written is the same wherever the machine stands; only the time zone is its own.
CultureInfo.DefaultThreadCurrentCulture = CultureInfo.CurrentCulture = CultureInfo.InvariantCulture;
try
{
    using var data = new DataFolder(args[0]);
    await new DemoStudio(data, TimeProvider.System.GetUtcNow()).MakeAsync();
    return 0;
}
catch (Exception e) when (e is IOException or InvalidOperationException)
{
    Console.Error.WriteLine(e.Message);
    return 1;
}
