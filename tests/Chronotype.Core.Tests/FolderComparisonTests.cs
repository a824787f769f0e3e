using Chronotype.Core.Comparing;
using Chronotype.Core.Content;

namespace Chronotype.Core.Tests;

public class FolderComparisonTests
{
    private static ContentFile File(string path, string holds) =>
        new(
            ProjectPath.Parse(path),
            ContentHash.FromDigest(System.Security.Cryptography.SHA256.HashData(System.Text.Encoding.UTF8.GetBytes(holds))),
            holds.Length
        );

    private static string Told(IReadOnlyList<ContentFile> before, IReadOnlyList<ContentFile> after) =>
        string.Join(
            ", ",
            FolderComparison
                .Match(before, after)
                .Select(p => p.Change())
                .Select(c => $"{c.Name} {c.Kind}{(c.FormerName is null ? "" : $" from {c.FormerName}")}")
        );

    [Fact]
    public void Files_are_matched_by_place_and_where_that_is_gone_by_what_they_hold()
    {
        Assert.Equal(
            "b.txt Changed, c.txt Same, in/d.txt Moved from d.txt, n.txt Added, renamed.txt Changed from e.txt, gone.txt Removed",
            Told(
                [File("b.txt", "1"), File("c.txt", "2"), File("d.txt", "3"), File("e.txt", "4"), File("gone.txt", "5")],
                [File("b.txt", "1b"), File("c.txt", "2"), File("in/d.txt", "3"), File("renamed.txt", "4"), File("n.txt", "6")]
            )
        );
    }

    [Fact]
    public void Of_several_of_one_content_those_of_one_name_belong_together_and_none_is_taken_twice()
    {
        Assert.Equal(
            "x/one.txt Moved from one.txt, x/three.txt Added, x/two.txt Moved from two.txt",
            Told(
                [File("one.txt", "same"), File("two.txt", "same")],
                [File("x/three.txt", "same"), File("x/two.txt", "same"), File("x/one.txt", "same")]
            )
        );
        // What still stands where it stood was not moved, whatever else holds the same.
        Assert.Equal("a.txt Same, copy.txt Added", Told([File("a.txt", "same")], [File("a.txt", "same"), File("copy.txt", "same")]));
    }
}
