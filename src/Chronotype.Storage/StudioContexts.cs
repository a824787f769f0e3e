using Microsoft.EntityFrameworkCore;

namespace Chronotype.Storage;

/// <summary>Contexts for the studio's own work, which sees all projects. What a person asks is asked of a context that knows what they see.</summary>
public sealed class StudioContexts(DbContextOptions<StudioDb> options) : IDbContextFactory<StudioDb>
{
    /// <inheritdoc />
    public StudioDb CreateDbContext() => new(options) { Sees = null };
}
