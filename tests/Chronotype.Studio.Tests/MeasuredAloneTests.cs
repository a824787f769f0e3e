using Chronotype.Core.Content;

namespace Chronotype.Studio.Tests;

/// <summary>What is measured of the whole process is measured while nothing else runs in it.</summary>
[CollectionDefinition(nameof(MeasuredAloneTests), DisableParallelization = true)]
[Collection(nameof(MeasuredAloneTests))]
public class MeasuredAloneTests
{
    [Fact]
    public async Task A_zip_of_far_too_many_entries_is_kept_as_one_file_without_a_list_of_them()
    {
        await using var studio = await StudioInUse.OpenAsync();
        var piece = await studio.PieceAsync();
        // One entry's place in the directory, four hundred thousand times; what the end record says of their number does not matter.
        var one = Samples.Zip(("a-name-of-a-certain-length.txt", "x"));
        var directory = one.AsSpan().IndexOf("PK\x01\x02"u8);
        var end = one.AsSpan().IndexOf("PK\x05\x06"u8);
        byte[] zip = [.. one[..directory], .. Enumerable.Repeat(one[directory..end], 400_000).SelectMany(e => e), .. one[end..]];
        var before = GC.GetTotalAllocatedBytes();
        var taken = await studio.TakeAsync(piece, zip, "icons.zip");
        Assert.InRange(GC.GetTotalAllocatedBytes() - before, 0, 60_000_000);
        Assert.Equal(new ArrivalNotice(ArrivalNoticeCode.ZipTooManyFiles, Number: 20_000), taken.Notice);
    }
}
