using Microsoft.EntityFrameworkCore;

namespace Chronotype.Storage.Tests;

/// <summary>What a project owns is read through one filter, which finds nothing where nobody has said who asks.</summary>
public class SightTests
{
    // By these a row belongs to a project, or to something in one.
    private static readonly string[] Ways = ["ProjectId", "PieceId", "SaveId", "EntryId", "LineId", "SaveFileId", "FileContentId"];

    // Whom an owner has let in is no thing of the project, and is asked before it is known what somebody sees.
    private static readonly string[] Apart = ["ProjectAccess"];

    private static StudioDb Open() => new(new DbContextOptionsBuilder<StudioDb>().UseSqlite("Data Source=:memory:").Options);

    [Fact]
    public void Nobody_sees_anything_unless_it_is_said_who_asks() => Assert.Equal([], Open().Sees!);

    [Fact]
    public void Every_table_of_a_project_has_the_filter()
    {
        using var db = Open();
        var owned = db
            .Model.GetEntityTypes()
            .Where(e => e.ClrType.Name is "Project" || e.GetProperties().Any(p => Ways.Contains(p.Name)))
            .Where(e => !Apart.Contains(e.ClrType.Name))
            .ToList();
        Assert.True(owned.Count > 15, string.Join(", ", owned.Select(e => e.ClrType.Name)));
        Assert.Empty(owned.Where(e => e.FindDeclaredQueryFilter(StudioDb.Seen) is null).Select(e => e.ClrType.Name));
    }
}
