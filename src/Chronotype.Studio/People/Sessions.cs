using System.Collections.Concurrent;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.People;

/// <summary>
/// Tells which sessions still count: those that carry a person's present stamp and were not ended. It is asked at every request, so
/// both are remembered; and when a session was last seen is written down now and then.
/// </summary>
public sealed class Sessions(IDbContextFactory<StudioDb> contexts, TimeProvider time)
{
    private const int MostCharacters = 300;

    /// <summary>As the cookie's: a session that was not seen for so long cannot come back.</summary>
    public static readonly TimeSpan Lasts = TimeSpan.FromDays(14);

    private static readonly TimeSpan Between = TimeSpan.FromMinutes(5);

    private readonly ConcurrentDictionary<Guid, string?> stamps = new();
    private readonly ConcurrentDictionary<Guid, (bool Counts, DateTimeOffset WrittenAt)> known = new();

    // Begun while the disk was full, so that somebody can look and make room; they count until the program stops, or are recorded.
    private readonly ConcurrentDictionary<Guid, Session> unwritten = new();

    /// <summary>Notes that a person signed in somewhere. On a full disk it is remembered until it can be.</summary>
    /// <param name="address">The network address that it came from.</param>
    /// <param name="browser">What the browser calls itself.</param>
    public async Task<Session> BeginAsync(Guid person, string address, string browser, CancellationToken cancel = default)
    {
        var now = time.GetUtcNow();
        var session = new Session
        {
            PersonId = person,
            StartedAt = now,
            SeenAt = now,
            Address = address,
            Browser = Deeds.TypedText.Cut(Deeds.TypedText.Line(browser), MostCharacters),
        };
        if (!await TryWriteAsync(session, cancel))
            unwritten[session.Id] = session;
        return session;
    }

    private async Task<bool> TryWriteAsync(Session session, CancellationToken cancel)
    {
        try
        {
            await using var db = await contexts.CreateDbContextAsync(cancel);
            // It may have been written, and only not have been flushed.
            if (!await db.Sessions.AnyAsync(s => s.Id == session.Id, cancel))
                db.Sessions.Add(session);
            // Nobody asks about sessions that ended, or were forgotten, long ago.
            var old = time.GetUtcNow() - 2 * Lasts;
            await db.Sessions.Where(s => s.PersonId == session.PersonId && s.SeenAt < old).ExecuteDeleteAsync(cancel);
            await db.SaveChangesAsync(cancel);
            return true;
        }
        catch (Exception e) when (DataFolder.IsFull(e))
        {
            return false;
        }
    }

    /// <summary>Whether a session with this stamp counts; not where the person is switched off, or was never here.</summary>
    /// <param name="session">Null where it began before sessions were told apart.</param>
    /// <param name="address">Where it comes from now.</param>
    public async Task<bool> CountsAsync(Guid person, string? stamp, Guid? session, string address, CancellationToken cancel = default)
    {
        if (!stamps.TryGetValue(person, out var present))
        {
            await using var db = await contexts.CreateDbContextAsync(cancel);
            present = await db.Users.Where(p => p.Id == person && !p.IsOff).Select(p => p.SecurityStamp).FirstOrDefaultAsync(cancel);
            stamps[person] = present;
        }
        if (stamp is null || stamp != present)
            return false;
        return session is not { } id || await IsOpenAsync(person, id, address, cancel);
    }

    /// <summary>The sessions that may still be used, the one that was seen last first.</summary>
    public async Task<IReadOnlyList<Session>> OfAsync(Guid person, CancellationToken cancel = default)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var since = time.GetUtcNow() - Lasts;
        return await db
            .Sessions.AsNoTracking()
            .Where(s => s.PersonId == person && s.EndedAt == null && s.SeenAt > since)
            .OrderByDescending(s => s.SeenAt)
            .ToListAsync(cancel);
    }

    /// <summary>Ends one of a person's sessions, at once.</summary>
    /// <returns>False where there is none such.</returns>
    public async Task<bool> EndAsync(Guid person, Guid session, CancellationToken cancel = default)
    {
        var now = time.GetUtcNow();
        if (unwritten.TryRemove(session, out _))
        {
            known[session] = (false, now);
            return true;
        }
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var ended = await db
            .Sessions.Where(s => s.Id == session && s.PersonId == person && s.EndedAt == null)
            .ExecuteUpdateAsync(u => u.SetProperty(s => s.EndedAt, now), cancel);
        known[session] = (false, now);
        return ended == 1;
    }

    /// <summary>Has the stamp looked up anew, after it changed: all sessions ended with the old one.</summary>
    public async Task ChangedAsync(Guid person, CancellationToken cancel = default)
    {
        stamps.TryRemove(person, out _);
        foreach (var session in unwritten.Values.Where(s => s.PersonId == person))
            unwritten.TryRemove(session.Id, out _);
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var now = time.GetUtcNow();
        await db
            .Sessions.Where(s => s.PersonId == person && s.EndedAt == null)
            .ExecuteUpdateAsync(u => u.SetProperty(s => s.EndedAt, now), cancel);
    }

    private async Task<bool> IsOpenAsync(Guid person, Guid id, string address, CancellationToken cancel)
    {
        var now = time.GetUtcNow();
        if (known.TryGetValue(id, out var there) && (!there.Counts || now - there.WrittenAt < Between))
            return there.Counts;
        if (unwritten.TryGetValue(id, out var begun) && !await TryWriteAsync(begun, cancel))
            return begun.PersonId == person;
        unwritten.TryRemove(id, out _);
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var open = db.Sessions.Where(s => s.Id == id && s.PersonId == person && s.EndedAt == null);
        bool counts;
        try
        {
            counts =
                await open.ExecuteUpdateAsync(u => u.SetProperty(s => s.SeenAt, now).SetProperty(s => s.Address, address), cancel) == 1;
        }
        catch (Exception e) when (DataFolder.IsFull(e))
        {
            // Only when it was last seen is not written down.
            counts = await open.AnyAsync(cancel);
        }
        known[id] = (counts, now);
        return counts;
    }
}
