using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Diagnostics;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Chronotype.Web.Pages.Shared;

[AllowAnonymous]
[IgnoreAntiforgeryToken]
public sealed class OopsModel : PageModel
{
    public string Heading { get; private set; } = "";
    public string Sentence { get; private set; } = "";

    // A form that met an error may have a field of this name, too.
    public IActionResult OnGet([FromQuery] int? code) => Say(code);

    public IActionResult OnPost([FromQuery] int? code) => Say(code);

    private IActionResult Say(int? code)
    {
        (Heading, Sentence) = code switch
        {
            400 => (
                "That form could not be taken",
                "Something in it cannot be read as what it must be, or it was open for too long or came from somewhere else. Nothing "
                    + "was done and nothing is lost. Go back, load the page anew, and send it again."
            ),
            403 => ("That is not yours to do", "Only the studio’s owner may do that. Nothing was changed."),
            404 => (
                "There is nothing here",
                "The address names no project, piece or file of this studio. Nothing is lost; it may have been written differently."
            ),
            null or >= 500 => (Failed.Heading, Failed.Sentence),
            _ => ("That did not work", $"The server answered {code}. Nothing was changed."),
        };
        // Programs are told in their own way.
        return Request.GetTypedHeaders().Accept?.Any(a => a.MediaType == "application/json") == true
            ? new JsonResult(new { error = Sentence }) { StatusCode = Response.StatusCode }
            : Page();
    }

    private Failure Failed => Failure.Of(HttpContext.Features.Get<IExceptionHandlerFeature>()?.Error);
}
