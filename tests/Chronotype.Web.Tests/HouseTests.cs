using System.Reflection;
using NetArchTest.Rules;

namespace Chronotype.Web.Tests;

/// <summary>The house's rule: references only go down, and the core knows nothing but the platform.</summary>
public class HouseTests
{
    private static readonly string[] Rooms = ["Core", "Formats", "Reader", "Content", "Storage", "Studio", "Web"];

    private static Assembly Room(string name) => Assembly.Load($"Chronotype.{name}");

    [Theory]
    [InlineData("Core", new string[0])]
    [InlineData("Formats", new[] { "Core" })]
    // The content store carries neither a database nor the web.
    [InlineData("Content", new[] { "Core" })]
    [InlineData("Storage", new[] { "Core", "Content" })]
    // What reads foreign bytes is started by the studio, and never loaded into it.
    [InlineData("Studio", new[] { "Core", "Content", "Storage" })]
    [InlineData("Web", new[] { "Core", "Content", "Storage", "Studio" })]
    public void A_room_knows_only_the_rooms_below_it(string room, string[] below)
    {
        var above = Rooms.Except(below).Where(r => r != room).Select(r => $"Chronotype.{r}").ToList();
        Assert.DoesNotContain(Room(room).GetReferencedAssemblies(), a => above.Contains(a.Name!));
    }

    [Fact]
    public void The_core_is_made_of_the_base_class_library_alone() =>
        Assert.All(Room("Core").GetReferencedAssemblies(), a => Assert.StartsWith("System.", a.Name));

    [Fact]
    public void The_content_store_knows_no_database() =>
        Assert.DoesNotContain(
            Room("Content").GetReferencedAssemblies(),
            a =>
                a.Name!.StartsWith("Microsoft.EntityFrameworkCore", StringComparison.Ordinal)
                || a.Name.StartsWith("Microsoft.AspNetCore", StringComparison.Ordinal)
        );

    [Fact]
    public void The_core_touches_no_disk()
    {
        var result = Types
            .InAssembly(Room("Core"))
            .ShouldNot()
            .HaveDependencyOnAny("System.IO.File", "System.IO.Directory", "System.IO.FileStream", "System.Net")
            .GetResult();
        Assert.True(result.IsSuccessful, string.Join(", ", result.FailingTypeNames ?? []));
    }

    [Fact]
    public void The_studio_begins_no_transaction_but_in_its_turn()
    {
        var result = Types
            .InAssembly(Room("Studio"))
            .ShouldNot()
            .HaveDependencyOn("Microsoft.EntityFrameworkCore.Storage.IDbContextTransaction")
            .GetResult();
        Assert.True(result.IsSuccessful, string.Join(", ", result.FailingTypeNames ?? []));
    }
}
