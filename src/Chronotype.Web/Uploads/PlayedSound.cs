using Chronotype.Core.Content;

namespace Chronotype.Web.Uploads;

/// <summary>The sounds that browsers play.</summary>
public static class PlayedSound
{
    /// <summary>As RFC 6838 names it; null for one that browsers do not play.</summary>
    public static string? MediaType(FileFormat format) =>
        format switch
        {
            FileFormat.Wave => "audio/wav",
            FileFormat.Flac => "audio/flac",
            FileFormat.Vorbis or FileFormat.Opus => "audio/ogg",
            FileFormat.Mpeg => "audio/mpeg",
            _ => null,
        };
}
