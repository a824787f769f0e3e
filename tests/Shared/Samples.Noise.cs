namespace Chronotype.Tests;

public static partial class Samples
{
    /// <summary>Bytes that do not compress, the same for the same seed.</summary>
    public static byte[] Noise(int length, int seed = 1)
    {
        var bytes = new byte[length];
        new Random(seed).NextBytes(bytes);
        return bytes;
    }
}
