using Microsoft.EntityFrameworkCore;

namespace Chronotype.Storage;

public static class Deleted
{
    /// <summary>Also what was deleted or discarded, and can be taken back; of projects that whoever asks sees.</summary>
    public static IQueryable<T> WithDeleted<T>(this IQueryable<T> all)
        where T : class => all.IgnoreQueryFilters([StudioDb.Standing]);
}
