using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Chronotype.Web.Pages.Shared;

[AllowAnonymous]
[IgnoreAntiforgeryToken]
public sealed class OopsModel : PageModel
{
    public string Heading { get; private set; } = "";
    public string Sentence { get; private set; } = "";

    public void OnGet(int? code) => Say(code);
    public void OnPost(int? code) => Say(code);

    private void Say(int? code) => (Heading, Sentence) = code switch
    {
        400 => ("That form could not be taken", "It was open for too long or came from somewhere else, so nothing was done and nothing is lost. Go back, load the page anew, and send it again."),
        403 => ("That is not yours to do", "Only the studio’s owner may do that. Nothing was changed."),
        404 => ("There is nothing here", "The address names no project, piece or file of this studio. Nothing is lost; it may have been written differently."),
        null or >= 500 => ("Something went wrong here", "It was written to the log. What was stored before is untouched; if you were sending a file, look whether it arrived before you send it again."),
        _ => ("That did not work", $"The server answered {code}. Nothing was changed."),
    };
}
