using System.Text.Json.Serialization;
using Chronotype.Core.Comparing;
using Chronotype.Core.Content;
using Chronotype.Core.Outputs;
using Chronotype.Core.References;
using Chronotype.Core.Sound;

namespace Chronotype.Core.Readers;

/// <summary>What a reader process is asked to do with foreign bytes.</summary>
public enum ReaderJobKind
{
    /// <summary>Read what is inside one content.</summary>
    Read,

    /// <summary>Draw one content for the screen.</summary>
    Draw,

    /// <summary>Say what changed between two contents.</summary>
    Compare,

    /// <summary>Cut one content's picture, or the difference of two, into tiles.</summary>
    Cut,

    /// <summary>Say what one content's sound looks like over its time.</summary>
    Chart,

    /// <summary>Decode a block of one content's samples.</summary>
    Samples,

    /// <summary>Write one content's sound as browsers play it.</summary>
    Playable,

    /// <summary>Take the earlier content's sound from the later one's.</summary>
    Residue,

    /// <summary>Write one content anew with references that lead elsewhere.</summary>
    Relink,

    /// <summary>Write the first content anew with the others inside.</summary>
    Pack,

    /// <summary>Find what one content carries inside, as an archive with an entry for each part, called by its hash.</summary>
    Embedded,

    /// <summary>Write one content anew with what it carried inside put out.</summary>
    PutOut,

    /// <summary>Write one content anew with some of its parts.</summary>
    Carry,

    /// <summary>Make a copy for use of the first content, by a recipe; the others are what it needs: its colour profile, or files of typefaces.</summary>
    Make,

    /// <summary>Make a contact sheet of the contents, which are pictures.</summary>
    Sheet,

    /// <summary>Say about how large a copy for use would be, from samples of it; the contents are as for <see cref="Make"/>.</summary>
    Estimate,

    /// <summary>Write the first content anew with parts of the second.</summary>
    Put,

    /// <summary>Say what a picture or a sound is known by.</summary>
    Liken,

    /// <summary>Write one content anew without what its maker's program keeps in it for itself.</summary>
    Bare,
}

/// <summary>One job. The contents themselves are asked for piece by piece, so that a reader needs no disk.</summary>
public sealed record ReaderJob
{
    /// <summary>What is asked of the reader.</summary>
    public ReaderJobKind Kind { get; init; }

    /// <summary>Whatever else the machine has to do comes before it.</summary>
    [JsonIgnore]
    public bool GoesLast => Kind == ReaderJobKind.Make;

    /// <summary>Of what is read, only what its beginning tells.</summary>
    public bool IsHeaderOnly { get; init; }

    /// <summary>Bytes of each content: one, or for a comparison the earlier and the later.</summary>
    public IReadOnlyList<long> Lengths { get; init; } = [];

    /// <summary>For a drawing, its longer side in pixels at most.</summary>
    public int Side { get; init; }

    /// <summary>For a drawing of a picture with pages, which, from 0.</summary>
    public int Page { get; init; }

    /// <summary>For tiles, which layer of each content is drawn alone; null, or none, for the whole picture.</summary>
    public IReadOnlyList<int?> Layers { get; init; } = [];

    /// <summary>For tiles, which page of each content, from 0; none for the first.</summary>
    public IReadOnlyList<int> Pages { get; init; } = [];

    /// <summary>For a comparison and for tiles, what was read in the contents before.</summary>
    public IReadOnlyList<FileFacts> Facts { get; init; } = [];

    /// <summary>For a block of samples, which, from 0.</summary>
    public int Block { get; init; }

    /// <summary>For what is left of a sound, what it has in common with the other.</summary>
    public IReadOnlyList<SoundMatch> Matches { get; init; } = [];

    /// <summary>For references that are to lead elsewhere, which.</summary>
    public IReadOnlyList<RewrittenReference> Rewritten { get; init; } = [];

    /// <summary>How texts say what they refer to, for reading them and for references that are to lead elsewhere.</summary>
    public IReadOnlyList<ReferencePattern> Patterns { get; init; } = [];

    /// <summary>For a copy for use, how it is made; null for anything else.</summary>
    public Recipe? Recipe { get; init; }

    /// <summary>For a copy for use, what it is made of; null where it says nothing of that.</summary>
    public MadeFrom? From { get; init; }

    /// <summary>For what is to be put inside, which reference leads to which content.</summary>
    public IReadOnlyList<PackedReference> Packed { get; init; } = [];

    /// <summary>For what is to be put out, where it is to be found.</summary>
    public IReadOnlyList<PlacedPart> Placed { get; init; } = [];

    /// <summary>For what is to be carried over, which parts, by their places in what was read.</summary>
    public IReadOnlyList<int> Carried { get; init; } = [];

    /// <summary>For what is to be carried over, what is cut out; null where it is parts by their places.</summary>
    public PartCut? Cut { get; init; }

    /// <summary>For parts that are put in, what they are of.</summary>
    public string PutName { get; init; } = "";

    /// <summary>For a stretch that is put in, at which second.</summary>
    public double PutAt { get; init; }

    /// <summary>For a contact sheet, what it shows; null for anything else.</summary>
    public ContactSheet? Sheet { get; init; }

    /// <summary>How often the contents are gone over, so that it can be told how much of that is done.</summary>
    public int Passes { get; init; } = 1;

    /// <summary>Seconds of processor time after which the system ends the reader.</summary>
    public int ProcessorSeconds { get; init; }
}

/// <summary>What a reader process answers. A drawing's bytes stand behind it.</summary>
public sealed record ReaderAnswer
{
    /// <summary>What was read; null where something else was asked.</summary>
    public FileFacts? Facts { get; init; }

    /// <summary>Bytes of memory that the reader holds after the job.</summary>
    public long Resident { get; init; }

    /// <summary>What was compared; null where something else was asked.</summary>
    public Comparison? Comparison { get; init; }

    /// <summary>What a drawing is, as RFC 6838 names it; null where there is nothing to see.</summary>
    public string? MediaType { get; init; }

    /// <summary>About how many bytes a copy for use would have; null where that cannot be told, or something else was asked.</summary>
    public long? Bytes { get; init; }

    /// <summary>What would become of the texts of a drawing; null where they stay, or something else was asked.</summary>
    public OutlinedTexts? Texts { get; init; }

    /// <summary>What a picture or a sound is known by; null where something else was asked.</summary>
    public Likeness? Likeness { get; init; }

    /// <summary>The copy for use, which stands in <see cref="File"/>; null where something else was asked.</summary>
    public MadeOutput? Made { get; init; }

    /// <summary>The tiles, which stand in <see cref="File"/>; null where something else was asked.</summary>
    public TiledPicture? Tiles { get; init; }

    /// <summary>What lies where in <see cref="File"/>; null where something else was asked.</summary>
    public ChartedSound? Chart { get; init; }

    /// <summary>What a content carries inside, which stands in <see cref="File"/>; null where something else was asked.</summary>
    public IReadOnlyList<EmbeddedPart>? Embedded { get; init; }

    /// <summary>A file that was made in the reader's own folder; null for none.</summary>
    public string? File { get; init; }

    /// <summary>Why it cannot be drawn; null where it can.</summary>
    public FileFault? Refusal { get; init; }

    /// <summary>What went wrong in the reader itself, or with the bytes it asked for; null for nothing.</summary>
    public string? Fault { get; init; }
}
