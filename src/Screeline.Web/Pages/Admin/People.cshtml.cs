using System.Security.Cryptography;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Admin;

/// <summary>Who may come in, and as what.</summary>
[Allow(Role.Foreman, Role.Foreman, OwnSignIn = true)]
public sealed class PeopleModel(AccountStore accounts, CurrentPerson current) : PageModel
{
    public IReadOnlyList<Account> Accounts { get; private set; } = [];

    public Dictionary<string, string> Faults { get; } = new(StringComparer.Ordinal);

    public string? Said { get; private set; }

    public string? Name { get; private set; }

    public string? Login { get; private set; }

    public string? NewRole { get; private set; }

    public Task OnGetAsync(CancellationToken cancel) => ShowAsync(cancel);

    public async Task<IActionResult> OnPostAddAsync(string? name, string? login, string? role, CancellationToken cancel)
    {
        (Name, Login, NewRole) = (name?.Trim(), login?.Trim(), role);
        var password = NewPassword();
        AccountFields.Check(Name, Login, password, Faults);
        if (!Roles.Names.Contains(role))
        {
            Faults[""] = "Choose a role.";
        }

        if (Faults.Count > 0)
        {
            return await RefusedAsync(cancel);
        }

        try
        {
            await accounts.AddAsync(new Person(Guid.NewGuid(), Name!, role!), Login!, Gatekeeper.Hash(password), null, cancel);
        }
        catch (NameTakenException)
        {
            Faults["login"] = "Somebody signs in with that already.";
            return await RefusedAsync(cancel);
        }

        Said = $"{Name} is in. First password, shown only now: {password}";
        (Name, Login) = (null, null);
        return await ShownAsync(cancel);
    }

    public Task<IActionResult> OnPostRoleAsync(Guid person, string? role, CancellationToken cancel) => OnAccountAsync(person, async account =>
    {
        if (!Roles.Names.Contains(role))
        {
            Faults[""] = "Choose a role.";
            return;
        }

        if (Changed(await accounts.SetRoleAsync(person, role!, cancel)))
        {
            Said = $"{account.Name}: {role}.";
        }
    }, cancel);

    public Task<IActionResult> OnPostEndAsync(Guid person, CancellationToken cancel) => OnAccountAsync(person, async account =>
    {
        await accounts.EndSignInsAsync(person, cancel);
        Said = $"{account.Name} is signed out everywhere.";
    }, cancel);

    public Task<IActionResult> OnPostDisableAsync(Guid person, CancellationToken cancel) => OnAccountAsync(person, async account =>
    {
        if (Changed(await accounts.SetDisabledAsync(person, true, cancel)))
        {
            Said = $"{account.Name} comes in no longer. What they did stays under their name.";
        }
    }, cancel);

    public Task<IActionResult> OnPostEnableAsync(Guid person, CancellationToken cancel) => OnAccountAsync(person, async account =>
    {
        await accounts.SetDisabledAsync(person, false, cancel);
        Said = $"{account.Name} may come in again.";
    }, cancel);

    public Task<IActionResult> OnPostResetAsync(Guid person, CancellationToken cancel) => OnAccountAsync(person, async account =>
    {
        var password = NewPassword();
        await accounts.SetPasswordAsync(person, Gatekeeper.Hash(password), cancel);
        Said = $"New password of {account.Name}, shown only now: {password}";
    }, cancel);

    private async Task<IActionResult> OnAccountAsync(Guid person, Func<Account, Task> act, CancellationToken cancel)
    {
        if ((await accounts.FindAsync([person], cancel)).SingleOrDefault() is not { } account)
        {
            return NotFound();
        }

        await act(account);
        return Faults.Count > 0 ? await RefusedAsync(cancel) : await ShownAsync(cancel);
    }

    // Somebody must be left who can let others in.
    private bool Changed(bool changed)
    {
        if (!changed)
        {
            Faults[""] = "The last foreman stays one: make somebody else a foreman first.";
        }

        return changed;
    }

    private async Task<IActionResult> RefusedAsync(CancellationToken cancel)
    {
        Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
        return await ShownAsync(cancel);
    }

    private async Task<IActionResult> ShownAsync(CancellationToken cancel)
    {
        // Whoever changed their own account would be out with their next page.
        if ((await accounts.FindAsync([current.Signed!.SignedIn.Person], cancel)).SingleOrDefault() is { DisabledAt: null } now && now.Stamp != current.Signed.SignedIn.Stamp)
        {
            await Gatekeeper.EnterAsync(HttpContext, now, now, DateTimeOffset.UtcNow);
        }

        await ShowAsync(cancel);
        return Page();
    }

    private async Task ShowAsync(CancellationToken cancel)
    {
        Accounts = await accounts.AllAsync(cancel);
        ViewData["Title"] = "People";
        ViewData["Place"] = "more";
    }

    // 16 letters and digits that nobody mistakes for one another: about 79 bits.
    private static string NewPassword() => string.Join('-', Enumerable.Range(0, 4).Select(_ => RandomNumberGenerator.GetString("abcdefghjkmnpqrstuvwxyz23456789", 4)));
}
