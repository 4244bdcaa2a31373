using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Entrance;

/// <summary>One's own password and PIN. Whoever was switched to by a PIN proves the password first.</summary>
[Allow(Role.Viewer, Role.Viewer)]
public sealed class AccountModel(Gatekeeper gatekeeper, AccountStore accounts, CurrentPerson current) : PageModel
{
    public Account Mine => current.Signed!.Worker;

    public Dictionary<string, string> Faults { get; } = new(StringComparer.Ordinal);

    public string? Said { get; private set; }

    public void OnGet() => ViewData["Title"] = "My account";

    public async Task<IActionResult> OnPostPasswordAsync(string? old, string? password, CancellationToken cancel)
    {
        if (await KnowsAsync(old, cancel))
        {
            if (Gatekeeper.Wrong(password, Mine.Login) is { } wrong)
            {
                Faults["password"] = wrong;
            }
            else
            {
                await accounts.SetPasswordAsync(Mine.Person, Gatekeeper.Hash(password!), cancel);
                return await StayAsync("The password is changed; other devices are signed out.", cancel);
            }
        }

        return Refused();
    }

    public async Task<IActionResult> OnPostPinAsync(string? pin, string? old, CancellationToken cancel)
    {
        if (await KnowsAsync(old, cancel))
        {
            if (!string.IsNullOrEmpty(pin) && Gatekeeper.WrongPin(pin) is { } wrong)
            {
                Faults["pin"] = wrong;
            }
            else
            {
                await accounts.SetPinAsync(Mine.Person, string.IsNullOrEmpty(pin) ? null : Gatekeeper.Hash(pin), cancel);
                return await StayAsync(string.IsNullOrEmpty(pin) ? "No PIN any more." : "The PIN is kept.", cancel);
            }
        }

        return Refused();
    }

    public async Task<IActionResult> OnPostEverywhereAsync(CancellationToken cancel)
    {
        await accounts.EndSignInsAsync(Mine.Person, cancel);
        await HttpContext.SignOutAsync();
        return Redirect("/sign-in");
    }

    private async Task<bool> KnowsAsync(string? old, CancellationToken cancel)
    {
        ViewData["Title"] = "My account";
        var (account, reason) = await gatekeeper.PasswordAsync(Mine.Login, old ?? "", HttpContext.Connection.RemoteIpAddress?.ToString() ?? "", cancel);
        if (account is null)
        {
            Faults["old"] = reason!;
        }

        return account is not null;
    }

    // Who proved the password stays in, by a sign-in of their own.
    private async Task<IActionResult> StayAsync(string said, CancellationToken cancel)
    {
        var now = (await accounts.FindAsync([Mine.Person], cancel)).Single();
        await Gatekeeper.EnterAsync(HttpContext, now, now, DateTimeOffset.UtcNow);
        Said = said;
        return Page();
    }

    private PageResult Refused()
    {
        Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
        return Page();
    }
}
