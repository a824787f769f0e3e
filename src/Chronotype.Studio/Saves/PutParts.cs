using System.Globalization;
using Chronotype.Content;
using Chronotype.Core.Content;
using Chronotype.Core.Outputs;
using Chronotype.Core.Readers;
using Chronotype.Storage;
using Chronotype.Storage.Entities;
using Chronotype.Studio.Deeds;
using Chronotype.Studio.Jobs;
using Chronotype.Studio.References;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Saves;

/// <summary>
/// Puts chosen parts of another piece's version into a piece: layers into a layered picture, elements into a drawing, nodes into a scene, a
/// stretch into a sound. What comes of it is a loose save on top, which says where the parts came from.
/// </summary>
public sealed class PutParts(Rewriting rewriting, DeedRunner deeds, IDbContextFactory<StudioDb> contexts, IContentStore store) : IJobWork
{
    /// <summary>What is asked for, as the job's subject holds it.</summary>
    public static string SubjectOf(Guid pieceId, Guid sourceId, IReadOnlyList<int> parts, SoundStretch? stretch, double at) =>
        FormattableString.Invariant($"{pieceId}/{sourceId}/{string.Join(',', parts)}/{stretch?.From}/{stretch?.Seconds}/{at}");

    /// <summary>Asks for parts to be put in, in the queue: of a large picture that takes its time.</summary>
    /// <returns>The job's subject.</returns>
    public Task<Outcome<string>> AskAsync(
        Actor actor,
        Guid pieceId,
        Guid sourceId,
        IReadOnlyList<int> parts,
        SoundStretch? stretch = null,
        double at = 0,
        CancellationToken cancel = default
    ) =>
        deeds.DoAsync<string>(
            actor,
            Right.Work,
            async deed =>
            {
                if (!await deed.Db.Pieces.AnyAsync(p => p.Id == pieceId, cancel))
                    return new Refusal.NoSuchPiece();
                if (!await deed.Db.Saves.AnyAsync(s => s.Id == sourceId && deed.Db.Pieces.Any(p => p.Id == s.PieceId), cancel))
                    return new Refusal.NoSuchSave();
                var subject = SubjectOf(pieceId, sourceId, parts, stretch, at);
                await deed.QueueAsync(JobRequest.Put(subject, pieceId), cancel);
                return subject;
            },
            cancel
        );

    async Task<string?> IJobWork.DoAsync(Job job, IProgress<(long Done, long Total)> progress, CancellationToken cancel)
    {
        static double? Number(string text) => text.Length == 0 ? null : double.Parse(text, CultureInfo.InvariantCulture);
        var asked = job.Subject.Split('/');
        var outcome = await DoAsync(
            Actor.StudioFor(job.AskedById ?? Guid.Empty),
            Guid.Parse(asked[0]),
            Guid.Parse(asked[1]),
            [.. asked[2].Split(',', StringSplitOptions.RemoveEmptyEntries).Select(p => int.Parse(p, CultureInfo.InvariantCulture))],
            Number(asked[3]) is { } from && Number(asked[4]) is { } seconds ? new SoundStretch(from, seconds) : null,
            Number(asked[5]) ?? 0,
            cancel
        );
        return outcome.Done ? null : RecordJson.Write(new FileFault(FileFaultCode.NoLayers));
    }

    /// <summary>Whether parts of files of a format can be put into one of another.</summary>
    public static bool IsPossible(FileFormat into, FileFormat of) =>
        (into == of && into is FileFormat.OpenRaster or FileFormat.Svg or FileFormat.Gltf)
        || (SoundRecipe.Same(into) is not null && SoundRecipe.Same(of) is not null);

    /// <param name="pieceId">What they are put into: its newest save.</param>
    /// <param name="sourceId">The save that they are of.</param>
    /// <param name="parts">Layers, by their places in what was read; of a sound none.</param>
    /// <param name="stretch">Of a sound; null for all of it.</param>
    /// <param name="at">Of a sound, at which second it is put in.</param>
    /// <exception cref="IOException">As for <see cref="Rewriting.MakeAsync"/>.</exception>
    public async Task<Outcome<ReceivedSave>> DoAsync(
        Actor actor,
        Guid pieceId,
        Guid sourceId,
        IReadOnlyList<int> parts,
        SoundStretch? stretch = null,
        double at = 0,
        CancellationToken cancel = default
    )
    {
        await using var db = await contexts.CreateDbContextAsync(cancel);
        var target = await db
            .Saves.AsNoTracking()
            .Include(s => s.Files)
            .Include(s => s.Piece)
            .Where(s => s.PieceId == pieceId && s.IsCurrent)
            .FirstOrDefaultAsync(cancel);
        var source = await db
            .Saves.AsNoTracking()
            .Include(s => s.Files)
            .Include(s => s.Piece)
            .FirstOrDefaultAsync(s => s.Id == sourceId && db.Pieces.Any(p => p.Id == s.PieceId), cancel);
        if (target is null || source is null)
            return new Refusal.NoSuchSave();
        if (target.Files.Count > 1 || source.Files.Count > 1)
            return new Refusal.NotPut(source.Piece.CurrentName);
        var from = source.ExactName ?? source.Piece.CurrentName;
        var (made, _) = await rewriting.MakeAsync(
            new ReaderJob
            {
                Kind = ReaderJobKind.Put,
                Carried = parts,
                PutName = from,
                Cut = stretch is null ? null : new PartCut(null, stretch),
                PutAt = at,
            },
            () => [store.OpenRead(target.MainHash), store.OpenRead(source.MainHash)],
            cancel
        );
        if (made is null)
            return new Refusal.NotPut(source.Piece.CurrentName);
        var received = await rewriting.ReceiveAsync(actor, new SaveTarget.OfPiece(pieceId), made, target.ReceivedName, cancel);
        if (received.Result is { IsNew: true } taken)
            await deeds.DoAsync<Done>(
                actor,
                Right.Work,
                async deed =>
                {
                    await deed
                        .Db.Saves.Where(s => s.Id == taken.Save.Id && s.Note == null)
                        .ExecuteUpdateAsync(u => u.SetProperty(s => s.Note, $"With parts of {from}"), CancellationToken.None);
                    return Done.It;
                },
                CancellationToken.None
            );
        return received;
    }
}
