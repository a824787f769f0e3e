using Chronotype.Storage.Starting;
using Microsoft.AspNetCore.Identity;
using Microsoft.Extensions.DependencyInjection;

namespace Chronotype.Tests;

/// <summary>
/// Begins the many studios of the tests sooner: records that were made once are copied, and passwords are hashed few times. How a studio
/// begins by itself is tested for itself.
/// </summary>
internal static class NewStudio
{
    private static readonly Lazy<Task<byte[]>> Records = new(MakeAsync);

    /// <summary>A data folder with the records of a studio in which nothing was done.</summary>
    public static async Task<StudioFolder> FolderAsync()
    {
        var folder = new StudioFolder();
        await File.WriteAllBytesAsync(Path.Combine(folder.Path, "studio.db"), await Records.Value);
        return folder;
    }

    /// <summary>Passwords are what most tests are not about.</summary>
    public static void HashPasswordsQuickly(IServiceCollection services) =>
        services.Configure<PasswordHasherOptions>(o => o.IterationCount = 100);

    private static async Task<byte[]> MakeAsync()
    {
        using var folder = new StudioFolder();
        var path = Path.Combine(folder.Path, "studio.db");
        await new DatabaseFile(path, TimeProvider.System).MakeAsync();
        return await File.ReadAllBytesAsync(path);
    }
}
