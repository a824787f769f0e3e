namespace Chronotype.Core.Outputs;

/// <summary>Why a text cannot become outlines.</summary>
public enum TextObstacle
{
    /// <summary>No file of its typeface is at hand. <see cref="LeftText.About"/>: the typeface.</summary>
    Typeface,

    /// <summary>Its typeface has no form for a character. <see cref="LeftText.About"/>: the character.</summary>
    Character,

    /// <summary>It is set in a way that is not followed here. <see cref="LeftText.About"/>: the property or the element.</summary>
    Setting,
}

/// <summary>A text that does not become outlines.</summary>
/// <param name="Text">What it says, cut short. Not trusted.</param>
/// <param name="Why">What stands in the way.</param>
/// <param name="About">As the obstacle tells it. Not trusted.</param>
public sealed record LeftText(string Text, TextObstacle Why, string About);

/// <summary>What became of the texts of a drawing whose texts become outlines.</summary>
/// <param name="Outlined">How many did.</param>
/// <param name="Left">Those that did not.</param>
public sealed record OutlinedTexts(int Outlined, IReadOnlyList<LeftText> Left);
