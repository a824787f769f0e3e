using System.Globalization;
using Chronotype.Storage;
using Chronotype.Web;
using Microsoft.AspNetCore.Connections;

// What is written is the same wherever the machine stands; only the time zone is its own.
CultureInfo.DefaultThreadCurrentCulture = CultureInfo.CurrentCulture = CultureInfo.InvariantCulture;

// A long computation keeps a thread busy, and the pool waits half a second before it starts another for a request.
ThreadPool.SetMinThreads(workerThreads: 32, completionPortThreads: 32);
try
{
    var settings = Settings.From(args);
    var app = StudioApp.Build(settings);
    await StudioApp.PrepareAsync(app);
    await app.StartAsync();
    Console.WriteLine($"Chronotype is ready: {string.Join(", ", app.Urls)}");
    if (!settings.IsLoopback)
        Console.WriteLine("It listens beyond this machine and does not encrypt by itself: put a proxy with a certificate before it.");
    await app.WaitForShutdownAsync();
    return 0;
}
catch (IOException e) when (e.InnerException is AddressInUseException)
{
    Console.Error.WriteLine($"{e.Message} Another program listens there; give another port with --port.");
    return 1;
}
catch (Exception e) when (e is SettingException or IOException or UnauthorizedAccessException)
{
    // A person mends these: the sentence is for them, and a trace would hide it.
    Console.Error.WriteLine(e.Message);
    return 1;
}
