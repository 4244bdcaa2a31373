using Screeline.Core.Jobs;

namespace Screeline.Core.People;

/// <summary>What somebody may do here, from least to most.</summary>
public enum Role
{
    /// <summary>Looks, and changes nothing.</summary>
    Viewer,
    /// <summary>Works at the vehicle; what others' safety hangs on is looked at by a second person.</summary>
    Apprentice,
    /// <summary>Works alone and hands back.</summary>
    Technician,
    /// <summary>Besides: people, tokens, the trail.</summary>
    Foreman,
}

/// <summary>Roles by their names, and what each may say in a job.</summary>
public static class Roles
{
    /// <summary>Names as they are stored and shown, from least to most.</summary>
    public static IReadOnlyList<string> Names { get; } = ["viewer", "apprentice", "technician", "foreman"];

    /// <summary>A role's name.</summary>
    public static string Name(this Role role) => Names[(int)role];

    /// <summary>The role of a name; the least one for a name that is not known, so that a slip never gives more.</summary>
    public static Role Parse(string? name) => (Role)Math.Max(0, Names.ToList().IndexOf(name ?? ""));

    /// <summary>Why somebody of a role may not say this, in words; null when they may. A correction needs the rights of what it puts, a
    /// withdrawal those of what it takes back.</summary>
    /// <param name="role">The role; where one person pressed and another sends, the lesser of both.</param>
    /// <param name="payload">What is said.</param>
    /// <param name="job">The job before the entry.</param>
    public static string? Refuses(Role role, Payload payload, Job job)
    {
        if (role == Role.Viewer)
        {
            return "A viewer looks and changes nothing.";
        }

        Payload?[] said = [payload, payload.Content(job), payload is EntryWithdrawn w ? job.Find(w.Entry)?.Payload : null];
        return said.OfType<Payload>().Select(EntryKinds.ForPayload).FirstOrDefault(kind => role < kind.By)?.Otherwise;
    }

    /// <summary>The lesser of two roles.</summary>
    public static Role Lesser(Role one, Role other) => one < other ? one : other;
}
