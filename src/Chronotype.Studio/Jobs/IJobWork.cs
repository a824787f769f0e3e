using Chronotype.Storage.Entities;

namespace Chronotype.Studio.Jobs;

/// <summary>How the jobs of one kind are done; of any number at once.</summary>
public interface IJobWork
{
    /// <param name="job">As it was when it began.</param>
    /// <param name="progress">Takes how much is done, and of how much.</param>
    /// <param name="cancel">The job was stopped, is wanted by nobody any more, or the studio stops.</param>
    /// <returns>What it came to, as JSON; null where that stands elsewhere.</returns>
    Task<string?> DoAsync(Job job, IProgress<(long Done, long Total)> progress, CancellationToken cancel);
}
