using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.Cookies;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.Identity;
using Screeline.Core.Jobs;
using Screeline.Data;

namespace Screeline.Web.SignIn;

/// <summary>What came of a try to come in.</summary>
/// <param name="Account">Who it is; null when it was not right.</param>
/// <param name="Reason">Why not, in words.</param>
public sealed record Try(Account? Account, string? Reason);

/// <summary>Lets people in: passwords, PINs, first set-up, and the tickets that tell who pressed.</summary>
public sealed class Gatekeeper(AccountStore accounts, TryStore tries, SetupStore setup, IDataProtectionProvider protection)
{
    /// <summary>Failures before an account, a PIN or an address is locked for a while.</summary>
    public const int AccountTries = 5, AddressTries = 20;

    /// <summary>A password has at least as many characters; longer beats odd (OWASP ASVS 2.1.1 asks for twelve).</summary>
    public const int ShortestPassword = 12, LongestPassword = 128;

    // PBKDF2 with HMAC-SHA512 and 100,000 rounds as the framework does it; a PIN's hash is only as good as the lock on its tries.
    private static readonly PasswordHasher<Account> Hasher = new();
    private static readonly string Nobody = Hasher.HashPassword(null!, "nobody's password");
    private readonly ITimeLimitedDataProtector _tickets = protection.CreateProtector("screeline.who-pressed.2").ToTimeLimitedDataProtector();
    private readonly ITimeLimitedDataProtector _earlierTickets = protection.CreateProtector("screeline.who-pressed").ToTimeLimitedDataProtector();

    /// <summary>A password's or PIN's hash.</summary>
    public static string Hash(string secret) => Hasher.HashPassword(null!, secret);

    /// <summary>What is wrong with a new password, or null.</summary>
    public static string? Wrong(string? password, string login) =>
        password is null || password.Length < ShortestPassword ? $"At least {ShortestPassword} characters: a few words are easier to keep than odd signs."
        : password.Length > LongestPassword ? $"At most {LongestPassword} characters."
        : password.Contains(login, StringComparison.OrdinalIgnoreCase) ? "Not with the name in it."
        : password.Distinct().Count() < 5 ? "Too few different characters."
        : null;

    /// <summary>What is wrong with a new PIN, or null.</summary>
    public static string? WrongPin(string? pin) =>
        pin is null || pin.Length is < 4 or > 8 || pin.Any(c => !char.IsAsciiDigit(c)) ? "4 to 8 digits."
        : pin.Distinct().Count() == 1 || "0123456789".Contains(pin, StringComparison.Ordinal) || "9876543210".Contains(pin, StringComparison.Ordinal) ? "Too easy to guess."
        : null;

    /// <summary>Looks at a name and a password.</summary>
    public async Task<Try> PasswordAsync(string login, string password, string address, CancellationToken cancel = default)
    {
        var name = await accounts.NormalAsync(login, cancel);
        var what = $"account {name[..Math.Min(190, name.Length)]}";
        if (await tries.CountAsync($"address {address}", AddressTries, cancel) is { } far)
        {
            return Locked(far);
        }

        if (await tries.CountAsync(what, AccountTries, cancel) is { } until)
        {
            return Locked(until);
        }

        var account = await accounts.FindAsync(login, cancel);
        // The same work for a name that is not there: the time it takes tells nothing.
        var right = Hasher.VerifyHashedPassword(null!, account?.PasswordHash ?? Nobody, password) != PasswordVerificationResult.Failed;
        if (!right || account?.PasswordHash is null || account.DisabledAt is not null)
        {
            return new Try(null, "Name or password is not right.");
        }

        await tries.ClearAsync(what, cancel);
        // One's own success says nothing of the others at this address.
        await tries.TakeBackAsync($"address {address}", cancel);
        return new Try(account, null);
    }

    /// <summary>Looks at a person's PIN.</summary>
    public async Task<Try> PinAsync(Guid person, string pin, CancellationToken cancel = default)
    {
        var account = (await accounts.FindAsync([person], cancel)).SingleOrDefault();
        if (account?.PinHash is null || account.DisabledAt is not null)
        {
            return new Try(null, "No PIN is set. Sign in with the password and set one.");
        }

        if (await tries.CountAsync($"pin {person}", AccountTries, cancel) is { } until)
        {
            return Locked(until);
        }

        if (Hasher.VerifyHashedPassword(null!, account.PinHash, pin) == PasswordVerificationResult.Failed)
        {
            return new Try(null, "That PIN is not right.");
        }

        await tries.ClearAsync($"pin {person}", cancel);
        return new Try(account, null);
    }

    /// <summary>Whether the first foreman is still to be entered.</summary>
    public async Task<bool> IsNewAsync(CancellationToken cancel = default) => !await accounts.AnyAsync(cancel);

    /// <summary>Enters the first foreman, for whoever has the code that was printed where the server was started.</summary>
    public async Task<Try> SetUpAsync(string code, string name, string login, string password, string address, CancellationToken cancel = default)
    {
        if (await tries.CountAsync($"address {address}", AddressTries, cancel) is { } until)
        {
            return Locked(until);
        }

        if (await accounts.AnyAsync(cancel) || !await setup.UseAsync(HashOf(code.Trim().ToUpperInvariant()), cancel))
        {
            return new Try(null, "That code is not right. It is printed where the server was started.");
        }

        var person = new Person(Guid.NewGuid(), name, "foreman");
        await accounts.AddAsync(person, login, Hash(password), null, cancel);
        return new Try(await accounts.FindAsync(login, cancel), null);
    }

    /// <summary>A new code for the first foreman; any before it no longer works.</summary>
    public static async Task<string> NewCodeAsync(SetupStore setup, CancellationToken cancel = default)
    {
        var code = $"{RandomNumberGenerator.GetString("ABCDEFGHJKLMNPQRSTUVWXYZ23456789", 5)}-{RandomNumberGenerator.GetString("ABCDEFGHJKLMNPQRSTUVWXYZ23456789", 5)}";
        await setup.SetAsync(HashOf(code), cancel);
        return code;
    }

    /// <summary>How long a form may wait on a device and still tell who pressed it.</summary>
    public static TimeSpan TicketLife { get; } = TimeSpan.FromSeconds(JobFile.MostWaitedSeconds);

    /// <summary>Who is at work here now, sealed for the forms of a job's page on a device: a form sent later, under another sign-in, still tells who pressed.</summary>
    public string Ticket(Guid person, Guid job, string device) => _tickets.Protect(string.Create(CultureInfo.InvariantCulture, $"{person} {job} {device} {DateTimeOffset.UtcNow.ToUnixTimeSeconds()}"), TicketLife);

    /// <summary>
    /// Who pressed, and when their page was made; null when the ticket is not ours, too old, of another job or device, or of somebody who may come in no longer.
    /// </summary>
    public async Task<(Guid Person, DateTimeOffset PageMade)?> WhoPressedAsync(string ticket, Guid job, string device, CancellationToken cancel)
    {
        try
        {
            if (ticket.Length is 0 or > 2000 || Unseal(ticket) is not { } seal || (seal.Job, seal.Device) is not (null, null) && (seal.Job != job || seal.Device != device))
            {
                return null;
            }

            return (await accounts.FindAsync([seal.Person], cancel)).Any(a => a.DisabledAt is null) ? (seal.Person, seal.PageMade) : null;
        }
        catch (CryptographicException)
        {
            return null;
        }
    }

    private (Guid Person, Guid? Job, string? Device, DateTimeOffset PageMade)? Unseal(string ticket)
    {
        try
        {
            return _tickets.Unprotect(ticket).Split(' ') is [var who, var job, var device, var made]
                ? (Guid.Parse(who), Guid.Parse(job), device, DateTimeOffset.FromUnixTimeSeconds(long.Parse(made, CultureInfo.InvariantCulture))) : null;
        }
        catch (CryptographicException)
        {
            // What waits on a device since before tickets named a job. They were sealed for a week and nobody makes any more.
            return Guid.TryParse(_earlierTickets.Unprotect(ticket), out var person) ? (person, null, null, DateTimeOffset.UtcNow) : null;
        }
    }

    /// <summary>Signs a browser in for a shift.</summary>
    public static Task EnterAsync(HttpContext context, Account signedIn, Account worker, DateTimeOffset since) =>
        context.SignInAsync(CookieAuthenticationDefaults.AuthenticationScheme, Signed.Principal(signedIn, worker, since), new AuthenticationProperties { IsPersistent = true, IssuedUtc = since, ExpiresUtc = since + Signed.Shift });

    /// <summary>SHA-256 of a secret that is long and random; what is short is hashed slowly instead.</summary>
    public static byte[] HashOf(string secret) => SHA256.HashData(Encoding.UTF8.GetBytes(secret));

    private static Try Locked(DateTimeOffset until) => new(null, $"Too many tries. Again at {until.ToLocalTime():HH:mm:ss}.");
}
