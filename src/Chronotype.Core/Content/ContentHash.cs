using System.Security.Cryptography;

namespace Chronotype.Core.Content;

/// <summary>The SHA-256 of some bytes (FIPS 180-4), which is their address in the content store.</summary>
public readonly record struct ContentHash
{
    /// <summary>The length of <see cref="ToString"/>: 64 lower-case hexadecimal digits.</summary>
    public const int TextLength = 64;

    private readonly string? hex;

    private ContentHash(string hex) => this.hex = hex;

    /// <param name="digest">32 bytes.</param>
    public static ContentHash FromDigest(ReadOnlySpan<byte> digest) =>
        digest.Length == 32
            ? new ContentHash(Convert.ToHexStringLower(digest))
            : throw new ArgumentException($"A SHA-256 has 32 bytes, not {digest.Length}.", nameof(digest));

    /// <summary>The hash of some bytes that are at hand.</summary>
    public static ContentHash Of(ReadOnlySpan<byte> bytes) => FromDigest(SHA256.HashData(bytes));

    /// <exception cref="FormatException">The text is not 64 lower-case hexadecimal digits.</exception>
    public static ContentHash Parse(string text) =>
        TryParse(text, out var hash) ? hash : throw new FormatException($"'{text}' is no content hash: 64 lower-case hexadecimal digits.");

    /// <summary>Reads 64 hexadecimal digits.</summary>
    public static bool TryParse(string? text, out ContentHash hash)
    {
        var legal = text is { Length: TextLength } && text.All(char.IsAsciiHexDigitLower);
        hash = legal ? new ContentHash(text!) : default;
        return legal;
    }

    /// <inheritdoc />
    public override string ToString() => hex ?? throw new InvalidOperationException("A content hash was used before it was set.");
}
