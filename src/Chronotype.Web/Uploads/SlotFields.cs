namespace Chronotype.Web.Uploads;

/// <summary>The fields of a form that hold a piece's slots: <c>slot.subject</c>.</summary>
public static class SlotFields
{
    public const string Prefix = "slot.";

    public static IReadOnlyDictionary<string, string> From(IEnumerable<KeyValuePair<string, string>> fields) =>
        fields.Where(f => f.Key.StartsWith(Prefix, StringComparison.Ordinal)).ToDictionary(f => f.Key[Prefix.Length..], f => f.Value);

    public static IReadOnlyDictionary<string, string> From(IQueryCollection query) =>
        From(query.Select(q => KeyValuePair.Create(q.Key, q.Value.ToString())));
}
