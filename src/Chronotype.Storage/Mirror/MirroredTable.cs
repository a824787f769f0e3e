namespace Chronotype.Storage.Mirror;

/// <summary>A table whose rows are kept a second time, in the content store.</summary>
/// <param name="Name">As the database calls it.</param>
/// <param name="Key">The column that tells its rows apart.</param>
/// <param name="Left">
/// Columns that are not kept twice: what can be computed again, and what nobody else should hold. A row that is made anew gets the
/// value beside each.
/// </param>
public sealed record MirroredTable(string Name, string Key, IReadOnlyDictionary<string, object?> Left)
{
    /// <summary>In the order in which rows may be put back.</summary>
    public static readonly IReadOnlyList<MirroredTable> All =
    [
        Of("Studio"),
        // Who rebuilds a studio gives new passwords; a copy of the old ones beside the content would only be one more to guard.
        Of(
            "People",
            ("PasswordHash", null),
            ("SecurityStamp", null),
            ("ConcurrencyStamp", null),
            ("AccessFailedCount", 0L),
            ("LockoutEnd", null)
        ),
        // What was read in contents is read again.
        Of("Clients"),
        Of("Codes"),
        Of("Plans"),
        Of("Projects"),
        Of("Pieces"),
        Of("Lines"),
        Of("Saves"),
        Of("SaveFiles"),
        Of("Faces"),
        Of("Milestones"),
        Of("Masters"),
        Of("RenameRuns"),
        Of("RenamedNames"),
        Of("Entries"),
        Of("FileContents"),
        Of("PastPlaces"),
        Of("Links"),
        Of("Companions"),
        Of("Outputs"),
        Of("ColourProfiles"),
        Of("Recipes"),
        Of("SharedFiles"),
        Of("ProjectAccess"),
    ];

    private static MirroredTable Of(string name, params IReadOnlyList<(string Column, object? Value)> left) =>
        new(name, "Id", left.ToDictionary(l => l.Column, l => l.Value));
}
