namespace Chronotype.Studio.Deeds;

/// <summary>Who does a deed: a person, or the studio by a setting that a person made.</summary>
public readonly record struct Actor
{
    private Actor(Guid personId, bool isStudio) => (PersonId, IsStudio) = (personId, isStudio);

    /// <summary>Whose name stands in what is recorded. Empty for the studio where no person is behind it.</summary>
    public Guid PersonId { get; }

    /// <summary>The studio itself does it; nobody's rights are asked.</summary>
    public bool IsStudio { get; }

    /// <summary>A person, who is looked up anew by every deed.</summary>
    public static Actor Person(Guid id) => new(id, isStudio: false);

    /// <summary>The studio, by a setting, with what a person brought.</summary>
    public static Actor StudioFor(Guid personId) => new(personId, isStudio: true);

    /// <summary>The studio by itself.</summary>
    public static Actor Studio => new(Guid.Empty, isStudio: true);
}

/// <summary>What may be done.</summary>
public enum Right
{
    /// <summary>Starting projects and pieces, and everything with saves and versions.</summary>
    Work,

    /// <summary>Changing the convention, its codes, which project holds which, and the folder plans.</summary>
    SetConvention,

    /// <summary>Letting people in and out.</summary>
    ManagePeople,

    /// <summary>The long work on the content store.</summary>
    MaintainStorage,
}
