using System.Text;
using System.Xml;
using System.Xml.Linq;

namespace Chronotype.Web.Share;

/// <summary>Bodies of requests and answers (RFC 4918, 14): read with care, since anybody may have written them.</summary>
public static class DavXml
{
    public static readonly XNamespace Dav = "DAV:";

    private const int MaxBytes = 1 << 20,
        MaxElements = 10_000,
        MaxDepth = 64;

    /// <returns>The element; null for no body at all.</returns>
    /// <exception cref="XmlException">It is no XML, larger than any that means something, or defines entities.</exception>
    public static async Task<XElement?> ReadAsync(HttpRequest request, CancellationToken cancel)
    {
        using var held = new MemoryStream();
        var buffer = new byte[16 << 10];
        for (int read; (read = await request.Body.ReadAsync(buffer, cancel)) > 0; )
        {
            if (held.Length + read > MaxBytes)
                throw new XmlException("The body is larger than any that means something here.");
            held.Write(buffer, 0, read);
        }
        if (held.Length == 0)
            return null;
        held.Position = 0;
        using var reader = XmlReader.Create(
            held,
            new XmlReaderSettings
            {
                DtdProcessing = DtdProcessing.Prohibit,
                XmlResolver = null,
                MaxCharactersInDocument = MaxBytes,
            }
        );
        // Counted before anything is built of it.
        var elements = 0;
        while (reader.Read())
        {
            if (reader.NodeType == XmlNodeType.Element && (++elements > MaxElements || reader.Depth > MaxDepth))
                throw new XmlException("The body has more elements than any that means something here.");
        }
        held.Position = 0;
        using var again = XmlReader.Create(held, new XmlReaderSettings { DtdProcessing = DtdProcessing.Prohibit, XmlResolver = null });
        return XElement.Load(again, LoadOptions.PreserveWhitespace);
    }

    /// <summary>Answers with an element.</summary>
    public static Task WriteAsync(HttpContext context, int status, XElement root, CancellationToken cancel) =>
        WriteAsync(context, status, root.Save, cancel);

    /// <summary>Answers with an element whose parts are made as they are written.</summary>
    public static Task WriteAsync(HttpContext context, int status, XStreamingElement root, CancellationToken cancel) =>
        WriteAsync(context, status, root.Save, cancel);

    private static async Task WriteAsync(HttpContext context, int status, Action<XmlWriter> root, CancellationToken cancel)
    {
        context.Response.StatusCode = status;
        context.Response.ContentType = "application/xml; charset=utf-8";
        using var body = new MemoryStream();
        var settings = new XmlWriterSettings { Encoding = new UTF8Encoding(false), NamespaceHandling = NamespaceHandling.OmitDuplicates };
        using (var writer = XmlWriter.Create(body, settings))
            root(writer);
        context.Response.ContentLength = body.Length;
        body.Position = 0;
        await body.CopyToAsync(context.Response.Body, cancel);
    }

    /// <summary>The root of an answer about several resources, with the usual prefix.</summary>
    public static XStreamingElement Multistatus(IEnumerable<XElement> responses) =>
        new(Dav + "multistatus", new XAttribute(XNamespace.Xmlns + "D", Dav.NamespaceName), responses);

    /// <summary>A status line as it stands in XML.</summary>
    public static XElement Status(int code) =>
        new(Dav + "status", $"HTTP/1.1 {code} {Microsoft.AspNetCore.WebUtilities.ReasonPhrases.GetReasonPhrase(code)}");

    /// <summary>A name as properties are stored by it.</summary>
    public static string NameOf(XName name) => $"{{{name.NamespaceName}}}{name.LocalName}";
}
