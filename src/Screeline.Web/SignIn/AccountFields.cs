namespace Screeline.Web.SignIn;

/// <summary>What a new account is told in, checked.</summary>
public static class AccountFields
{
    /// <summary>Puts a fault beside every field that is not right.</summary>
    public static void Check(string? name, string? login, string? password, Dictionary<string, string> faults)
    {
        if (string.IsNullOrEmpty(name) || name.Length > 200)
        {
            faults["name"] = "A name is wanted: it stands beside everything kept.";
        }

        if (string.IsNullOrEmpty(login) || login.Length > 100 || login.Any(c => char.IsWhiteSpace(c) || char.IsControl(c)))
        {
            faults["login"] = "One word to sign in with.";
        }
        else if (Gatekeeper.Wrong(password, login) is { } wrong)
        {
            faults["password"] = wrong;
        }
    }
}
