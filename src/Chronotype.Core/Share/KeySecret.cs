using System.Security.Cryptography;
using System.Text;
using Chronotype.Core.Content;

namespace Chronotype.Core.Share;

/// <summary>What a program signs in with: random, and long enough that nobody finds it by trying (148 bits).</summary>
public static class KeySecret
{
    // Of letters and digits that nobody takes for one another: it may have to be typed.
    private const string Letters = "abcdefghjkmnpqrstuvwxyz23456789";
    private const int Groups = 6,
        OfEach = 5;

    /// <summary>A new one, in groups of five.</summary>
    public static string New() =>
        string.Join('-', Enumerable.Range(0, Groups).Select(_ => RandomNumberGenerator.GetString(Letters, OfEach)));

    /// <summary>What of it is kept. Nothing slower is needed for what cannot be guessed.</summary>
    /// <param name="secret">As it was typed.</param>
    public static ContentHash HashOf(string secret) => ContentHash.Of(Encoding.UTF8.GetBytes(secret.Trim().ToLowerInvariant()));
}
