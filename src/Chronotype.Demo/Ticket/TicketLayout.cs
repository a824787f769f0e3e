using System.Globalization;
using System.Text;
using NetVips;

namespace Chronotype.Demo.Ticket;

/// <summary>How the ticket looks at one moment.</summary>
/// <param name="Ground">Its colour.</param>
/// <param name="HasStub">Whether a part is torn off at the door.</param>
/// <param name="Waves">How many lines of waves it has.</param>
internal sealed record TicketLook(string Ground, bool HasStub, int Waves);

/// <summary>
/// The ticket, laid out in a program whose files nobody else can open: a made-up native of the extension <c>.gull</c>, and the flat
/// picture that the program exports beside it.
/// </summary>
internal static class TicketLayout
{
    public static byte[] Native(TicketLook look)
    {
        using var file = new MemoryStream();
        using var writer = new BinaryWriter(file);
        writer.Write("GULL LAYOUT 3\0"u8);
        // Its pages are blocks that only the program understands; what did not change is the same bytes again.
        Block(look.Ground);
        Block($"stub {look.HasStub}");
        for (var wave = 0; wave < look.Waves; wave++)
            Block($"wave {wave}");
        return file.ToArray();

        void Block(string of)
        {
            var bytes = new byte[96 << 10];
            new Random(of.Aggregate(17, (seed, letter) => (seed * 31 + letter) & 0xFFFFFF)).NextBytes(bytes);
            writer.Write(bytes.Length);
            writer.Write(bytes);
        }
    }

    public static byte[] Face(TicketLook look)
    {
        const int width = 1500,
            height = 640;
        var svg = new StringBuilder($"""<svg xmlns="http://www.w3.org/2000/svg" width="{width}" height="{height}">""");
        svg.Append($"""<rect width="{width}" height="{height}" fill="{look.Ground}"/>""");
        svg.Append("""<circle cx="330" cy="250" r="130" fill="#f4ecd2"/>""");
        for (var wave = 0; wave < look.Waves; wave++)
        {
            svg.Append(CultureInfo.InvariantCulture, $"""<path d="M0 {430 + wave * 42}""");
            for (var x = 0; x < 14; x++)
                svg.Append("q55 -34 110 0t110 0");
            svg.Append("\" fill=\"none\" stroke=\"#e7f0ef\" stroke-width=\"12\"/>");
        }
        svg.Append(Poster.Lettering.Draw("ADMIT ONE", 600, 130, 12.5, 15, "#ffffff"));
        svg.Append(Poster.Lettering.Draw("TIDES 12 MAY", 600, 270, 8, 8, "#f4ecd2"));
        if (look.HasStub)
            svg.Append(
                $"""<path d="M1290 0V{height}" stroke="#ffffff" stroke-width="6" stroke-dasharray="4 22" stroke-linecap="round"/>"""
            );
        using var image = Image.SvgloadBuffer(Encoding.UTF8.GetBytes(svg.Append("</svg>").ToString()));
        return image.ExtractBand(0, 3).PngsaveBuffer(compression: 6);
    }
}
