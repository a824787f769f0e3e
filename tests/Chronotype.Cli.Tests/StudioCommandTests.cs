using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Core.Share;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Storage.Mirror;
using Chronotype.Storage.Starting;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Logging.Abstractions;

namespace Chronotype.Cli.Tests;

/// <summary>What is done with a whole studio from a shell, on the real program.</summary>
public sealed class StudioCommandTests : IAsyncLifetime
{
    private readonly DirectoryInfo folder = Directory.CreateTempSubdirectory("chronotype-cli-");

    private string Data => Path.Combine(folder.FullName, "studio");
    private string Copy => Path.Combine(folder.FullName, "copy");

    /// <summary>A studio with one version, made as the server makes it.</summary>
    public async Task InitializeAsync()
    {
        using var data = new DataFolder(Data);
        using var store = ContentStore.Open(data.Content);
        var mirror = new RecordMirror(data, store);
        await new StudioStart(data, store, mirror, TimeProvider.System, NullLogger<StudioStart>.Instance).RunAsync();
        using var staged = await store.StageAsync(new MemoryStream(Samples.Noise(400_000)));
        await store.CommitAsync(staged);
        await using (
            var db = new StudioDb(new DbContextOptionsBuilder<StudioDb>().UseSqlite($"Data Source={data.Database};Pooling=False").Options)
            {
                Sees = null,
            }
        )
        {
            var piece = new Piece
            {
                Slots = "{}",
                CurrentName = "TIM_poster_key",
                Lines = [new Line { IsCurrent = true, HighestNumber = 1 }],
                HighestSequence = 1,
                Project = new Project
                {
                    Code = "TIDES",
                    Title = "Tides",
                    Plan = "print",
                    Convention = "{}",
                    Client = new Client { Code = "TIM", Name = "Museum" },
                },
            };
            db.Studio.Add(new StudioRecord { Name = "Spring Tide" });
            db.Users.Add(
                new Person
                {
                    Id = Guid.CreateVersion7(),
                    UserName = "IK",
                    NormalizedUserName = "IK",
                    Initials = "IK",
                    Name = "Ilse Korhonen",
                    IsOwner = true,
                }
            );
            db.Saves.Add(
                new Save
                {
                    Piece = piece,
                    Line = piece.Line,
                    Sequence = 1,
                    Number = 1,
                    ExactName = "TIM_poster_key_IK_001.lay",
                    ReceivedName = "a.lay",
                    Identity = staged.Hash,
                    MainHash = staged.Hash,
                    Size = staged.Size,
                    Files =
                    [
                        new SaveFile
                        {
                            Path = "a.lay",
                            Hash = staged.Hash,
                            Size = staged.Size,
                            IsMain = true,
                        },
                    ],
                }
            );
            await db.SaveChangesAsync();
        }
        await mirror.DrainAsync();
        SqliteConnection.ClearAllPools();
    }

    public Task DisposeAsync()
    {
        folder.Delete(recursive: true);
        return Task.CompletedTask;
    }

    [Fact]
    public void A_backup_is_verified_and_one_that_lacks_a_segment_ends_with_1_and_the_versions_that_it_touches()
    {
        var backup = Program.Run("", "backup", "--data", Data, "--to", Copy, "--verify");
        Assert.Equal((0, ""), (backup.Code, backup.Errors));
        Assert.True(backup.Lines[^1].GetProperty("verified").GetBoolean());
        Assert.Equal(0, Program.Run("", "content", "verify", "--store", Copy).Code);
        foreach (var segment in Directory.GetFiles(Path.Combine(Copy, "content", "segments")))
            File.Delete(segment);
        var verify = Program.Run("", "content", "verify", "--store", Copy);
        Assert.Equal(1, verify.Code);
        Assert.Contains(
            verify.Lines,
            l =>
                l.TryGetProperty("touched", out var name)
                && name.GetString() == "TIM_poster_key_IK_001.lay"
                && l.GetProperty("version").GetInt32() == 1
        );
        Assert.False(verify.Lines[^1].GetProperty("sound").GetBoolean());
        // Without the records the store itself knows that one is missing.
        File.Delete(Path.Combine(Copy, "studio.db"));
        verify = Program.Run("", "content", "verify", "--store", Path.Combine(Copy, "content"));
        Assert.Equal(1, verify.Code);
        Assert.Contains(verify.Lines, l => l.TryGetProperty("message", out var message) && message.GetString() == "the segment is missing");
        Assert.Equal(2, Program.Run("", "backup", "--data", Data, "--to", folder.FullName).Code);
    }

    [Fact]
    public async Task A_key_is_printed_once_and_only_what_it_hashes_to_is_kept()
    {
        var made = Program.Run("", "key", "new", "--data", Data, "--person", "ik", "--name", "Render farm");
        Assert.Equal((0, ""), (made.Code, made.Errors));
        var secret = made.Lines[0].GetProperty("key").GetString()!;
        await using var db = new StudioDb(
            new DbContextOptionsBuilder<StudioDb>().UseSqlite($"Data Source={Path.Combine(Data, "studio.db")};Pooling=False").Options
        )
        {
            Sees = null,
        };
        var key = await db.DeviceKeys.SingleAsync();
        Assert.Equal(("Render farm", KeySecret.HashOf(secret), null), (key.Name, key.Hash, key.EndedAt));
        Assert.Equal("IK", (await db.Users.SingleAsync(u => u.Id == key.PersonId)).Initials);
        foreach (
            var wrong in (string[][])
                [
                    ["--data", Data, "--person", "XX", "--name", "Desk"],
                    ["--data", Data, "--person", "IK", "--name", " "],
                    ["--data", Copy, "--person", "IK", "--name", "Desk"],
                    ["--data", Data, "--person", "IK"],
                ]
        )
        {
            var refused = Program.Run("", ["key", "new", .. wrong]);
            Assert.Equal(2, refused.Code);
            Assert.NotEmpty(refused.Errors);
        }
        Assert.Equal(1, await db.DeviceKeys.CountAsync());
    }

    [Fact]
    public async Task A_projects_tree_has_of_the_current_file_what_is_current_and_of_an_alts_file_what_its_line_has()
    {
        await using (
            var db = new StudioDb(
                new DbContextOptionsBuilder<StudioDb>().UseSqlite($"Data Source={Path.Combine(Data, "studio.db")};Pooling=False").Options
            )
            {
                Sees = null,
            }
        )
        {
            var piece = await db.Pieces.Include(p => p.Lines).SingleAsync();
            var daybreak = new Line { Name = "daybreak", PieceId = piece.Id };
            db.Lines.Add(daybreak);
            // The alt was worked on last, the main line is the one that is worked on now, and what was set aside is neither's.
            (Line Line, int Sequence, string Content, bool IsAside)[] saves =
            [
                (piece.Line, 2, "the main line's second", false),
                (daybreak, 3, "the alt's first", false),
                (daybreak, 4, "the alt's, lately", false),
                (daybreak, 5, "a copy that arrived cut short", true),
            ];
            using (var store = ContentStore.Open(Path.Combine(Data, "content")))
            {
                foreach (var save in saves)
                {
                    var bytes = System.Text.Encoding.UTF8.GetBytes(save.Content);
                    using var staged = await store.StageAsync(new MemoryStream(bytes));
                    await store.CommitAsync(staged);
                    db.Saves.Add(
                        new Save
                        {
                            PieceId = piece.Id,
                            LineId = save.Line.Id,
                            Sequence = save.Sequence,
                            Aside = save.IsAside ? SaveAside.CutShort : null,
                            ReceivedName = "a.lay",
                            Identity = staged.Hash,
                            MainHash = staged.Hash,
                            Size = staged.Size,
                        }
                    );
                }
            }
            foreach (
                var (name, kind, line) in new[]
                {
                    ("poster.lay", EntryKind.CurrentFile, (Guid?)null),
                    ("poster_daybreak.lay", EntryKind.AltFile, daybreak.Id),
                }
            )
            {
                var path = ProjectPath.Parse($"working/{name}");
                db.Entries.Add(
                    new TreeEntry
                    {
                        ProjectId = piece.ProjectId,
                        PieceId = piece.Id,
                        LineId = line,
                        Kind = kind,
                        Path = path,
                        PathKey = path.Key,
                        FolderKey = path.Folder!.Key,
                    }
                );
            }
            await db.SaveChangesAsync();
        }

        var told = Program.Run("", "tree", "tides", "--data", Data);

        Assert.Equal((0, ""), (told.Code, told.Errors));
        Assert.Equal(
            [("working/poster.lay", "the main line's second".Length), ("working/poster_daybreak.lay", "the alt's, lately".Length)],
            told.Lines[0]
                .GetProperty("files")
                .EnumerateArray()
                .Select(f => (f.GetProperty("path").GetString(), f.GetProperty("size").GetInt32()))
        );
    }

    [Fact]
    public async Task A_studio_without_its_database_is_made_anew_with_a_password_for_its_owner()
    {
        Assert.Equal(2, Program.Run("", "studio", "rebuild", "--data", Data).Code);
        foreach (var extension in new[] { "", "-wal", "-shm" })
            File.Delete(Path.Combine(Data, "studio.db") + extension);
        var rebuilt = Program.Run("", "studio", "rebuild", "--data", Data);
        Assert.Equal((0, ""), (rebuilt.Code, rebuilt.Errors));
        Assert.Equal(1, rebuilt.Lines[0].GetProperty("rows").GetProperty("Saves").GetInt32());
        Assert.Equal(16, rebuilt.Lines[0].GetProperty("firstPasswords").GetProperty("IK").GetString()!.Length);
        await using var db = new StudioDb(
            new DbContextOptionsBuilder<StudioDb>().UseSqlite($"Data Source={Path.Combine(Data, "studio.db")};Pooling=False").Options
        )
        {
            Sees = null,
        };
        var save = await db.Saves.Include(s => s.Files).SingleAsync();
        Assert.Equal(("TIM_poster_key_IK_001.lay", ContentHash.Of(Samples.Noise(400_000))), (save.ExactName, save.Files[0].Hash));
    }
}
