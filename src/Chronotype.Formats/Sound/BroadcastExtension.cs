using System.Buffers.Binary;
using System.Globalization;
using System.Text;

namespace Chronotype.Formats.Sound;

/// <summary>What a WAVE file says of itself (EBU Tech 3285, version 2).</summary>
/// <param name="Description">What it is, at most 256 letters.</param>
/// <param name="Originator">Who made it, at most 32 letters.</param>
/// <param name="At">When what it is made of was made.</param>
internal sealed record BroadcastExtension(string Description, string Originator, DateTimeOffset At)
{
    private const int Bytes = 602;

    // Of a measure that was not taken (section 2.4).
    private const short NotMeasured = 0x7FFF;

    /// <summary>Samples since midnight at which it begins.</summary>
    public ulong TimeReference { get; init; }

    /// <summary>In LUFS; null for not measured.</summary>
    public double? Loudness { get; init; }

    /// <summary>In dB; null for not measured.</summary>
    public double? TruePeak { get; init; }

    /// <summary>How it came about, a line a step (appendix A); of an even number of letters.</summary>
    public string History { get; init; } = "";

    /// <summary>The chunk, with its name and its length.</summary>
    public byte[] Chunk()
    {
        var history = Encoding.Latin1.GetBytes(History.Length % 2 == 0 ? History : History + "\0");
        var chunk = new byte[8 + Bytes + history.Length];
        "bext"u8.CopyTo(chunk);
        BinaryPrimitives.WriteUInt32LittleEndian(chunk.AsSpan(4), (uint)(Bytes + history.Length));
        var body = chunk.AsSpan(8);
        Put(body[..256], Description);
        Put(body[256..288], Originator);
        Put(body[320..330], At.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture));
        Put(body[330..338], At.ToString("HH:mm:ss", CultureInfo.InvariantCulture));
        BinaryPrimitives.WriteUInt64LittleEndian(body[338..], TimeReference);
        BinaryPrimitives.WriteUInt16LittleEndian(body[346..], 2);
        // The loudness, its range, the true peak, and the loudest of moments and of short terms.
        short?[] measures = [Hundredths(Loudness), null, Hundredths(TruePeak), null, null];
        for (var i = 0; i < measures.Length; i++)
            BinaryPrimitives.WriteInt16LittleEndian(body[(412 + 2 * i)..], measures[i] ?? NotMeasured);
        history.CopyTo(body[Bytes..]);
        return chunk;
    }

    private static short? Hundredths(double? value) => value is { } v ? (short)Math.Round(v * 100) : null;

    private static void Put(Span<byte> field, string text)
    {
        var bytes = Encoding.Latin1.GetBytes(text);
        bytes.AsSpan(0, Math.Min(bytes.Length, field.Length)).CopyTo(field);
    }
}
