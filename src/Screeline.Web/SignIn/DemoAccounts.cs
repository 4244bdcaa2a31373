using Screeline.Data;
using Screeline.Library.Demo;

namespace Screeline.Web.SignIn;

/// <summary>Accounts of the made-up people. They exist only in a database that holds the demo.</summary>
public static class DemoAccounts
{
    /// <summary>The password of them all; it stands on the sign-in page.</summary>
    public const string Password = "low water at six";

    /// <summary>Who they are.</summary>
    public static IReadOnlyList<(string Login, string Pin, string Role)> All { get; } = [.. DemoFleet.Load().People.Select((p, i) => (LoginOf(p.Name), $"{4071 + (i * 1115)}", p.Role))];

    /// <summary>Enters them.</summary>
    public static async Task AddAsync(AccountStore accounts)
    {
        var password = Gatekeeper.Hash(Password);
        foreach (var (p, sample) in DemoFleet.Load().People.Zip(All))
        {
            await accounts.AddAsync(new Person(p.Id, p.Name, p.Role), sample.Login, password, Gatekeeper.Hash(sample.Pin));
        }
    }

    private static string LoginOf(string name) => name.Split(' ')[0].ToLowerInvariant();
}
