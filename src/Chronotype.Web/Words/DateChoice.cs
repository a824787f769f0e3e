using Chronotype.Core.Timeline;
using Chronotype.Storage.Entities;
using Chronotype.Web.Security;

namespace Chronotype.Web.Words;

/// <summary>Has the dates of an answer written as whoever asks chose it.</summary>
public sealed class DateChoice(RequestDelegate next)
{
    private static readonly AsyncLocal<DatePatterns?> OfRequest = new();

    /// <summary>Those of the request that is being answered.</summary>
    public static DatePatterns Now => OfRequest.Value ?? DatePatterns.DayFirst;

    public static DatePatterns Of(DateStyle style) =>
        style switch
        {
            DateStyle.MonthFirst => DatePatterns.MonthFirst,
            DateStyle.YearFirst => DatePatterns.YearFirst,
            _ => DatePatterns.DayFirst,
        };

    public Task InvokeAsync(HttpContext context)
    {
        OfRequest.Value = Of(context.User.Dates());
        return next(context);
    }
}
