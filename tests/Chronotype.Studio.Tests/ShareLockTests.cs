using Chronotype.Core.Content;
using Chronotype.Studio.Share;
using Microsoft.Extensions.Time.Testing;

namespace Chronotype.Studio.Tests;

/// <summary>Which locks stand against one another, and against what is written (RFC 4918, 6 and 7).</summary>
public class ShareLockTests
{
    private static readonly Guid Project = Guid.NewGuid(),
        Ilse = Guid.NewGuid(),
        Odo = Guid.NewGuid();

    private readonly FakeTimeProvider time = new(new DateTimeOffset(2026, 3, 2, 9, 0, 0, TimeSpan.Zero));

    private static ProjectPath At(string path) => ProjectPath.Parse(path);

    private static ShareLock Wanted(string? path, bool isDeep = false, bool isShared = false, Guid? by = null) =>
        new(Guid.NewGuid().ToString(), Project, path is null ? null : At(path), isDeep, isShared, by ?? Ilse, "", TimeSpan.FromMinutes(10));

    private static ShareLock? Against(
        ShareLocks locks,
        string path,
        Guid by,
        bool isMember = false,
        bool isTree = false,
        params string[] tokens
    ) => locks.Against(Project, At(path), by, tokens.ToHashSet(), isMember, isTree);

    [Theory]
    [InlineData("a/b.txt", false, false, "a/b.txt", false, false, false)]
    [InlineData("a/b.txt", false, true, "A/B.TXT", false, true, true)]
    [InlineData("a/b.txt", false, true, "a/b.txt", false, false, false)]
    [InlineData("a", true, false, "a/b.txt", false, false, false)]
    [InlineData("a", false, false, "a/b.txt", false, false, true)]
    [InlineData("a/b.txt", false, false, "a", true, false, false)]
    [InlineData("a", true, false, "ab/c.txt", false, false, true)]
    [InlineData(null, true, false, "a/b.txt", false, false, false)]
    [InlineData(null, false, false, "a/b.txt", false, false, true)]
    public void A_lock_is_taken_where_no_other_covers_it(
        string? first,
        bool isDeep,
        bool isShared,
        string second,
        bool isOtherDeep,
        bool isOtherShared,
        bool isTaken
    )
    {
        var locks = new ShareLocks(time);
        Assert.True(locks.TryTake(Wanted(first, isDeep, isShared), out _, out _));
        Assert.Equal(isTaken, locks.TryTake(Wanted(second, isOtherDeep, isOtherShared, Odo), out _, out var against));
        Assert.Equal(isTaken, against is null);
    }

    [Fact]
    public void What_a_lock_covers_is_written_by_its_holder_with_its_token_alone()
    {
        var locks = new ShareLocks(time);
        Assert.True(locks.TryTake(Wanted("a/b.txt"), out var held, out _));
        Assert.NotNull(Against(locks, "a/b.txt", Ilse));
        Assert.Null(Against(locks, "a/b.txt", Ilse, tokens: held.Token));
        // A token that somebody overheard opens nothing.
        Assert.NotNull(Against(locks, "a/b.txt", Odo, tokens: held.Token));
        // What stands beside it is free; the folder with all in it is not.
        Assert.Null(Against(locks, "a/c.txt", Odo, isMember: true));
        Assert.NotNull(Against(locks, "a", Odo, isTree: true));
        Assert.Null(Against(locks, "a", Odo));
        // Nothing comes into a folder that is locked.
        Assert.True(locks.TryTake(Wanted("d"), out _, out _));
        Assert.NotNull(Against(locks, "d/new.txt", Odo, isMember: true));
        Assert.Null(Against(locks, "d/old.txt", Odo));
        Assert.Null(locks.Against(Guid.NewGuid(), At("a/b.txt"), Odo, new HashSet<string>(), true, true));
    }

    [Fact]
    public void Of_shared_locks_ones_own_is_enough_and_a_lock_that_is_over_stands_against_nothing()
    {
        var locks = new ShareLocks(time);
        Assert.True(locks.TryTake(Wanted("a.txt", isShared: true), out var own, out _));
        Assert.True(locks.TryTake(Wanted("a.txt", isShared: true, by: Odo), out var other, out _));
        Assert.Null(Against(locks, "a.txt", Ilse, tokens: own.Token));
        Assert.NotNull(Against(locks, "a.txt", Ilse, tokens: other.Token));

        time.Advance(TimeSpan.FromMinutes(9));
        Assert.NotNull(locks.Refresh(own.Token, Project, At("a.txt"), Ilse, null));
        Assert.Null(locks.Refresh(own.Token, Project, At("a.txt"), Odo, null));
        time.Advance(TimeSpan.FromMinutes(2));
        Assert.Equal([own.Token], locks.Of(Project, At("a.txt")).Select(l => l.Token));
        Assert.False(locks.Release(own.Token, Project, At("a.txt"), Odo));
        Assert.True(locks.Release(own.Token, Project, At("a.txt"), Ilse));
        Assert.Null(Against(locks, "a.txt", Odo));
        // What went away is locked no more.
        Assert.True(locks.TryTake(Wanted("f/g.txt"), out _, out _));
        locks.Drop(Project, At("f"));
        Assert.Empty(locks.Of(Project, At("f/g.txt")));
    }
}
