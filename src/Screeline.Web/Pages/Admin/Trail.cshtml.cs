using Microsoft.AspNetCore.Mvc.RazorPages;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Admin;

/// <summary>Whether the record is whole.</summary>
[Allow(Role.Foreman, Role.Foreman, OwnSignIn = true)]
public sealed class TrailModel(TrailStore trail) : PageModel
{
    private const int FewestDigits = 8;

    public TrailReport? Report { get; private set; }

    public IReadOnlyList<HeadFound>? Found { get; private set; }

    public IReadOnlyList<HeadOutput> Told { get; private set; } = [];

    public string? Head { get; private set; }

    public string? Fault { get; private set; }

    public async Task OnGetAsync(string? head, CancellationToken cancel)
    {
        Head = head?.Trim().ToLowerInvariant();
        if (!string.IsNullOrEmpty(Head))
        {
            var bad = Head.Length is < FewestDigits or > 64 || Head.Any(c => !char.IsAsciiHexDigitLower(c));
            Fault = bad ? $"At least {FewestDigits} of the digits 0 to 9 and a to f." : null;
            Response.StatusCode = bad ? StatusCodes.Status422UnprocessableEntity : StatusCodes.Status200OK;
            Found = bad ? null : await trail.FindAsync(Head, cancel);
        }

        await ShowAsync(cancel);
    }

    public async Task OnPostCheckAsync(CancellationToken cancel)
    {
        Report = await trail.CheckAsync(cancel);
        await ShowAsync(cancel);
    }

    private async Task ShowAsync(CancellationToken cancel)
    {
        Told = await trail.ToldAsync(20, cancel);
        ViewData["Title"] = "Trail";
        ViewData["Place"] = "more";
    }
}
