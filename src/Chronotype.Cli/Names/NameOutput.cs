using System.Text.Encodings.Web;
using System.Text.Json;
using Chronotype.Core.Naming;

namespace Chronotype.Cli.Names;

/// <summary>Writes answers: one JSON object a line, or lines for people.</summary>
internal sealed class NameOutput : IDisposable
{
    private static readonly JsonWriterOptions Options = new() { Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    private readonly Stream stream = new BufferedStream(Console.OpenStandardOutput(), 1 << 16);
    private readonly MemoryStream line = new();
    private readonly Utf8JsonWriter json;

    public NameOutput() => json = new(line, Options);

    /// <summary>Writes one object on a line of its own.</summary>
    public void Object(Action<Utf8JsonWriter> fields)
    {
        line.SetLength(0);
        json.Reset();
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

    public static void Reading(Utf8JsonWriter json, NameReading reading)
    {
        json.WriteStartObject();
        foreach (var (label, value) in reading.Values()) json.WriteString(label, value);
        if (reading.Extension.Length > 0) json.WriteString("extension", reading.Extension);
        json.WriteEndObject();
    }

    public void Dispose()
    {
        stream.Flush();
        json.Dispose();
    }

    private void Send()
    {
        stream.Write(line.GetBuffer(), 0, (int)line.Length);
        // A person who types names sees each answer at once.
        if (!Console.IsInputRedirected) stream.Flush();
    }
}
