using Chronotype.Core.Content;
using Chronotype.Core.Sound;

namespace Chronotype.Formats;

/// <summary>
/// An open format: how it is told from others, read and drawn. A new format is a class of this kind and its line in <see
/// cref="FormatList"/>; what it answers is measured, compared and shown by kind (a picture, a sound), not by format.
/// </summary>
public interface IFormat
{
    /// <summary>Its name among the facts.</summary>
    FileFormat Format { get; }

    /// <summary>Whether a file that begins so is of this format. The name's extension is not asked, since it may lie.</summary>
    /// <param name="head">The first bytes, <see cref="FormatSniffer.Length"/> of them at most.</param>
    bool Begins(ReadOnlySpan<byte> head);

    /// <summary>Reads all that can be known of it, to its end, so that damage anywhere is found.</summary>
    /// <param name="content">Seekable, left open.</param>
    /// <param name="cancel">Reading a large file may be stopped.</param>
    /// <exception cref="UnreadableFileException">It is damaged, or more than is read.</exception>
    FileFacts Read(Stream content, CancellationToken cancel);

    /// <summary>
    /// As <see cref="Read"/>, without going over what is painted: layers have no bounds and no hash of their pixels, and damage there is
    /// not found.
    /// </summary>
    internal FileFacts Outline(Stream content, CancellationToken cancel) => Read(content, cancel);

    /// <summary>As far as its beginning tells what it is; no more of it is read.</summary>
    /// <exception cref="UnreadableFileException">As of <see cref="Read"/>.</exception>
    FileFacts Header(Stream content) => new() { Format = Format };

    /// <summary>Draws it for the screen.</summary>
    /// <param name="content">Seekable, left open.</param>
    /// <param name="side">The longer side, in pixels, at most.</param>
    /// <param name="page">Of a picture with pages, which, from 0.</param>
    /// <param name="cancel">Drawing a long recording may be stopped.</param>
    /// <returns>Null where there is nothing to see.</returns>
    /// <exception cref="UnreadableFileException">It cannot be drawn; the fault says why.</exception>
    Preview? Draw(Stream content, int side, int page, CancellationToken cancel) => null;

    /// <summary>Decodes its sound.</summary>
    /// <param name="content">Seekable, left open for as long as the sound is read.</param>
    /// <returns>Null where the format has none.</returns>
    /// <exception cref="UnreadableFileException">It cannot be decoded; the fault says why.</exception>
    SoundStream? OpenSound(Stream content) => null;

    /// <summary>Opens its layers.</summary>
    /// <param name="content">Seekable, left open for as long as the layers are read.</param>
    /// <returns>Null where the format has none.</returns>
    /// <exception cref="UnreadableFileException">They cannot be had; the fault says why.</exception>
    internal ILayeredFile? OpenLayers(Stream content) => null;

    /// <summary>Opens its whole picture, for reading from its first row to its last.</summary>
    /// <param name="content">Seekable, left open for as long as the picture is read.</param>
    /// <param name="page">Of a picture with pages, which, from 0.</param>
    /// <param name="longest">Of what has no pixels of its own, the longer side that it is drawn at.</param>
    /// <returns>Null where the format has none.</returns>
    /// <exception cref="UnreadableFileException">It cannot be had; the fault says why.</exception>
    internal NetVips.Image? OpenPicture(Stream content, int page, int longest) => null;
}
