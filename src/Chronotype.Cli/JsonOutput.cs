using System.Text.Encodings.Web;
using System.Text.Json;

namespace Chronotype.Cli;

/// <summary>Writes answers: one JSON object a line, or lines for people.</summary>
/// <param name="atOnce">Whether each answer is passed on at once: it tells of something that was done, or a person waits for it.</param>
internal sealed class JsonOutput(bool atOnce = false) : IDisposable
{
    private static readonly JsonWriterOptions Options = new() { Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    private readonly Stream stream = new BufferedStream(Console.OpenStandardOutput(), 1 << 16);
    private readonly MemoryStream line = new();
    private readonly Utf8JsonWriter json = new(Stream.Null, Options);

    /// <summary>Writes one object on a line of its own.</summary>
    public void Object(Action<Utf8JsonWriter> fields)
    {
        line.SetLength(0);
        json.Reset(line);
        json.WriteStartObject();
        fields(json);
        json.WriteEndObject();
        json.Flush();
        line.WriteByte((byte)'\n');
        Send();
    }

    /// <summary>Writes one line for people.</summary>
    public void Text(string text)
    {
        line.SetLength(0);
        line.Write(System.Text.Encoding.UTF8.GetBytes(text + "\n"));
        Send();
    }

    public void Dispose()
    {
        stream.Flush();
        json.Dispose();
    }

    private void Send()
    {
        stream.Write(line.GetBuffer(), 0, (int)line.Length);
        if (atOnce || !Console.IsInputRedirected)
            stream.Flush();
    }
}
