using Chronotype.Core.Content;
using Chronotype.Core.Naming;
using Chronotype.Core.Share;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Conventions;
using Chronotype.Studio.Pieces;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Share;

/// <summary>A file that was saved in a working folder of the share, and that waits until somebody says what it is.</summary>
/// <param name="By">The initials of whoever saved it.</param>
/// <param name="Proposal">What its name says of where it belongs.</param>
/// <param name="NewName">What a piece that begins with it would be called; null where its name does not say enough for that.</param>
public sealed record ArrivedFile(SharedFile File, string By, Proposal Proposal, string? NewName);

/// <summary>What came on the share under names that fit no piece, with the places that it may have.</summary>
public sealed class ArrivedFiles(StudioDb db, PlaceFile placeFile)
{
    private const int Most = 40,
        MostLooked = 2_000;

    /// <summary>The newest of them first.</summary>
    public async Task<IReadOnlyList<ArrivedFile>> OfAsync(Project project, CancellationToken cancel = default)
    {
        var waiting = await SettleShare
            .Waiting(db, project.Id)
            .AsNoTracking()
            .OrderByDescending(f => f.At)
            .Take(MostLooked)
            .Join(db.Users, f => f.ById, u => u.Id, (File, By) => new { File, By.Initials })
            .ToListAsync(cancel);
        // What programs and desktops keep beside the files is nothing that anybody would be asked about.
        waiting = [.. waiting.Where(w => SharedNames.IsWork(w.File.Path)).Take(Most)];
        if (waiting.Count == 0)
            return [];
        var places = await placeFile.LoadAsync(project.Id, cancel);
        return waiting.ConvertAll(w =>
        {
            var proposal = places.Propose(w.File.Path.Name, w.Initials);
            return new ArrivedFile(w.File, w.Initials, proposal, NewName(project, proposal));
        });
    }

    private static string? NewName(Project project, Proposal proposal) =>
        PieceNames.Of(project, new Dictionary<string, string>(proposal.Slots)).Current().Name?.Stem;
}
