using Chronotype.Content;
using Chronotype.Core.Content;

namespace Chronotype.Content.Tests;

/// <summary>What people do with a store for a while, remembering what they were told; and whether a store keeps to it.</summary>
internal sealed class StoreStory(int seed)
{
    private readonly Random random = new(seed);
    private readonly Dictionary<ContentHash, byte[]> kept = [];
    private readonly HashSet<ContentHash> dropped = [];
    private readonly Dictionary<ContentHash, byte[]> unsure = [];
    private byte[] newest = Samples.Noise(60_000, seed);

    /// <summary>Contents that were acknowledged and not taken back.</summary>
    public int Kept => kept.Count;

    /// <summary>What failed, in the order it did.</summary>
    public List<Exception> Failures { get; } = [];

    /// <summary>Does one thing after the other. What fails is remembered as not acknowledged, and the rest goes on.</summary>
    /// <param name="isOver">Asked after each; true ends the story.</param>
    public async Task PlayAsync(ContentStore store, int steps, Func<bool>? isOver = null)
    {
        for (var step = 0; step < steps && isOver?.Invoke() != true; step++)
        {
            try
            {
                await DoAsync(store);
            }
            catch (IOException e)
            {
                Failures.Add(e);
            }
        }
    }

    private async Task DoAsync(ContentStore store)
    {
        var chance = random.Next(100);
        if (chance < 15 && kept.Count > 2)
        {
            var hash = kept.Keys.ElementAt(random.Next(kept.Count));
            unsure[hash] = kept[hash];
            kept.Remove(hash);
            store.Drop(hash);
            unsure.Remove(hash);
            dropped.Add(hash);
        }
        else if (chance < 25)
            store.Maintenance.Compact();
        else
        {
            // What was not acknowledged is sent again, as people do.
            newest = random.Next(3) == 0 && unsure.Count > 0 ? unsure.Values.First() : Edited();
            var hash = ContentHash.Of(newest);
            unsure[hash] = newest;
            await store.PutAsync(newest);
            unsure.Remove(hash);
            dropped.Remove(hash);
            kept[hash] = newest;
        }
    }

    private byte[] Edited()
    {
        if (random.Next(6) == 0)
            return Samples.Noise(random.Next(1, 120_000), random.Next());
        var at = random.Next(newest.Length);
        return
        [
            .. newest[..at],
            .. Samples.Noise(random.Next(1, 20_000), random.Next()),
            .. newest[Math.Min(newest.Length, at + random.Next(20_000))..],
        ];
    }

    /// <summary>
    /// All that was acknowledged is there as it was; what was taken back is not; what was neither is whole, or not there.
    /// </summary>
    public void AssertKeptBy(ContentStore store)
    {
        foreach (var (hash, content) in kept)
        {
            Assert.True(store.Has(hash), $"A content that was acknowledged is gone (seed {seed}).");
            Assert.Equal(content, store.Get(hash));
        }
        foreach (var hash in dropped)
            Assert.False(store.Has(hash), $"A content that was taken back is there (seed {seed}).");
        foreach (var (hash, content) in unsure)
        {
            if (store.Has(hash))
                Assert.Equal(content, store.Get(hash));
        }
        foreach (var entry in store.Maintenance.Contents())
            Assert.True(
                kept.ContainsKey(entry.Hash) || unsure.ContainsKey(entry.Hash),
                $"A content is there that nobody kept (seed {seed})."
            );
    }
}
