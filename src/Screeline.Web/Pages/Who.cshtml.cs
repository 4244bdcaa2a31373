using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages;

/// <summary>Who works on this device: every entry names a person. A shared tablet goes from hand to hand by PIN within the shift of its sign-in.</summary>
[Allow(Role.Viewer, Role.Viewer)]
public sealed class WhoModel(AccountStore accounts, CurrentPerson current) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public string? Back { get; set; }

    public IReadOnlyList<Account> People { get; private set; } = [];

    public Signed Signed => current.Signed!;

    /// <summary>When the sign-in ends.</summary>
    public DateTimeOffset Until => Since.ToLocalTime() + Signed.Shift;

    /// <summary>Whose PIN was asked for, after one that was not right.</summary>
    public Guid? Asked { get; private set; }

    public string? Fault { get; private set; }

    private DateTimeOffset Since => DateTimeOffset.FromUnixTimeSeconds(long.Parse(User.FindFirst(Signed.Since)?.Value ?? "0", System.Globalization.CultureInfo.InvariantCulture));

    public Task OnGetAsync(CancellationToken cancel) => PrepareAsync(cancel);

    public async Task<IActionResult> OnPostSwitchAsync(Guid person, string? pin, CancellationToken cancel)
    {
        var (account, reason) = await current.Gatekeeper.PinAsync(person, pin ?? "", cancel);
        if (account is null)
        {
            (Fault, Asked, Response.StatusCode) = (reason, person, StatusCodes.Status422UnprocessableEntity);
            await PrepareAsync(cancel);
            return Page();
        }

        await Gatekeeper.EnterAsync(HttpContext, Signed.SignedIn, account, Since);
        return Redirect(Url.IsLocalUrl(Back) ? Back! : "/");
    }

    public async Task<IActionResult> OnPostOutAsync()
    {
        await HttpContext.SignOutAsync();
        return Redirect("/sign-in");
    }

    private async Task PrepareAsync(CancellationToken cancel)
    {
        People = [.. (await accounts.AllAsync(cancel)).Where(a => a.DisabledAt is null && a.Person != TokenScheme.Automation.Id)];
        ViewData["Title"] = "Who works here now?";
    }
}
