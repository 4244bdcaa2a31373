using System.Globalization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Admin;

/// <summary>Tokens that programs come in with.</summary>
[Allow(Role.Foreman, Role.Foreman, OwnSignIn = true)]
public sealed class TokensModel(TokenStore tokens, AccountStore accounts, CurrentPerson current) : PageModel
{
    public IReadOnlyList<ApiToken> Tokens { get; private set; } = [];

    public IReadOnlyList<Account> People { get; private set; } = [];

    public Dictionary<string, string> Faults { get; } = new(StringComparer.Ordinal);

    public string? Made { get; private set; }

    public string? Name { get; private set; }

    public string? Days { get; private set; }

    public string NameOf(Guid person) => People.FirstOrDefault(p => p.Person == person)?.Name ?? "somebody";

    public Task OnGetAsync(CancellationToken cancel) => ShowAsync(cancel);

    public async Task<IActionResult> OnPostAddAsync(string? name, Guid person, string? scope, string? days, CancellationToken cancel)
    {
        (Name, Days) = (name?.Trim(), days?.Trim());
        if (string.IsNullOrEmpty(Name) || Name.Length > 200)
        {
            Faults["name"] = "What is it for? A few words.";
        }

        if (!int.TryParse(Days, NumberStyles.None, CultureInfo.InvariantCulture, out var until) || until is < 1 or > 365)
        {
            Faults["days"] = "A whole number from 1 to 365.";
        }

        if (Faults.Count > 0 || scope is not ("read" or "work") || (await accounts.FindAsync([person], cancel)).Count == 0)
        {
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
        }
        else
        {
            Made = TokenScheme.New();
            await tokens.AddAsync(new ApiToken(Guid.NewGuid(), Name!, person, scope, DateTimeOffset.UtcNow, DateTimeOffset.UtcNow.AddDays(until), null), Gatekeeper.HashOf(Made), current.Person!.Id, cancel);
        }

        await ShowAsync(cancel);
        return Page();
    }

    public async Task<IActionResult> OnPostRevokeAsync(Guid token, CancellationToken cancel)
    {
        await tokens.RevokeAsync(token, cancel);
        return Redirect("/admin/tokens");
    }

    private async Task ShowAsync(CancellationToken cancel)
    {
        Tokens = await tokens.AllAsync(cancel);
        People = [.. (await accounts.AllAsync(cancel)).Where(a => a.DisabledAt is null)];
        ViewData["Title"] = "Tokens for programs";
        ViewData["Place"] = "more";
    }
}
