using Screeline.Core.Access.Planning;
using Screeline.Core.Formats;

namespace Screeline.Core.Access;

/// <summary>The checks of an access map that look across its parts: names that must exist, once, and needs that can be met.</summary>
internal static class AccessMapChecks
{
    public static void Check(AccessMap map, List<FormatFault> faults, IReadOnlyDictionary<string, IReadOnlyList<string>>? cautions)
    {
        void Fault(string path, string message) => faults.Add(new FormatFault(path, message));
        var positions = Unique(map.Positions.Select((p, i) => (p.Id, $"$.positions[{i}].id")), faults);
        var ids = Unique(
            map.Operations.Select((o, i) => (o.Id, $"$.operations[{i}].id"))
                .Concat(map.RefitSteps.Select((s, i) => (s.Id, $"$.refit_steps[{i}].id"))), faults);
        var operations = map.Operations.Select(o => o.Id).ToHashSet(StringComparer.Ordinal);
        Unique(map.Targets.Select((t, i) => (t.Id, $"$.targets[{i}].id")), faults);

        void Known(IReadOnlySet<string> known, string id, string path, string what)
        {
            if (id.Length > 0 && !known.Contains(id))
            {
                Fault(path, $"no {what} “{id}”");
            }
        }

        Known(positions, map.StartPosition, "$.start_position", "position");
        CheckMoves(map, positions, faults);
        for (var i = 0; i < map.Operations.Count; i++)
        {
            var (o, path) = (map.Operations[i], $"$.operations[{i}]");
            Known(positions, o.Position, $"{path}.position", "position");
            o.Needs.Names.Distinct().ToList().ForEach(name => Known(operations, name, $"{path}.needs", "operation"));
            (o.Close.While?.Names ?? []).Distinct().ToList().ForEach(name => Known(operations, name, $"{path}.close.while", "operation"));
            Unique(o.Fasteners.Select((f, j) => (f.Id, $"{path}.fasteners[{j}].id")), faults);
            faults.AddRange(o.Fasteners.Select((f, j) => (f, j)).Where(x => x.f.At.Count > 0 && x.f.At.Count != x.f.Count).Select(x => new FormatFault($"{path}.fasteners[{x.j}].at", $"{x.f.At.Count} places for {x.f.Count} fasteners")));
            if (o.Outline.Count is 1 or 2)
            {
                faults.Add(new FormatFault($"{path}.outline", "at least three corners"));
            }

            CheckCautions(o.Cautions, path);
            foreach (var tool in o.OrTools.Keys.Where(tool => !o.Tools.Contains(tool)))
            {
                Fault($"{path}.or_tools.{tool}", "stands in for a tool that the operation does not use");
            }
        }

        for (var i = 0; i < map.RefitSteps.Count; i++)
        {
            var (s, path) = (map.RefitSteps[i], $"$.refit_steps[{i}]");
            Known(positions, s.Position, $"{path}.position", "position");
            if (s.AppliesIf is not null)
            {
                Known(operations, s.AppliesIf, $"{path}.applies_if", "operation");
            }

            s.After.Select((id, j) => (id, $"{path}.after[{j}]")).Concat(s.Before.Select((id, j) => (id, $"{path}.before[{j}]")))
                .ToList().ForEach(x => Known(ids, x.id, x.Item2, "operation or refit step"));
            CheckCautions(s.Cautions, path);
        }

        for (var i = 0; i < map.Targets.Count; i++)
        {
            Known(operations, map.Targets[i].Operation, $"$.targets[{i}].operation", "operation");
        }

        for (var i = 0; i < map.PrintedRoute.Count; i++)
        {
            Known(operations, map.PrintedRoute[i], $"$.printed_route[{i}]", "operation");
        }

        if (map.Targets.Count == 0)
        {
            Fault("$.targets", "a map without a target leads nowhere");
        }

        CheckWhatNames(map, ids, operations, Known, Fault);

        CheckSize(map, faults);
        CheckReachable(map, faults);
        if (faults.Count == 0)
        {
            CheckSafety(map, faults, cautions);
            CheckTargets(map, faults);
            CheckLearned(map, faults);
        }

        void CheckCautions(IReadOnlyList<string> named, string path)
        {
            for (var j = 0; cautions is not null && j < named.Count; j++)
            {
                if (named[j].Length > 0 && !cautions.ContainsKey(named[j]))
                {
                    Fault($"{path}.cautions[{j}]", $"no caution “{named[j]}”");
                }
            }
        }
    }

    // What a map says of its own steps: lessons, versions, what to restore, where a failed check leads.
    private static void CheckWhatNames(AccessMap map, IReadOnlySet<string> ids, IReadOnlySet<string> operations, Action<IReadOnlySet<string>, string, string, string> known, Action<string, string> fault)
    {
        void Each<T>(IReadOnlyList<T> items, Action<T, int> check) => items.Select((item, i) => (item, i)).ToList().ForEach(x => check(x.item, x.i));
        Each(map.Lessons, (l, i) => Each(l.At, (id, j) => known(ids, id, $"$.lessons[{i}].at[{j}]", "operation or refit step")));
        map.Reaches.Where(x => x.Value is not null).ToList().ForEach(x => known(operations, x.Value!, "$.reaches", "operation"));
        Each(map.Suspects, (s, i) => known(ids, s.Step, $"$.suspects[{i}].step", "operation or refit step"));
        Each(map.Fitted?.Choices ?? [], (c, i) => Each(c.Without, (id, j) => known(operations, id, $"$.fitted.choices[{i}].without[{j}]", "operation")));
        if (map.Fitted is { Choices.Count: < 2 })
        {
            fault("$.fitted.choices", "at least two versions to choose from");
        }

        Each(map.Restores, (x, i) =>
        {
            if (x.After.Length > 0 && map.Operations.All(o => o.Id != x.After && !o.Provides.Contains(x.After)))
            {
                fault($"$.restores[{i}].after", $"no operation “{x.After}”, and none provides such a state");
            }
        });
        Each(map.Positions, (p, i) =>
        {
            if (p.Kind is { } kind && Position.UnderneathKinds.Contains(kind) && !p.Requires.Contains(Supported))
            {
                fault($"$.positions[{i}].requires", $"a place under the vehicle requires “{Supported}”");
            }
        });

        // Whatever wants power must not be left until the battery is off: every operation that isolates it comes after.
        Each(map.Operations, (o, i) =>
        {
            var isolating = map.Operations.FirstOrDefault(x => x.Provides.Contains(Isolated) && !LeansOn(map, x).Contains(o.Id));
            if (o.Live && isolating is not null)
            {
                fault($"$.operations[{i}].live", $"wants power, and “{isolating.Id}” does not wait for it");
            }

            if (o.Provides.Contains(RestraintIsolated) && o.WaitMinutes <= 0)
            {
                fault($"$.operations[{i}].wait_minutes", "restraint parts are isolated only after the maker's waiting time");
            }

            if (o.ByMotor && !o.Live)
            {
                fault($"$.operations[{i}].by_motor", "what the motor does wants power: live is missing");
            }
        });
    }

    // Every operation named in its needs, in theirs, and so on.
    private static HashSet<string> LeansOn(AccessMap map, Operation operation)
    {
        var found = new HashSet<string>(StringComparer.Ordinal);
        var open = new Stack<Operation>([operation]);
        while (open.TryPop(out var next))
        {
            foreach (var name in next.Needs.Names.Where(found.Add))
            {
                if (map.Operation(name) is { } named)
                {
                    open.Push(named);
                }
            }
        }

        return found;
    }

    /// <summary>The state of a vehicle that stands on more than a jack.</summary>
    internal const string Supported = "vehicle-supported";

    /// <summary>The state in which restraint parts can no longer fire.</summary>
    internal const string RestraintIsolated = "restraint-isolated";

    /// <summary>The state of a vehicle that cannot roll.</summary>
    internal const string Chocked = "chocked";

    /// <summary>The state of a vehicle whose battery is off.</summary>
    internal const string Isolated = "battery-isolated";

    private static void CheckSize(AccessMap map, List<FormatFault> faults)
    {
        if (map.Operations.Count + map.RefitSteps.Count > RoutePlanner.MostActions)
        {
            faults.Add(new FormatFault("$.operations", $"{map.Operations.Count} operations and {map.RefitSteps.Count} refit steps: together at most {RoutePlanner.MostActions}"));
        }

        if (map.Positions.Count > RoutePlanner.MostPositions)
        {
            faults.Add(new FormatFault("$.positions", $"{map.Positions.Count} positions: at most {RoutePlanner.MostPositions}"));
        }
    }

    // A state that makes a place or a danger safe must hold whichever way somebody came: an operation must be out of reach as
    // long as nothing that provides the state is open. What has a caution may itself be what makes it safe; nobody makes the
    // place safe in which he already stands.
    private static void CheckSafety(AccessMap map, List<FormatFault> faults, IReadOnlyDictionary<string, IReadOnlyList<string>>? cautions)
    {
        for (var i = 0; i < map.Operations.Count; i++)
        {
            var (o, path) = (map.Operations[i], $"$.operations[{i}]");
            foreach (var state in map.Positions.First(p => p.Id == o.Position).Requires.Where(state => Reach(map, x => x.Id != o.Id && x.Provides.Contains(state)).Contains(o.Id)))
            {
                faults.Add(new FormatFault($"{path}.needs", $"“{o.Position}” requires “{state}”: there is a way here on which nothing that provides it is open"));
            }

            foreach (var state in o.Cautions.SelectMany(c => cautions?.GetValueOrDefault(c) ?? []).Distinct().Where(state => Reach(map, x => x.Provides.Contains(state)).Contains(o.Id)))
            {
                faults.Add(new FormatFault($"{path}.needs", $"the caution “{o.Cautions.First(c => cautions![c].Contains(state))}” requires “{state}”: there is a way here on which nothing that provides it is open"));
            }
        }
    }

    // What a job has shown, a map that learned from it allows: a word that says otherwise is asked about and not kept.
    private static void CheckLearned(AccessMap map, List<FormatFault> faults)
    {
        for (var i = 0; i < (map.Learned?.Said.Count ?? 0); i++)
        {
            faults.AddRange(AccessMapReader.FaultsOf(map, map.Learned!.Said[i], $"$.learned.said[{i}]"));
        }

        foreach (var (job, j) in (map.Learned?.Jobs ?? []).Select((job, j) => (job.Named(), j)))
        {
            var (before, unsure) = (new HashSet<string>(StringComparer.Ordinal), job.Unordered.SelectMany(p => new[] { p.Item1, p.Item2 }).ToHashSet(StringComparer.Ordinal));
            foreach (var (id, k) in job.Opened.Select((o, k) => (o.Id, k)))
            {
                if (map.Operation(id) is not { } o)
                {
                    faults.Add(new FormatFault($"$.learned.jobs[{j}].opened[{k}]", $"“{id}” is no operation of the map"));
                }
                else if (!unsure.Contains(id) && !o.Needs.Hold(x => before.Contains(x) || map.Operation(x) is { } needed && (needed.Provides.Count > 0 || needed.Live)))
                {
                    faults.Add(new FormatFault($"$.operations[{map.Operations.ToList().FindIndex(x => x.Id == id)}].needs", $"the job of {job.On:yyyy-MM-dd} took “{o.Title}” off with less: take that job out, or let the need be"));
                }

                before.Add(id);
            }
        }
    }

    private static void CheckTargets(AccessMap map, List<FormatFault> faults)
    {
        // A map that takes long to plan is not held up here: what time leaves open is no fault.
        var budget = TimeSpan.FromMilliseconds(500.0 / Math.Max(1, map.Targets.Count));
        for (var i = 0; i < map.Targets.Count; i++)
        {
            var answer = RoutePlanner.Plan(new PlanRequest(map, map.Targets[i].Operation) { Budget = budget });
            if (answer is { Routes.Count: 0, Proven: true })
            {
                faults.Add(new FormatFault($"$.targets[{i}]", $"“{map.Targets[i].Operation}” can be reached, but no order of refitting exists: look at while, after and before"));
            }
        }
    }

    private static void CheckMoves(AccessMap map, HashSet<string> positions, List<FormatFault> faults)
    {
        var seen = new HashSet<(string, string)>();
        for (var i = 0; i < map.Moves.Count; i++)
        {
            var move = map.Moves[i];
            foreach (var (id, key) in new[] { (move.From, "from"), (move.To, "to") })
            {
                if (id.Length > 0 && !positions.Contains(id))
                {
                    faults.Add(new FormatFault($"$.moves[{i}].{key}", $"no position “{id}”"));
                }
            }

            var pair = string.CompareOrdinal(move.From, move.To) < 0 ? (move.From, move.To) : (move.To, move.From);
            if (!seen.Add(pair))
            {
                faults.Add(new FormatFault($"$.moves[{i}]", $"the pair {move.From}, {move.To} is given twice"));
            }
        }

        // A walk never gains by passing through a third place; the planner relies on it.
        var places = positions.ToList();
        foreach (var (from, to) in places.SelectMany((a, i) => places.Skip(i + 1).Select(b => (a, b))))
        {
            var direct = map.MoveMinutes(from, to);
            var through = places.Where(p => p != from && p != to).OrderBy(p => map.MoveMinutes(from, p) + map.MoveMinutes(p, to)).FirstOrDefault();
            if (through is not null && map.MoveMinutes(from, through) + map.MoveMinutes(through, to) is var around && around < direct)
            {
                faults.Add(new FormatFault("$.moves", $"{from} to {to} takes {direct} min, but {around} min through {through}"));
            }
        }
    }

    // What can ever be done: start from nothing and add all operations whose needs hold, until nothing changes. Needs have
    // no negation, so this finds everything; a cycle with another way in is no fault.
    private static void CheckReachable(AccessMap map, List<FormatFault> faults)
    {
        var done = Reach(map, _ => false);
        for (var i = 0; i < map.Operations.Count; i++)
        {
            if (!done.Contains(map.Operations[i].Id))
            {
                faults.Add(new FormatFault($"$.operations[{i}].needs", $"“{map.Operations[i].Id}” can never be done: its needs lead back to itself"));
            }
        }
    }

    private static HashSet<string> Reach(AccessMap map, Func<Operation, bool> without)
    {
        var done = new HashSet<string>(StringComparer.Ordinal);
        while (map.Operations.Where(o => !done.Contains(o.Id) && !without(o) && o.Needs.Hold(done.Contains)).Select(o => o.Id).ToList() is { Count: > 0 } next)
        {
            done.UnionWith(next);
        }

        return done;
    }

    private static HashSet<string> Unique(IEnumerable<(string Id, string Path)> named, List<FormatFault> faults)
    {
        var seen = new HashSet<string>(StringComparer.Ordinal);
        foreach (var (id, path) in named)
        {
            if (id.Length > 0 && !seen.Add(id))
            {
                faults.Add(new FormatFault(path, $"“{id}” is used twice"));
            }
        }

        return seen;
    }
}
