using System.Collections.Concurrent;
using Chronotype.Storage;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Chronotype.Studio.People;

/// <summary>
/// Tells which sessions still count: those that carry a person's present stamp. It is asked at every request, so the stamps are
/// remembered.
/// </summary>
public sealed class Sessions(IServiceScopeFactory scopes)
{
    private readonly ConcurrentDictionary<Guid, string?> stamps = new();

    /// <summary>Whether a session with this stamp counts; not where the person is switched off, or was never here.</summary>
    public async Task<bool> CountsAsync(Guid person, string? stamp, CancellationToken cancel = default)
    {
        if (!stamps.TryGetValue(person, out var present))
        {
            await using var scope = scopes.CreateAsyncScope();
            present = await scope
                .ServiceProvider.GetRequiredService<StudioDb>()
                .Users.Where(p => p.Id == person && !p.IsOff)
                .Select(p => p.SecurityStamp)
                .FirstOrDefaultAsync(cancel);
            stamps[person] = present;
        }
        return stamp is not null && stamp == present;
    }

    /// <summary>Has the stamp looked up anew, after it changed.</summary>
    public void Changed(Guid person) => stamps.TryRemove(person, out _);
}
