using Chronotype.Storage.Connections;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Storage;

/// <summary>Contexts for the studio's own work, which sees all projects. A page asks a context that knows what its person sees.</summary>
public sealed class StudioContexts(DbContextOptions<StudioDb> options, WriteTurn turns) : IDbContextFactory<StudioDb>
{
    /// <inheritdoc />
    public StudioDb CreateDbContext() => new(options) { Sees = null, Turns = turns };
}
