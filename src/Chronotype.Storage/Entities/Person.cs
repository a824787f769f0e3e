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

    public DateTimeOffset JoinedAt { get; set; }
}
