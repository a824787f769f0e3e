using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Design;

namespace Chronotype.Storage;

/// <summary>Lets the EF Core tools build the model when a migration is written; nothing is opened.</summary>
internal sealed class StudioDbDesign : IDesignTimeDbContextFactory<StudioDb>
{
    public StudioDb CreateDbContext(string[] args) =>
        new(new DbContextOptionsBuilder<StudioDb>().UseSqlite("Data Source=design.db").Options) { Sees = null };
}
