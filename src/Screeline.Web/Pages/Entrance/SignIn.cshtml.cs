using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Entrance;

/// <summary>Name and password.</summary>
[AllowAnonymous]
public sealed class SignInModel(Gatekeeper gatekeeper, Settings settings, Metrics metrics) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public string? Back { get; set; }

    public bool Demo => settings.Demo;

    public string? Login { get; private set; }

    public string? Fault { get; private set; }

    public async Task<IActionResult> OnGetAsync(CancellationToken cancel)
    {
        ViewData["Title"] = "Sign in";
        return await gatekeeper.IsNewAsync(cancel) ? Redirect("/setup") : Page();
    }

    public async Task<IActionResult> OnPostAsync(string? login, string? password, CancellationToken cancel)
    {
        ViewData["Title"] = "Sign in";
        Login = login?.Trim();
        if (string.IsNullOrEmpty(Login) || string.IsNullOrEmpty(password) || Login.Length > 100 || password.Length > Gatekeeper.LongestPassword)
        {
            return Refused("Name and password, both.");
        }

        var (account, reason) = await gatekeeper.PasswordAsync(Login, password, HttpContext.Connection.RemoteIpAddress?.ToString() ?? "", cancel);
        metrics.SignIn(account is not null);
        if (account is null)
        {
            return Refused(reason!);
        }

        await Gatekeeper.EnterAsync(HttpContext, account, account, DateTimeOffset.UtcNow);
        return Redirect(Url.IsLocalUrl(Back) ? Back! : "/");
    }

    private PageResult Refused(string reason)
    {
        Fault = reason;
        Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
        return Page();
    }
}
