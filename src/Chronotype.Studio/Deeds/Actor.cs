namespace Chronotype.Studio.Deeds;

/// <summary>Who does a deed: a person, or the studio by a setting that a person made.</summary>
public readonly record struct Actor
{
    private Actor(Guid personId, bool isStudio, Guid? key = null) => (PersonId, IsStudio, KeyId) = (personId, isStudio, key);

    /// <summary>Whose name stands in what is recorded. Empty for the studio where no person is behind it.</summary>
    public Guid PersonId { get; }

    /// <summary>The studio itself does it; nobody's rights are asked.</summary>
    public bool IsStudio { get; }

    /// <summary>The device key by which a program does it for them; null for a person at a page.</summary>
    public Guid? KeyId { get; }

    /// <summary>A person, who is looked up anew by every deed.</summary>
    /// <param name="key">The device key by which a program does it for them, which has to count until the deed is done.</param>
    public static Actor Person(Guid id, Guid? key = null) => new(id, isStudio: false, key);

    /// <summary>The studio, by a setting, with what a person brought.</summary>
    public static Actor StudioFor(Guid personId) => new(personId, isStudio: true);

    /// <summary>The studio by itself.</summary>
    public static Actor Studio => new(Guid.Empty, isStudio: true);
}

/// <summary>What may be done.</summary>
public enum Right
{
    /// <summary>Changing what is one's own: how one signs in, and how things look.</summary>
    Own,

    /// <summary>Starting projects and pieces, and everything with saves and versions.</summary>
    Work,

    /// <summary>Changing the convention, its codes, which project holds which, and the folder plans.</summary>
    SetConvention,

    /// <summary>Letting people in and out.</summary>
    ManagePeople,

    /// <summary>The long work on the content store.</summary>
    MaintainStorage,
}
