using Chronotype.Core.Naming;
using Chronotype.Web.Words;

namespace Chronotype.Web.Pages.Conventions;

/// <summary>One setting of a slot, as it is edited in place.</summary>
public sealed record SettingView(int Number, DraftSlot Slot, string Setting, IReadOnlyDictionary<string, CodeList> Lists)
{
    public string Field => $"s.{Number}.{Setting}";
    public string Value => Slot.Settings.GetValueOrDefault(Setting) ?? (Setting == "joiner" ? "-" : "");

    /// <summary>Which letters words may have: plain ones, all, one script's beside the plain, and what a file of the convention says.</summary>
    public IEnumerable<(string Value, string Says)> LetterChoices
    {
        get
        {
            yield return ("", "plain, a to z");
            yield return ("any", "of any script");
            foreach (var (code, _, name) in WordLetters.All)
                yield return (code, $"plain and {name}");
            if (Value.Contains(' ') && WordLetters.Read(Value) is { } several)
                yield return (Value, $"plain and {WordLetters.Told(several)}");
        }
    }

    /// <summary>The last number that sorts by name; null while the width is none.</summary>
    public string? SortsTo =>
        int.TryParse(
            Value.Length > 0 ? Value
                : Slot.Kind == "milestone" ? "2"
                : "3",
            System.Globalization.CultureInfo.InvariantCulture,
            out var width
        ) && width is > 0 and <= NumberRule.MaxDigits
            ? new string('9', width)
            : null;

    /// <summary>How many codes the list has, and its first.</summary>
    public string Codes
    {
        get
        {
            var list = Lists.GetValueOrDefault(Value.Length > 0 ? Value : Slot.Label);
            return list is null
                ? "no codes yet: any will do"
                : $"{DisplayText.Count(list.Codes.Count, "code", "codes")}: "
                    + $"{string.Join(", ", list.Codes.Take(3).Select(c => c.Code))}{(list.Codes.Count > 3 ? " …" : "")}";
        }
    }
}

/// <summary>The forms' names as people say them.</summary>
public static class FormWords
{
    public static string Of(NameForm form) => form == NameForm.HandOff ? "hand-off" : form.ToString().ToLowerInvariant();
}
