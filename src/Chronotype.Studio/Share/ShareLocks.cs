using System.Diagnostics.CodeAnalysis;
using Chronotype.Core.Content;

namespace Chronotype.Studio.Share;

/// <summary>A write lock (RFC 4918, 6 and 7).</summary>
/// <param name="Token">A URI that nobody guesses: <c>urn:uuid:…</c> (RFC 4122).</param>
/// <param name="Path">Null for the project's top.</param>
/// <param name="IsDeep">It holds for all that is in the folder, too.</param>
/// <param name="IsShared">Others may hold shared ones beside it.</param>
/// <param name="Owner">What the program says of who has it, as XML; not trusted.</param>
/// <param name="Lasts">So long it holds when it is not refreshed.</param>
public sealed record ShareLock(
    string Token,
    Guid ProjectId,
    ProjectPath? Path,
    bool IsDeep,
    bool IsShared,
    Guid PersonId,
    string Owner,
    TimeSpan Lasts
)
{
    /// <summary>When it is over.</summary>
    public DateTimeOffset Until { get; init; }

    /// <summary>Whether it holds for what stands at a path.</summary>
    public bool Covers(ProjectPath? path) =>
        Path is null ? path is null || IsDeep : path is not null && (path.Key == Path.Key || (IsDeep && IsUnder(path, Path)));

    internal static bool IsUnder(ProjectPath path, ProjectPath folder) => path.Key.StartsWith(folder.Key + "/", StringComparison.Ordinal);
}

/// <summary>
/// The locks that programs hold on the share, while the studio runs: a program that finds its lock gone asks for another one. A lock keeps
/// programs from one another's files; it never keeps what was saved from being a save.
/// </summary>
public sealed class ShareLocks(TimeProvider time)
{
    /// <summary>The longest that a lock holds without being refreshed.</summary>
    public static readonly TimeSpan Longest = TimeSpan.FromHours(1);

    private const int Most = 100_000;

    private readonly Lock gate = new();
    private readonly Dictionary<string, ShareLock> locks = [];

    /// <summary>Takes a lock, where nothing that is held stands against it.</summary>
    /// <param name="against">The one that does; null where it was taken.</param>
    public bool TryTake(ShareLock wanted, [NotNullWhen(true)] out ShareLock? taken, out ShareLock? against)
    {
        lock (gate)
        {
            Forget();
            against = locks.Values.FirstOrDefault(held =>
                held.ProjectId == wanted.ProjectId
                && (!held.IsShared || !wanted.IsShared)
                && (held.Covers(wanted.Path) || wanted.Covers(held.Path))
            );
            taken = null;
            if (against is not null || locks.Count >= Most)
                return false;
            locks[wanted.Token] = taken = wanted with { Until = time.GetUtcNow() + wanted.Lasts };
            return true;
        }
    }

    /// <summary>Has a lock hold for as long again.</summary>
    /// <returns>Null where there is none of that token that covers the path and is theirs.</returns>
    public ShareLock? Refresh(string token, Guid projectId, ProjectPath? path, Guid person, TimeSpan? lasts)
    {
        lock (gate)
        {
            Forget();
            if (!locks.TryGetValue(token, out var held) || held.ProjectId != projectId || held.PersonId != person || !held.Covers(path))
                return null;
            held = held with { Lasts = lasts ?? held.Lasts };
            return locks[token] = held with { Until = time.GetUtcNow() + held.Lasts };
        }
    }

    /// <summary>Gives a lock up.</summary>
    /// <returns>Whether there was one of that token that covers the path and is theirs.</returns>
    public bool Release(string token, Guid projectId, ProjectPath? path, Guid person)
    {
        lock (gate)
        {
            Forget();
            return locks.TryGetValue(token, out var held)
                && held.ProjectId == projectId
                && held.PersonId == person
                && held.Covers(path)
                && locks.Remove(token);
        }
    }

    /// <summary>The locks that hold for what stands at a path, or for anything in it.</summary>
    public IReadOnlyList<ShareLock> OfAll(Guid projectId, ProjectPath path)
    {
        lock (gate)
        {
            Forget();
            return
            [
                .. locks.Values.Where(l =>
                    l.ProjectId == projectId && (l.Covers(path) || (l.Path is not null && ShareLock.IsUnder(l.Path, path)))
                ),
            ];
        }
    }

    /// <summary>The locks that hold for what stands at a path.</summary>
    public IReadOnlyList<ShareLock> Of(Guid projectId, ProjectPath? path)
    {
        lock (gate)
        {
            Forget();
            return locks.Count == 0 ? [] : [.. locks.Values.Where(l => l.ProjectId == projectId && l.Covers(path))];
        }
    }

    /// <summary>The lock that keeps a person from changing what stands at a path.</summary>
    /// <param name="tokens">Those that their program says it holds.</param>
    /// <param name="isMember">What stands in its folder changes by it, too: something comes, or goes.</param>
    /// <param name="isTree">All that is in it is changed, too.</param>
    /// <returns>Null where none does.</returns>
    public ShareLock? Against(Guid projectId, ProjectPath? path, Guid person, IReadOnlySet<string> tokens, bool isMember, bool isTree)
    {
        lock (gate)
        {
            Forget();
            if (locks.Count == 0)
                return null;
            var folder = path?.Folder;
            var met = locks
                .Values.Where(l => l.ProjectId == projectId)
                .Where(l =>
                    l.Covers(path)
                    || (isMember && path is not null && l.Covers(folder))
                    || (isTree && path is not null && l.Path is not null && ShareLock.IsUnder(l.Path, path))
                );
            // Of shared locks on one place one is enough.
            return met.GroupBy(l => (l.Path?.Key, l.IsShared))
                .FirstOrDefault(g => !g.Any(l => l.PersonId == person && tokens.Contains(l.Token)))
                ?.First();
        }
    }

    /// <summary>Ends the locks on what stands at a path, and on what is in it, that a program has forgotten.</summary>
    /// <param name="person">Whose; null for anybody's.</param>
    /// <returns>How many.</returns>
    public int End(Guid projectId, ProjectPath path, Guid? person)
    {
        lock (gate)
        {
            var ended = locks
                .Values.Where(l =>
                    l.ProjectId == projectId
                    && l.Path is not null
                    && (l.Path.Key == path.Key || ShareLock.IsUnder(l.Path, path))
                    && (person is null || l.PersonId == person)
                )
                .ToList();
            foreach (var one in ended)
                locks.Remove(one.Token);
            return ended.Count;
        }
    }

    /// <summary>What was moved or deleted is locked no more.</summary>
    public void Drop(Guid projectId, ProjectPath path)
    {
        lock (gate)
        {
            foreach (
                var gone in locks
                    .Values.Where(l =>
                        l.ProjectId == projectId && l.Path is not null && (l.Path.Key == path.Key || ShareLock.IsUnder(l.Path, path))
                    )
                    .ToList()
            )
                locks.Remove(gone.Token);
        }
    }

    private void Forget()
    {
        var now = time.GetUtcNow();
        foreach (var over in locks.Values.Where(l => l.Until <= now).ToList())
            locks.Remove(over.Token);
    }
}
