using System.Collections.Concurrent;
using Chronotype.Core.Share;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.People;

/// <summary>A key that was just made.</summary>
/// <param name="Secret">What the program signs in with. It is not kept, and cannot be shown again.</param>
public sealed record MadeKey(DeviceKey Key, string Secret);

/// <summary>Keys for programs: a person makes one for each machine or program, and revokes it without a password being changed.</summary>
public sealed class DeviceKeys(DeedRunner deeds, IDbContextFactory<StudioDb> contexts, TimeProvider time)
{
    /// <summary>The most that a person has at a time.</summary>
    public const int Most = 100;

    private static readonly TimeSpan Between = TimeSpan.FromMinutes(1);

    // When each use was last written down: not at every request.
    private readonly ConcurrentDictionary<Guid, DateTimeOffset> written = new();

    /// <summary>Makes a key for oneself.</summary>
    /// <param name="name">The machine or the program that gets it.</param>
    public Task<Outcome<MadeKey>> MakeAsync(Actor actor, string name, CancellationToken cancel = default) =>
        deeds.DoAsync<MadeKey>(
            actor,
            Right.Own,
            async deed =>
            {
                var called = TypedText.Line(name);
                if (called.Length is < 1 or > 80)
                    return new Refusal.Length("key", 1, 80);
                if (await deed.Db.DeviceKeys.CountAsync(k => k.PersonId == actor.PersonId && k.EndedAt == null, cancel) >= Most)
                    return new Refusal.TooManyAtOnce(Most);
                var secret = KeySecret.New();
                var key = new DeviceKey
                {
                    PersonId = actor.PersonId,
                    Name = called,
                    Hash = KeySecret.HashOf(secret),
                    MadeAt = deed.Now,
                };
                deed.Db.DeviceKeys.Add(key);
                return new MadeKey(key, secret);
            },
            cancel
        );

    /// <summary>Revokes one of one's own: whoever has it is a stranger from the next request on.</summary>
    public Task<Outcome<DeviceKey>> RevokeAsync(Actor actor, Guid id, CancellationToken cancel = default) =>
        deeds.DoAsync<DeviceKey>(
            actor,
            Right.Own,
            async deed =>
            {
                if (
                    await deed.Db.DeviceKeys.FirstOrDefaultAsync(
                        k => k.Id == id && k.PersonId == actor.PersonId && k.EndedAt == null,
                        cancel
                    )
                    is not { } key
                )
                    return new Refusal.NoSuchKey();
                key.EndedAt = deed.Now;
                return key;
            },
            cancel
        );

    /// <summary>Those that count, the newest first.</summary>
    public async Task<IReadOnlyList<DeviceKey>> OfAsync(Guid person, CancellationToken cancel = default)
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        return await db
            .DeviceKeys.AsNoTracking()
            .Where(k => k.PersonId == person && k.EndedAt == null)
            .OrderByDescending(k => k.MadeAt)
            .ToListAsync(cancel);
    }

    /// <summary>Whose key it is; it is asked at every request, and noted now and then that it was used.</summary>
    /// <param name="initials">Who says that it is theirs.</param>
    /// <param name="address">The network address that it came from.</param>
    /// <param name="program">What the program calls itself.</param>
    /// <returns>Who it is, and the key; null where it counts for nobody, or not for them.</returns>
    public async Task<(Person Person, Guid KeyId)?> OwnerAsync(
        string initials,
        string secret,
        string address,
        string program,
        CancellationToken cancel = default
    )
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var hash = KeySecret.HashOf(secret);
        var found = await db
            .DeviceKeys.AsNoTracking()
            .Where(k => k.Hash == hash && k.EndedAt == null)
            .Join(db.Users, k => k.PersonId, p => p.Id, (Key, Person) => new { Key, Person })
            .FirstOrDefaultAsync(cancel);
        if (found is not { Person.IsOff: false } || !found.Person.Initials.Equals(initials, StringComparison.OrdinalIgnoreCase))
            return null;
        var now = time.GetUtcNow();
        if (!written.TryGetValue(found.Key.Id, out var last) || now - last > Between || found.Key.Address != address)
        {
            written[found.Key.Id] = now;
            var called = TypedText.Cut(TypedText.Line(program), 200);
            await db
                .DeviceKeys.Where(k => k.Id == found.Key.Id)
                .ExecuteUpdateAsync(
                    u => u.SetProperty(k => k.UsedAt, now).SetProperty(k => k.Address, address).SetProperty(k => k.Program, called),
                    cancel
                );
        }
        return (found.Person, found.Key.Id);
    }
}
