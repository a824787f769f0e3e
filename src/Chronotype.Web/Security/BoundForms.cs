using Chronotype.Web.Pages.Shared;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.Filters;

namespace Chronotype.Web.Security;

/// <summary>
/// Refuses an address that no page answers to, what is sent to a page and is no form, and a form of which something cannot be read as
/// what it must be. Without this it would count as not given, and another thing would be done than was asked for.
/// </summary>
public sealed class BoundForms : IPageFilter
{
    public void OnPageHandlerSelected(PageHandlerSelectedContext context) { }

    public void OnPageHandlerExecuting(PageHandlerExecutingContext context)
    {
        // A handler that there is not would show the page with nothing in it.
        if (context.HandlerMethod is null && context.ActionDescriptor.HandlerMethods.Count > 0)
        {
            context.Result = new NotFoundResult();
            return;
        }
        // The page that tells of an error is shown for whatever form met it.
        if (context.HandlerInstance is OopsModel)
            return;
        if (
            HttpMethods.IsGet(context.HttpContext.Request.Method)
            || HttpMethods.IsHead(context.HttpContext.Request.Method)
            || (context.HttpContext.Request.HasFormContentType && context.ModelState.IsValid)
        )
            return;
        context.Result = new StatusCodeResult(StatusCodes.Status400BadRequest);
    }

    public void OnPageHandlerExecuted(PageHandlerExecutedContext context) { }
}
