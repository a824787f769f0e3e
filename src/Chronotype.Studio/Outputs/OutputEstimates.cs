using System.Collections.Concurrent;
using Chronotype.Core.Content;
using Chronotype.Core.Outputs;
using Chronotype.Studio.Readers;

namespace Chronotype.Studio.Outputs;

/// <summary>About how large outputs would be, told from samples that are made of them; remembered while the studio runs.</summary>
public sealed class OutputEstimates(FileReader reader)
{
    private const int MostRemembered = 2_000;

    private readonly ConcurrentDictionary<(ContentHash, string), long?> known = new();

    /// <returns>Bytes; null where it cannot be told.</returns>
    /// <exception cref="IOException">The content could not be read from where it is kept.</exception>
    public async Task<long?> GetAsync(ContentHash content, Recipe recipe, CancellationToken cancel = default)
    {
        if (recipe.IsPacked)
            return null;
        var key = (content, RecipeFile.Write(recipe));
        if (known.TryGetValue(key, out var bytes))
            return bytes;
        if (known.Count >= MostRemembered)
            known.Clear();
        return known[key] = await reader.EstimateAsync(content, recipe, cancel);
    }
}
