namespace Screeline.Core.Access;

/// <summary>What changed from one version of a map to the next, in words.</summary>
public static class MapDifference
{
    /// <summary>One line for each change; empty when nothing changed that people work by.</summary>
    public static IReadOnlyList<string> Between(AccessMap before, AccessMap after)
    {
        var lines = new List<string>();
        void Changed(string what, string was, string now)
        {
            if (was != now)
            {
                lines.Add($"{what}: {(was.Length == 0 ? "nothing" : was)}, now {(now.Length == 0 ? "nothing" : now)}");
            }
        }

        static string Range(Minutes m) => $"{m.Low:0.#} to {m.High:0.#} min, likely {m.Likely:0.#}";
        string Words(AccessMap map, Needs needs) => NeedsText.Sentence(needs, id => map.Operation(id)?.DoneWords ?? id);
        string Steps(AccessMap map, IReadOnlyList<string> ids) => string.Join(", ", ids.Select(id => map.Step(id)?.Title ?? map.Operation(id)?.DoneWords ?? id).Order(StringComparer.Ordinal));
        static string Holds(Operation o) => string.Join(", ", o.Fasteners.Select(f => $"{f.Words(f.Count)}{(f.Drive is null ? "" : $" {f.Drive}")}{(f.Torque is null ? "" : $" {f.Torque.Value}")}"));
        Changed("Name", before.Title, after.Title);
        Changed("Vehicles", Vehicles(before), Vehicles(after));
        lines.AddRange(after.Operations.Where(o => before.Operation(o.Id) is null).Select(o => $"New: {o.Title}"));
        lines.AddRange(before.Operations.Where(o => after.Operation(o.Id) is null).Select(o => $"Gone: {o.Title}"));
        foreach (var (was, now) in before.Operations.Select(o => (o, after.Operation(o.Id))).Where(x => x.Item2 is not null).Select(x => (x.o, x.Item2!)))
        {
            Changed("Called", was.Title, now.Title);
            Changed($"{now.Title}, comes off after", Words(before, was.Needs), Words(after, now.Needs));
            Changed($"{now.Title}, goes back while off", was.Close.While is null ? "as it came off" : Words(before, was.Close.While), now.Close.While is null ? "as it came off" : Words(after, now.Close.While));
            Changed($"{now.Title}, minutes", Range(was.Minutes), Range(now.Minutes));
            Changed($"{now.Title}, minutes back", Range(was.CloseMinutes), Range(now.CloseMinutes));
            Changed($"{now.Title}, from", before.PositionTitle(was.Position), after.PositionTitle(now.Position));
            Changed($"{now.Title}, held by", Holds(was), Holds(now));
            Changed($"{now.Title}, cautions", string.Join(", ", was.Cautions), string.Join(", ", now.Cautions));
            Changed($"{now.Title}, tools", string.Join(", ", was.Tools), string.Join(", ", now.Tools));
        }

        lines.AddRange(after.RefitSteps.Where(s => before.Step(s.Id) is null).Select(s => $"New on the way back: {s.Title}"));
        lines.AddRange(before.RefitSteps.Where(s => after.Step(s.Id) is null).Select(s => $"Gone from the way back: {s.Title}"));
        foreach (var (was, now) in before.RefitSteps.Select(s => (s, after.Step(s.Id))).Where(x => x.Item2 is not null).Select(x => (x.s, x.Item2!)))
        {
            Changed("Called", was.Title, now.Title);
            Changed($"{now.Title}, after", Steps(before, was.After), Steps(after, now.After));
            Changed($"{now.Title}, before", Steps(before, was.Before), Steps(after, now.Before));
            Changed($"{now.Title}, because of", was.AppliesIf is { } a ? Steps(before, [a]) : "", now.AppliesIf is { } b ? Steps(after, [b]) : "");
            Changed($"{now.Title}, a gate", was.Gate ? "yes" : "no", now.Gate ? "yes" : "no");
        }

        Changed("Learned from", Jobs(before), Jobs(after));
        return lines;
    }

    private static string Vehicles(AccessMap map) => string.Join("; ", map.AppliesTo.Select(a => $"{a.Model}{(a.Version is null ? "" : $", {a.Version}")} ({a.Certainty.Replace('-', ' ')})"));

    private static string Jobs(AccessMap map) => map.Learned?.Jobs.Count switch { null or 0 => "", 1 => "1 job", var n => $"{n} jobs" };
}
