using System.Security.Claims;
using System.Security.Cryptography;
using System.Text.Encodings.Web;
using Microsoft.AspNetCore.Authentication;
using Microsoft.Extensions.Options;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Web.Infrastructure;

namespace Screeline.Web.SignIn;

/// <summary>Programs come in with "Authorization: Bearer …".</summary>
public sealed class TokenScheme(IOptionsMonitor<AuthenticationSchemeOptions> options, ILoggerFactory logger, UrlEncoder encoder, TokenStore tokens, AccountStore accounts, Settings settings)
    : AuthenticationHandler<AuthenticationSchemeOptions>(options, logger, encoder)
{
    /// <summary>The scheme's name, and what every token begins with so that one in a log is known for what it is.</summary>
    public const string Name = "token", Prefix = "screeline_";

    /// <summary>Who works under the token that the environment gives.</summary>
    public static Person Automation { get; } = new(Guid.Parse("5c0a0000-0000-4000-8000-0000000000a0"), "Automation", "technician");

    /// <summary>A new token.</summary>
    public static string New() => Prefix + Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(24));

    /// <inheritdoc/>
    protected override Task HandleChallengeAsync(AuthenticationProperties properties) => RecordAsync(StatusCodes.Status401Unauthorized, "That token is unknown, expired or taken back.");

    /// <inheritdoc/>
    protected override Task HandleForbiddenAsync(AuthenticationProperties properties) => RecordAsync(StatusCodes.Status403Forbidden, "That token does not allow it.");

    private Task RecordAsync(int status, string error)
    {
        Response.StatusCode = status;
        return Response.WriteAsJsonAsync(new { error });
    }

    /// <inheritdoc/>
    protected override async Task<AuthenticateResult> HandleAuthenticateAsync()
    {
        var sent = Request.Headers.Authorization.ToString();
        if (!sent.StartsWith("Bearer ", StringComparison.OrdinalIgnoreCase))
        {
            return AuthenticateResult.NoResult();
        }

        var hash = Gatekeeper.HashOf(sent["Bearer ".Length..].Trim());
        var (person, scope) = settings.ApiToken is { } given && CryptographicOperations.FixedTimeEquals(hash, Gatekeeper.HashOf(given)) ? (Automation.Id, "work")
            : await tokens.FindAsync(hash, Context.RequestAborted) is { } token ? (token.Person, token.Scope)
            : (Guid.Empty, "");
        if ((await accounts.FindAsync([person], Context.RequestAborted)).SingleOrDefault() is not { DisabledAt: null } account)
        {
            return AuthenticateResult.Fail("unknown, expired or taken back");
        }

        // A program never does what only a foreman may, and one that reads does nothing.
        var role = scope == "read" ? Role.Viewer : (Role)Math.Min((int)Roles.Parse(account.Role), (int)Role.Technician);
        Context.Features.Set(new Signed(account, account, role, false));
        return AuthenticateResult.Success(new AuthenticationTicket(new ClaimsPrincipal(new ClaimsIdentity([new Claim(Signed.Subject, account.Person.ToString())], Name)), Name));
    }
}
