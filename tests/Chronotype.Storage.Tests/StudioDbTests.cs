using Chronotype.Core.Content;
using Chronotype.Storage.Entities;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Storage.Tests;

public sealed class StudioDbTests : IAsyncLifetime
{
    private readonly string file = Path.GetTempFileName();

    private StudioDb Open() =>
        new(new DbContextOptionsBuilder<StudioDb>().UseSqlite($"Data Source={file};Pooling=False").Options) { Sees = null };

    public async Task InitializeAsync()
    {
        await using var db = Open();
        await db.Database.MigrateAsync();
        var project = new Project
        {
            Code = "TIDES",
            Title = "Tides",
            Plan = "print",
            Convention = "{}",
            Client = new Client { Code = "TIM", Name = "Museum" },
        };
        db.Add(
            new Piece
            {
                Project = project,
                Slots = """{"subject":"poster","function":"key"}""",
                CurrentName = "TIM_poster_key",
                Lines = [new Line { IsCurrent = true }],
            }
        );
        await db.SaveChangesAsync();
    }

    public Task DisposeAsync()
    {
        File.Delete(file);
        return Task.CompletedTask;
    }

    private static Save Of(Piece piece, int sequence, int? number) =>
        new()
        {
            PieceId = piece.Id,
            LineId = piece.Line.Id,
            Sequence = sequence,
            Number = number,
            ReceivedName = "a",
            Identity = ContentHash.Of([1]),
            MainHash = ContentHash.Of([1]),
            ArrivedAt = new DateTimeOffset(2026, 3, 2, 9, 0, 0, TimeSpan.FromHours(2)).AddTicks(1234567),
        };

    [Fact]
    public async Task The_migrations_make_the_model_that_the_code_has()
    {
        await using var db = Open();
        Assert.False(db.Database.HasPendingModelChanges());
        Assert.Empty(await db.Database.GetPendingMigrationsAsync());
    }

    [Fact]
    public async Task Commits_are_flushed_and_references_are_held()
    {
        await using var db = Open();
        await db.Database.OpenConnectionAsync();
        Assert.Equal(2, db.Database.SqlQuery<int>($"SELECT synchronous AS Value FROM pragma_synchronous").Single());
        Assert.Equal(1, db.Database.SqlQuery<int>($"SELECT foreign_keys AS Value FROM pragma_foreign_keys").Single());
    }

    [Fact]
    public async Task The_database_itself_refuses_a_number_used_twice()
    {
        await using var db = Open();
        var piece = await db.Pieces.Include(p => p.Lines).SingleAsync();
        db.Saves.AddRange(Of(piece, 1, 7), Of(piece, 2, null), Of(piece, 3, null));
        await db.SaveChangesAsync();
        // Another line counts for itself.
        var alt = new Line { PieceId = piece.Id, Name = "stencil" };
        var other = Of(piece, 4, 7);
        (other.LineId, other.Line) = (alt.Id, alt);
        db.Saves.Add(other);
        await db.SaveChangesAsync();
        db.Saves.Add(Of(piece, 5, 7));
        await Assert.ThrowsAsync<DbUpdateException>(() => db.SaveChangesAsync());
    }

    [Fact]
    public async Task Two_names_that_differ_only_in_case_are_one_piece()
    {
        await using var db = Open();
        var piece = await db.Pieces.Include(p => p.Lines).SingleAsync();
        Assert.True(await db.Pieces.AnyAsync(p => p.CurrentName == "tim_POSTER_key"));
        db.Pieces.Add(
            new Piece
            {
                ProjectId = piece.ProjectId,
                Slots = """{"subject":"poster","function":"key"}""",
                CurrentName = "TIM_Poster_KEY",
            }
        );
        await Assert.ThrowsAsync<DbUpdateException>(() => db.SaveChangesAsync());
    }

    [Fact]
    public async Task Times_keep_their_instant_and_hashes_their_value()
    {
        Save saved;
        await using (var db = Open())
        {
            saved = Of(await db.Pieces.Include(p => p.Lines).SingleAsync(), 1, 1);
            db.Saves.Add(saved);
            await db.SaveChangesAsync();
        }
        await using var again = Open();
        var read = await again.Saves.SingleAsync(s => s.ArrivedAt <= saved.ArrivedAt && s.Identity == saved.Identity);
        Assert.Equal(saved.ArrivedAt, read.ArrivedAt);
        Assert.Equal(TimeSpan.Zero, read.ArrivedAt.Offset);
    }
}
