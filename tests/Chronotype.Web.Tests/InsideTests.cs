using System.Buffers.Binary;
using System.Net;
using System.Net.Http.Headers;
using System.Text.Json;

namespace Chronotype.Web.Tests;

/// <summary>What pages ask for to show what is inside files: sounds block by block, faces, films, and saves of other pieces.</summary>
public class InsideTests
{
    private static byte[] Closed(int seed) => [.. "GULL LAYOUT\0"u8, .. Samples.Noise(5000, seed)];

    [Fact]
    public async Task A_sounds_waveform_samples_loudness_and_bands_are_had_part_by_part()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        var wave = Samples.Wave(3);
        await owner.StartPieceAsync(wave, "mix.wav");
        var address = $"/saves/{Assert.Single(await studio.SavesAsync()).Id}/sound";

        using var told = JsonDocument.Parse(await owner.PageAsync($"{address}/chart"));
        Assert.Equal((48_000, 2, 144_000), (Number("rate"), Number("channels"), Number("frames")));
        Assert.Equal(2250, told.RootElement.GetProperty("levels")[0].GetInt32());
        var of = told.RootElement.GetProperty("of").GetString();
        var bins = await owner.GetAsync($"{address}/waveform/0/0?of={of}");
        Assert.Equal(2250 * 4, (await bins.Content.ReadAsByteArrayAsync()).Length);
        Assert.True(bins.Headers.CacheControl!.MaxAge > TimeSpan.FromDays(300));
        Assert.Equal(Number("steps") * 2, (await owner.BytesAsync($"{address}/loudness")).Length);
        Assert.Equal(Number("steps") * 60, (await owner.BytesAsync($"{address}/spectrum")).Length);

        // The samples are those of the file.
        var samples = await owner.BytesAsync($"{address}/samples/1");
        Assert.Equal(65_536 * 4, samples.Length);
        for (var i = 0; i < samples.Length; i += 1002)
        {
            var (here, was) = (
                BinaryPrimitives.ReadInt16LittleEndian(samples.AsSpan(i)),
                BinaryPrimitives.ReadInt16LittleEndian(wave.AsSpan(44 + 65_536 * 4 + i))
            );
            Assert.InRange(here - was, -1, 1);
        }
        Assert.Equal((144_000 - 2 * 65_536) * 4, (await owner.BytesAsync($"{address}/samples/2")).Length);

        foreach (var nowhere in new[] { "waveform/0/9", "waveform/99/0", "waveform/-1/0", "samples/3", "samples/-1" })
            Assert.Equal(HttpStatusCode.NotFound, (await owner.GetAsync($"{address}/{nowhere}")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await owner.GetAsync($"/saves/{Guid.NewGuid()}/sound/chart")).StatusCode);

        int Number(string name) => told.RootElement.GetProperty(name).GetInt32();
    }

    [Fact]
    public async Task What_is_no_sound_says_so_and_a_sound_that_browsers_do_not_play_is_written_anew()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        await owner.StartPieceAsync(Closed(1), "closed.gull");
        var closed = Assert.Single(await studio.SavesAsync()).Id;
        Assert.Equal(HttpStatusCode.UnprocessableEntity, (await owner.GetAsync($"/saves/{closed}/sound/chart")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await owner.GetAsync($"/saves/{closed}/sound")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await owner.GetAsync($"/saves/{closed}/film")).StatusCode);

        var folder = Directory.CreateTempSubdirectory("aiff-").FullName;
        File.WriteAllBytes(Path.Combine(folder, "mix.wav"), Samples.Wave(1));
        Tools.Run(folder, "ffmpeg", "-v", "error", "-i", "mix.wav", "mix.aiff");
        await owner.StartPieceAsync(File.ReadAllBytes(Path.Combine(folder, "mix.aiff")), "mix.aiff", "Mix");
        Directory.Delete(folder, recursive: true);
        var sound = (await studio.SavesAsync()).Single(s => s.ReceivedName == "mix.aiff").Id;
        var request = new HttpRequestMessage(HttpMethod.Get, $"/saves/{sound}/sound");
        request.Headers.Range = new RangeHeaderValue(0, 11);
        var played = await owner.SendAsync(request);
        Assert.Equal((HttpStatusCode.PartialContent, "audio/wav"), (played.StatusCode, played.Content.Headers.ContentType!.MediaType));
        Assert.Equal("RIFF"u8.ToArray(), (await played.Content.ReadAsByteArrayAsync())[..4]);
    }

    [Fact]
    public async Task What_is_left_of_a_sound_is_silence_where_the_two_are_the_same()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        var before = Samples.Wave(9)[44..];
        var put = Samples.Wave(1, seed: 917_311)[44..];
        await owner.StartPieceAsync(Samples.WaveOf(before), "mix.wav");
        await owner.SaveAsync(Samples.WaveOf([.. before[..800_000], .. put, .. before[800_000..]]), "mix.wav");
        var saves = await studio.SavesAsync();
        var left = (await owner.BytesAsync($"/saves/{saves[1].Id}/against/{saves[0].Id}/sound"))[44..];
        Assert.Equal(before.Length + put.Length, left.Length);
        Assert.All(left[4_000..790_000], b => Assert.Equal(0, b));
        Assert.All(left[(810_000 + put.Length)..^4_000], b => Assert.Equal(0, b));
        Assert.True(left[810_000..(790_000 + put.Length)].Count(b => b != 0) > put.Length / 2);
    }

    [Fact]
    public async Task A_face_is_attached_shown_taken_off_and_made_a_save()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        await owner.StartPieceAsync(Closed(1), "ticket.gull");
        var save = Assert.Single(await studio.SavesAsync()).Id;
        var before = await owner.GetAsync($"/saves/{save}/preview/480");
        Assert.Equal("image/svg+xml", before.Content.Headers.ContentType!.MediaType);

        await owner.SaveAsync(Samples.Png(40, 30), "ticket.png");
        Assert.Single(await studio.SavesAsync());
        var page = await owner.PiecePageAsync();
        Assert.Contains("ticket.png is the face of 001 now (it has its name)", page);
        Assert.Equal("image/webp", (await owner.GetAsync($"/saves/{save}/preview/480")).Content.Headers.ContentType!.MediaType);
        Assert.Equal("image/png", (await owner.GetAsync($"/saves/{save}/tiles/small")).Content.Headers.ContentType!.MediaType);
        // What leaves is the native all the same.
        Assert.Equal(Closed(1), await owner.BytesAsync($"/saves/{save}/file"));
        Assert.Equal(Samples.Png(40, 30), await owner.BytesAsync($"/saves/{save}/seen"));

        var face = System.Text.RegularExpressions.Regex.Match(page, "name=\"face\" value=\"([^\"]+)\"").Groups[1].Value;
        await owner.ActAsync("TakeFaceOff", new() { ["face"] = face });
        Assert.DoesNotContain("class=\"faced\"", await owner.PiecePageAsync());
        await owner.ActAsync("FaceAsSave", new() { ["face"] = face });
        Assert.Equal(["ticket.gull", "ticket.png"], (await studio.SavesAsync()).Select(s => s.ReceivedName).Order());
    }

    [Fact]
    public async Task A_save_of_another_piece_is_laid_beside_this_one()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        await owner.StartPieceAsync(Samples.Png(40, 30, red: 1), "a.png");
        await owner.StartPieceAsync(Samples.Png(40, 30, red: 200), "b.png", "Banner");
        var page = await AcrossAsync("with=TIDES/TIM_banner_key&number=1");
        Assert.Contains("A TIM_banner_key 001", page);
        var nowhere = await AcrossAsync("with=TIDES/TIM_none_key");
        Assert.Contains("There is no piece TIM_none_key in TIDES", nowhere);
        var other = (await studio.SavesAsync()).Single(s => s.ReceivedName == "b.png").Id;
        var own = (await studio.SavesAsync()).Single(s => s.ReceivedName == "a.png").Id;
        Assert.Contains(
            "100 % of the picture’s area differs",
            await owner.PageAsync($"/projects/TIDES/TIM_moonpull-poster_key?handler=Compare&before={other}&after={own}")
        );
        // A save of no piece is none to compare with, and the page is there all the same.
        Assert.Contains("TIM_moonpull-poster_key", await owner.PageAsync($"/projects/TIDES/TIM_moonpull-poster_key?a={Guid.NewGuid()}"));

        async Task<string> AcrossAsync(string query)
        {
            var answer = await owner.GetAsync($"/projects/TIDES/TIM_moonpull-poster_key?handler=Across&{query}");
            return await owner.PageAsync($"{answer.Headers.Location}");
        }
    }

    [Fact]
    public async Task Whoever_waits_is_told_what_goes_on()
    {
        await using var studio = await ServedStudio.OpenAsync();
        var owner = await studio.WithProjectAsync();
        await owner.StartPieceAsync(Samples.Png(40, 30), "a.png");
        await studio.SettledAsync();
        var piece = Assert.Single(await studio.SavesAsync()).PieceId;
        Assert.Contains("\"said\":null", await owner.PageAsync($"/pieces/{piece}/going-on"));
    }
}
