using System.Security.Claims;
using Screeline.Core.People;
using Screeline.Data;

namespace Screeline.Web.SignIn;

/// <summary>Who sends a request: whose sign-in it is, and who works under it now.</summary>
/// <param name="SignedIn">Whose password or token opened it; stands as "sent by" on entries.</param>
/// <param name="Worker">Who works now: the same, or who switched to this device by a PIN; stands as "who" on entries.</param>
/// <param name="Role">What they may do.</param>
/// <param name="Own">Whether the worker came in by their own password.</param>
public sealed record Signed(Account SignedIn, Account Worker, Role Role, bool Own)
{
    /// <summary>Claims of the cookie.</summary>
    public const string Subject = "sub", Stamp = "stamp", Who = "who", WhoStamp = "who-stamp", Since = "since";

    /// <summary>How long a sign-in lasts: a shift.</summary>
    public static TimeSpan Shift { get; } = TimeSpan.FromHours(12);

    /// <summary>Of this request; null while nobody is in.</summary>
    public static Signed? InRequest(HttpContext context) => context.Features.Get<Signed>();

    /// <summary>By password: the worker is who signed in.</summary>
    public static ClaimsPrincipal Principal(Account account, DateTimeOffset since) => Principal(account, account, since);

    /// <summary>A worker under somebody's sign-in.</summary>
    public static ClaimsPrincipal Principal(Account signedIn, Account worker, DateTimeOffset since) => new(new ClaimsIdentity(
    [
        new Claim(Subject, signedIn.Person.ToString()),
        new Claim(Stamp, signedIn.Stamp.ToString()),
        new Claim(Who, worker.Person.ToString()),
        new Claim(WhoStamp, worker.Stamp.ToString()),
        new Claim(Since, since.ToUnixTimeSeconds().ToString(System.Globalization.CultureInfo.InvariantCulture)),
    ], "cookie", Subject, null));

    /// <summary>Reads a cookie's claims against the accounts as they are now; null when it no longer holds.</summary>
    public static async Task<Signed?> ReadAsync(ClaimsPrincipal principal, AccountStore accounts, DateTimeOffset now, CancellationToken cancel)
    {
        if (!Guid.TryParse(principal.FindFirstValue(Subject), out var subject) || !Guid.TryParse(principal.FindFirstValue(Who), out var who)
            || !long.TryParse(principal.FindFirstValue(Since), System.Globalization.CultureInfo.InvariantCulture, out var since) || now - DateTimeOffset.FromUnixTimeSeconds(since) > Shift)
        {
            return null;
        }

        var found = await accounts.FindAsync([subject, who], cancel);
        Account? Holds(Guid person, string stamp) =>
            found.FirstOrDefault(a => a.Person == person && a.DisabledAt is null && a.Stamp.ToString() == principal.FindFirstValue(stamp));
        return Holds(subject, Stamp) is { } signedIn && Holds(who, WhoStamp) is { } worker ? new Signed(signedIn, worker, RoleOf(signedIn, worker), subject == who) : null;
    }

    // A PIN is short: it never opens what only a foreman may.
    private static Role RoleOf(Account signedIn, Account worker)
    {
        var role = Roles.Parse(worker.Role);
        return signedIn.Person == worker.Person || role < Role.Foreman ? role : Role.Technician;
    }
}
