using Microsoft.AspNetCore.Identity;

namespace Chronotype.Storage.Entities;

/// <summary>Someone who works in the studio. Signs in by initials, which are also the user name.</summary>
public sealed class Person : IdentityUser<Guid>
{
    public required string Name { get; set; }

    /// <summary>2 to 4 capitals, unique in the studio: the hand in the names of what this person keeps.</summary>
    public required string Initials { get; set; }

    public bool IsOwner { get; set; }

    /// <summary>Cannot sign in any more. What they made stays theirs.</summary>
    public bool IsOff { get; set; }

    /// <summary>Sees only the projects that an owner has let them into, each by a <see cref="ProjectAccess"/>; an owner sees all.</summary>
    public bool SeesSome { get; set; }

    /// <summary>Sees and takes copies, and changes nothing but what is their own.</summary>
    public bool IsReader { get; set; }

    public DateTimeOffset JoinedAt { get; set; }

    /// <summary>How the rooms look to this person.</summary>
    public Theme Theme { get; set; }

    /// <summary>How dates are written for this person.</summary>
    public DateStyle Dates { get; set; }
}

/// <summary>A project that somebody sees who does not see all.</summary>
public sealed class ProjectAccess
{
    public Guid Id { get; set; } = Guid.CreateVersion7();
    public Guid PersonId { get; set; }
    public Guid ProjectId { get; set; }
}

/// <summary>A set of colours.</summary>
public enum Theme
{
    /// <summary>As the person's system says.</summary>
    System,

    Light,
    Dark,
}

/// <summary>How a date is written.</summary>
public enum DateStyle
{
    /// <summary>24 Nov 2026.</summary>
    DayFirst,

    /// <summary>Nov 24, 2026.</summary>
    MonthFirst,

    /// <summary>2026-11-24, as ISO 8601 says.</summary>
    YearFirst,
}

/// <summary>One browser in which a person is signed in.</summary>
public sealed class Session
{
    public Guid Id { get; set; } = Guid.CreateVersion7();
    public Guid PersonId { get; set; }
    public DateTimeOffset StartedAt { get; set; }

    /// <summary>About when it was last used.</summary>
    public DateTimeOffset SeenAt { get; set; }

    /// <summary>The network address that it came from when it was last seen.</summary>
    public required string Address { get; set; }

    /// <summary>What the browser calls itself; not trusted.</summary>
    public required string Browser { get; set; }

    /// <summary>When it was ended; null while it counts.</summary>
    public DateTimeOffset? EndedAt { get; set; }
}

/// <summary>A convention that a person has changed and not yet put into force.</summary>
public sealed class ConventionDraft
{
    public Guid PersonId { get; set; }
    public DateTimeOffset At { get; set; }

    /// <summary>The form as it was last seen, as JSON.</summary>
    public required string Draft { get; set; }
}
