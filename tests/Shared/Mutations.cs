namespace Chronotype.Tests;

/// <summary>Bytes as a hostile or a broken program would send them: sound ones, changed in a few of the usual ways.</summary>
internal static class Mutations
{
    /// <summary>One to four changes: a byte set, a bit turned, bytes cut out, doubled, put in, or swapped for extreme numbers.</summary>
    public static byte[] Of(byte[] sound, Random random)
    {
        var bytes = sound.ToList();
        for (var n = random.Next(1, 5); n > 0 && bytes.Count > 0; n--)
        {
            var at = random.Next(bytes.Count);
            var length = Math.Min(random.Next(1, 40), bytes.Count - at);
            switch (random.Next(7))
            {
                case 0:
                    bytes[at] = (byte)random.Next(256);
                    break;
                case 1:
                    bytes[at] ^= (byte)(1 << random.Next(8));
                    break;
                case 2:
                    bytes.RemoveRange(at, length);
                    break;
                case 3:
                    bytes.InsertRange(at, bytes.GetRange(at, length));
                    break;
                case 4:
                    bytes.InsertRange(at, Samples.Noise(length, random.Next()));
                    break;
                case 5:
                    byte[] extreme = [.. Enumerable.Repeat((byte)(random.Next(2) * 255), Math.Min(4, bytes.Count - at))];
                    bytes.RemoveRange(at, extreme.Length);
                    bytes.InsertRange(at, extreme);
                    break;
                default:
                    bytes.RemoveRange(at, bytes.Count - at);
                    break;
            }
        }
        return [.. bytes];
    }
}
