using System.Diagnostics;
using Chronotype.Core.Content;
using Chronotype.Core.Readers;
using Chronotype.Core.Structure;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Bench;

/// <summary>
/// How long the server takes for the pages of a day in a studio with 300 pieces in 12 projects, and for finding among 1,000,000 names,
/// notes and reasons as one types; over loopback, one request after another.
/// </summary>
internal static class Day
{
    private const int Projects = 12,
        PiecesOfProject = 25,
        Versions = 15,
        WarmUp = 150,
        Counted = 200;

    private const string Some =
        "harbour gull tide moon poster lantern ferry winter evening copper meadow signal window river sailor bridge garden candle marble";

    private const string Common =
        "harbour gull tide moon poster lantern ferry winter evening copper meadow signal window river sailor bridge garden candle marble";

    private static readonly string[] Words = Common.Split(' ');

    // What people write: a few words very often, many now and then, as Zipf's law has it. The commonest are those above.
    private static readonly string[] Vocabulary =
    [
        .. Words,
        .. from a in "ba de fi go lu mo na pe ri so ta ve".Split(' ')
        from b in "bel dor fin gas lom mar nel per rin sol ten vik".Split(' ')
        from c in "a en is o um".Split(' ')
        select a + b + c,
    ];

    private static string Drawn(Random random) =>
        Vocabulary[(int)Math.Min(Vocabulary.Length - 1, Math.Pow(Vocabulary.Length, random.NextDouble()) - 1)];

    public static async Task RunAsync()
    {
        await using var studio = await BenchStudio.OpenAsync();
        await studio.In(db => FillAsync(studio, db));
        Console.WriteLine($"{Projects * PiecesOfProject} pieces in {Projects} projects, {Counted} requests after {WarmUp} to warm up:");
        foreach (var (what, address) in new[] { ("bench", "/"), ("list of projects", "/projects"), ("a project", "/projects/P03") })
            await MeasureAsync(studio, what, [address], "wanted: median under 50 ms, under 150 kB");
        await studio.In(FillFindAsync);
        var count = 0L;
        await studio.In(async db => count = (await db.Database.SqlQuery<long>($"SELECT count(*) AS Value FROM FindRows").ToListAsync())[0]);
        Console.WriteLine($"Finding among {count:N0} names, notes and reasons:");
        const string wanted = "wanted: median under 50 ms";
        await MeasureAsync(studio, "as one types", [.. Typed("harbour gull v01"), .. Typed("winter lantern 12"), .. Typed("copp")], wanted);
        await MeasureAsync(studio, "first letters", ["/find?q=h", "/find?q=g", "/find?q=w", "/find?q=m"], wanted);
        await MeasureAsync(
            studio,
            "under choices",
            ["/find?q=har&kind=milestone", "/find?q=g&when=week&person=IK", "/find?q=moon+ti&client=TIM"],
            wanted
        );
        await MeasureAsync(studio, "not there", ["/find?q=zebra", "/find?q=harbour+zebra"], wanted);
    }

    private static IEnumerable<string> Typed(string text) =>
        Enumerable.Range(1, text.Length).Select(n => $"/find?q={Uri.EscapeDataString(text[..n])}");

    private static async Task MeasureAsync(BenchStudio studio, string what, IReadOnlyList<string> addresses, string wanted)
    {
        var times = new List<double>();
        var most = 0;
        for (var i = 0; i < Math.Max(WarmUp + Counted, addresses.Count * 4); i++)
        {
            using var request = new HttpRequestMessage(HttpMethod.Get, addresses[i % addresses.Count]);
            // As the page itself asks while one types.
            if (addresses[0].StartsWith("/find", StringComparison.Ordinal))
                request.Headers.Add("HX-Request", "true");
            var start = Stopwatch.GetTimestamp();
            using var answer = await studio.Client.SendAsync(request);
            var page = await answer.EnsureSuccessStatusCode().Content.ReadAsByteArrayAsync();
            if (i >= WarmUp)
                times.Add(Stopwatch.GetElapsedTime(start).TotalMilliseconds);
            most = Math.Max(most, page.Length);
        }
        times.Sort();
        Console.WriteLine(
            $"  {what, -18} median {times[times.Count / 2], 6:0.0} ms   90th {times[times.Count * 9 / 10], 6:0.0} ms   slowest "
                + $"{times[^1], 6:0.0} ms   {most / 1000.0, 6:0.0} kB   ({wanted})"
        );
    }

    // Every fourth piece has loose saves after its newest version; all have pictures.
    private static async Task FillAsync(BenchStudio studio, StudioDb db)
    {
        var template = await db.Projects.AsNoTracking().Include(p => p.Client).FirstAsync();
        var now = DateTimeOffset.UtcNow;
        var random = new Random(7);
        for (var p = 0; p < Projects; p++)
        {
            var project = new Project
            {
                Code = $"P{p:D2}",
                Title = $"Project number {p}",
                ClientId = template.ClientId,
                Plan = template.Plan,
                Convention = template.Convention,
                StartedAt = now.AddDays(-90),
                StartedById = studio.Person,
                Entries = [.. FolderPlan.Of(template.Plan).Folders.Select((f, i) => Entry(EntryKind.Folder, f.Path, f.Role, order: i))],
            };
            db.Projects.Add(project);
            for (var i = 0; i < PiecesOfProject; i++)
                AddPiece(
                    studio,
                    db,
                    project,
                    $"{Words[random.Next(Words.Length)]}-{p}-{i}",
                    now.AddHours(-random.Next(1, 900)),
                    i % 4 == 0
                );
        }
        await db.SaveChangesAsync();
    }

    private static TreeEntry Entry(
        EntryKind kind,
        ProjectPath path,
        FolderRole role,
        Guid? piece = null,
        Guid? save = null,
        int order = 0
    ) =>
        new()
        {
            Kind = kind,
            Path = path,
            PathKey = path.Key,
            Role = role,
            PieceId = piece,
            SaveId = save,
            Order = order,
        };

    private static void AddPiece(BenchStudio studio, StudioDb db, Project project, string subject, DateTimeOffset last, bool isAtRisk)
    {
        var name = $"TIM_{subject}_key";
        var saves = Versions + (isAtRisk ? 3 : 0);
        var piece = new Piece
        {
            ProjectId = project.Id,
            Slots = $$"""{"subject":"{{subject}}","function":"key"}""",
            CurrentName = name,
            Extension = ".ora",
            HighestSequence = saves,
            StartedAt = last.AddDays(-30),
            StartedById = studio.Person,
        };
        var line = new Line
        {
            PieceId = piece.Id,
            IsCurrent = true,
            HighestNumber = Versions,
            StartedAt = piece.StartedAt,
        };
        piece.Lines.Add(line);
        db.Pieces.Add(piece);
        project.Entries.Add(Entry(EntryKind.CurrentFile, ProjectPath.Parse($"working/{name}.ora"), FolderRole.Home, piece.Id));
        for (var n = 1; n <= saves; n++)
        {
            var hash = ContentHash.Of(Guid.NewGuid().ToByteArray());
            var number = n <= Versions ? n : (int?)null;
            var at = last.AddHours(n - saves);
            var save = new Save
            {
                PieceId = piece.Id,
                LineId = line.Id,
                Sequence = n,
                Number = number,
                ArrivedAt = at,
                KeptAt = number is null ? null : at,
                ArrivedById = studio.Person,
                KeptById = number is null ? null : studio.Person,
                ReceivedName = $"{subject}.ora",
                Identity = hash,
                MainHash = hash,
                Size = 1_000_000 + n,
                ExactName = number is null ? null : $"{name}_IK_{n:D3}.ora",
                Files =
                [
                    new SaveFile
                    {
                        Path = $"{subject}.ora",
                        Hash = hash,
                        Size = 1_000_000 + n,
                        IsMain = true,
                    },
                ],
            };
            db.Saves.Add(save);
            db.ContentFacts.Add(
                new ContentFacts
                {
                    Content = hash,
                    Reader = ReaderVersions.FileFacts,
                    Version = ReaderVersions.FileFactsVersion,
                    Format = FileFormat.OpenRaster,
                    Facts = RecordJson.Write(new FileFacts { Format = FileFormat.OpenRaster, Picture = new PictureFacts(800, 600) }),
                }
            );
            if (number is not null)
                project.Entries.Add(
                    Entry(
                        EntryKind.Version,
                        ProjectPath.Parse($"working/versions/{name}_IK_{n:D3}.ora"),
                        FolderRole.Versions,
                        piece.Id,
                        save.Id
                    )
                );
        }
    }

    // Straight into the index: what is measured is looking, and a million versions would take an hour to make.
    private static async Task FillFindAsync(StudioDb db)
    {
        await db.Database.OpenConnectionAsync();
        var connection = (SqliteConnection)db.Database.GetDbConnection();
        var pieces = await db
            .Pieces.Where(p => p.Project.Code != "TIDES")
            .Select(p => new
            {
                p.Id,
                p.ProjectId,
                p.CurrentName,
            })
            .ToListAsync();
        var random = new Random(11);
        await using var transaction = await connection.BeginTransactionAsync();
        await using var row = connection.CreateCommand();
        row.CommandText = "INSERT INTO FindRows (Kind, Ref, PieceId, ProjectId, At) VALUES ($kind, $ref, $piece, $project, $at)";
        await using var text = connection.CreateCommand();
        text.CommandText = "INSERT INTO FindTexts (rowid, Text, Tags) VALUES (last_insert_rowid(), $text, $tags)";
        foreach (var name in new[] { "$kind", "$ref", "$piece", "$project", "$at" })
            row.Parameters.Add(new SqliteParameter(name, null));
        foreach (var name in new[] { "$text", "$tags" })
            text.Parameters.Add(new SqliteParameter(name, null));
        var start = DateTimeOffset.UtcNow.AddDays(-1000);
        for (var i = 0; i < 1_000_000; i++)
        {
            var piece = pieces[random.Next(pieces.Count)];
            var kind = i % 20 == 0 ? 3 : 2;
            var at = start.AddSeconds(i * 86.4);
            string Some(int count) => string.Join(' ', Enumerable.Range(0, count).Select(_ => Drawn(random)));
            (row.Parameters[0].Value, row.Parameters[1].Value) = (kind, Guid.NewGuid().ToString().ToUpperInvariant());
            (row.Parameters[2].Value, row.Parameters[3].Value) = (
                piece.Id.ToString().ToUpperInvariant(),
                piece.ProjectId.ToString().ToUpperInvariant()
            );
            row.Parameters[4].Value = at.UtcTicks;
            await row.ExecuteNonQueryAsync();
            text.Parameters[0].Value = kind == 3 ? Some(5) : $"TIM_{Some(1)}-{Some(1)}_key_IK_{i % 400:D3}.ora\n{Some(6)}";
            text.Parameters[1].Value = $"kind{kind} clientTIM personIK m{at:yyyyMM}";
            await text.ExecuteNonQueryAsync();
        }
        await transaction.CommitAsync();
    }
}
