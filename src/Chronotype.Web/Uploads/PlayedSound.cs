using Chronotype.Core.Content;

namespace Chronotype.Web.Uploads;

/// <summary>The sounds that browsers play as they are.</summary>
public static class PlayedSound
{
    /// <summary>As RFC 6838 names it; null for one that is written anew first.</summary>
    public static string? MediaType(FileFormat format, SoundFacts sound) =>
        format switch
        {
            FileFormat.Wave when sound.Bits <= 32 => "audio/wav",
            FileFormat.Flac => "audio/flac",
            FileFormat.Vorbis or FileFormat.Opus => "audio/ogg",
            FileFormat.Mpeg => "audio/mpeg",
            _ => null,
        };
}
