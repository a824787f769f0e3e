using Chronotype.Core.Comparing;
using Chronotype.Core.Content;
using FsCheck;
using FsCheck.Xunit;

namespace Chronotype.Core.Tests;

public class ContentTests
{
    private static ContentFile File(string path, string text) =>
        new(ProjectPath.Parse(path), ContentHash.Of(System.Text.Encoding.UTF8.GetBytes(text)), text.Length);

    [Theory]
    [InlineData("../up.txt")]
    [InlineData("a/../../up.txt")]
    [InlineData("/etc/passwd")]
    [InlineData(@"\\server\share")]
    [InlineData(@"C:\windows\system.ini")]
    [InlineData("a//b")]
    [InlineData("a/./b")]
    [InlineData("a\0b")]
    [InlineData("")]
    public void A_path_never_leads_out_of_its_folder(string path)
    {
        Assert.False(ProjectPath.TryParse(path, out _, out var fault));
        Assert.NotNull(fault);
    }

    [Property(MaxTest = 500)]
    public void A_path_that_is_taken_stays_below_any_folder_it_is_joined_to(NonNull<string> text)
    {
        if (!ProjectPath.TryParse(text.Get, out var path, out _))
            return;
        var full = Path.GetFullPath(Path.Combine("/top", path.Text));
        Assert.StartsWith("/top/", full);
    }

    [Fact]
    public void A_single_files_identity_is_its_bytes_whatever_it_was_called()
    {
        var one = new SaveContent([File("a.ora", "same")], ProjectPath.Parse("a.ora"));
        var other = new SaveContent([File("b (2).ora", "same")], ProjectPath.Parse("b (2).ora"));
        Assert.Equal(one.Identity, other.Identity);
    }

    [Fact]
    public void A_folders_identity_is_its_paths_and_bytes_in_any_order()
    {
        var main = ProjectPath.Parse("main.txt");
        ContentFile[] files = [File("main.txt", "m"), File("side/a.txt", "a"), File("side/b.txt", "b")];
        var identity = new SaveContent(files, main).Identity;
        Assert.Equal(identity, new SaveContent([.. files.Reverse()], main).Identity);
        Assert.NotEqual(identity, new SaveContent([files[0], File("side/a.txt", "b"), File("side/b.txt", "a")], main).Identity);
    }

    [Property(MaxTest = 60)]
    public void Chunks_put_together_are_what_was_cut(int seed, PositiveInt length)
    {
        var bytes = new byte[length.Get * 997 % 300_000];
        new Random(seed).NextBytes(bytes);
        var again = new MemoryStream();
        new ContentChunker(1024).Cut(
            new MemoryStream(bytes),
            chunk =>
            {
                Assert.InRange(chunk.Length, 1, 8192);
                again.Write(chunk);
            }
        );
        Assert.Equal(bytes, again.ToArray());
    }

    [Property(MaxTest = 40)]
    public void Bytes_put_into_the_middle_are_about_all_that_differs(int seed)
    {
        var random = new Random(seed);
        var before = new byte[1_000_000];
        random.NextBytes(before);
        var inserted = new byte[50_000];
        random.NextBytes(inserted);
        var at = random.Next(before.Length);
        byte[] after = [.. before[..at], .. inserted, .. before[at..]];

        var result = ByteComparison.Compare(new MemoryStream(before), new MemoryStream(after), after.Length);
        Assert.InRange(result.Change, 0.046, 0.056);
        Assert.InRange(result.RemovedBytes, 0, 8000);
        Assert.Contains(result.New, r => r.Offset <= at + 50 && r.End >= at + inserted.Length - 50);
    }

    [Fact]
    public void Equal_contents_do_not_differ_and_strangers_do_wholly()
    {
        var noise = new byte[200_000];
        new Random(1).NextBytes(noise);
        var other = new byte[200_000];
        new Random(2).NextBytes(other);
        Assert.Equal(0, ByteComparison.Compare(new MemoryStream(noise), new MemoryStream(noise), 200_000).Change);
        Assert.Equal(1, ByteComparison.Compare(new MemoryStream(noise), new MemoryStream(other), 200_000).Change);
        Assert.Equal(0, ByteComparison.Compare(new MemoryStream(), new MemoryStream(), 0).Change);
    }
}
