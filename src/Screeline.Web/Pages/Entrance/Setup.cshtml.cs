using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Entrance;

/// <summary>The first start: who is the foreman. Only while nobody has an account, and only with the code from where the server was started.</summary>
[AllowAnonymous]
public sealed class SetupModel(Gatekeeper gatekeeper) : PageModel
{
    public Dictionary<string, string> Faults { get; } = new(StringComparer.Ordinal);

    public string? Code { get; private set; }

    public string? Name { get; private set; }

    public string? Login { get; private set; }

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel)
    {
        ViewData["Title"] = "The first foreman";
        return await gatekeeper.IsNewAsync(cancel) ? Page() : Redirect("/sign-in");
    }

    public async Task<IActionResult> OnPostAsync(string? code, string? name, string? login, string? password, CancellationToken cancel)
    {
        ViewData["Title"] = "The first foreman";
        if (!await gatekeeper.IsNewAsync(cancel))
        {
            return Redirect("/sign-in");
        }

        (Code, Name, Login) = (code?.Trim(), name?.Trim(), login?.Trim());
        AccountFields.Check(Name, Login, password, Faults);
        if (string.IsNullOrEmpty(Code))
        {
            Faults["code"] = "The code is wanted.";
        }

        if (Faults.Count == 0)
        {
            var (account, reason) = await gatekeeper.SetUpAsync(Code!, Name!, Login!, password!, HttpContext.Connection.RemoteIpAddress?.ToString() ?? "", cancel);
            if (account is not null)
            {
                await Gatekeeper.EnterAsync(HttpContext, account, account, DateTimeOffset.UtcNow);
                return Redirect("/");
            }

            Faults["code"] = reason!;
        }

        Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
        return Page();
    }
}
