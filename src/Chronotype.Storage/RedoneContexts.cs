using Chronotype.Storage.Connections;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Storage;

/// <summary>
/// Contexts for what is done again by itself where it is not recorded: what the studio notes of its own jobs, and what it has read and
/// compared. Their commits wait for no disk; whatever is committed after them takes them along. A program that is killed loses nothing of
/// them, and a machine without power the last ones, all from some moment on. Nothing that a person is told of is written by one.
/// </summary>
public sealed class RedoneContexts(string database, WriteTurn turns) : IDbContextFactory<StudioDb>
{
    private readonly DbContextOptions<StudioDb> options = new DbContextOptionsBuilder<StudioDb>()
        .UseSqlite(RecordConnection.Text(database, ConnectionUse.Redone))
        .AddInterceptors(RecordConnection.Setting(ConnectionUse.Redone))
        .Options;

    /// <inheritdoc />
    public StudioDb CreateDbContext() =>
        new(options)
        {
            Sees = null,
            Turns = turns,
            GivesWay = true,
        };
}
