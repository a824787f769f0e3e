using System.Collections.Concurrent;
using Chronotype.Core.Content;
using Chronotype.Core.Outputs;
using Chronotype.Storage;
using Chronotype.Studio.Readers;
using Microsoft.EntityFrameworkCore;

namespace Chronotype.Studio.Outputs;

/// <summary>What is known of an output before it is made.</summary>
/// <param name="Bytes">About how many; null where that cannot be told.</param>
/// <param name="Texts">What will become of the texts of a drawing; null where they stay.</param>
public sealed record OutputEstimate(long? Bytes, OutlinedTexts? Texts);

/// <summary>About how large outputs would be, told from samples that are made of them; remembered while the studio runs.</summary>
public sealed class OutputEstimates(FileReader reader, IDbContextFactory<StudioDb> contexts)
{
    private const int MostRemembered = 2_000;

    private readonly ConcurrentDictionary<string, OutputEstimate> known = new();

    /// <param name="projectId">Whose typefaces are at hand.</param>
    /// <exception cref="IOException">The content could not be read from where it is kept.</exception>
    public async Task<OutputEstimate> GetAsync(Guid projectId, ContentHash content, Recipe recipe, CancellationToken cancel = default)
    {
        if (recipe.IsPacked)
            return new OutputEstimate(null, null);
        await using var db = await contexts.CreateDbContextAsync(cancel);
        IReadOnlyList<ContentHash> contents = [content, .. await MakeOutputs.NeededAsync(db, projectId, recipe, cancel)];
        var key = $"{string.Join(' ', contents)} {RecipeFile.Write(recipe)}";
        if (known.TryGetValue(key, out var estimate))
            return estimate;
        if (known.Count >= MostRemembered)
            known.Clear();
        var (bytes, texts) = await reader.EstimateAsync(contents, recipe, cancel);
        return known[key] = new OutputEstimate(bytes, texts);
    }
}
