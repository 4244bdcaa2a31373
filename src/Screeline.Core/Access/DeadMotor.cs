namespace Screeline.Core.Access;

/// <summary>Which operations fall away because the motor on trial runs or does not.</summary>
public static class DeadMotor
{
    /// <summary>
    /// Operations that are not to be planned: with a dead motor those it would have to do; with one that runs those that stand
    /// in for it, which are the other choices beside it wherever something needs the one or the other.
    /// </summary>
    public static IReadOnlySet<string> LeavesOut(AccessMap map, bool dead)
    {
        var byMotor = map.Operations.Where(o => o.ByMotor).Select(o => o.Id).ToHashSet(StringComparer.Ordinal);
        return dead ? byMotor : StandIns(map, byMotor);
    }

    private static HashSet<string> StandIns(AccessMap map, HashSet<string> byMotor)
    {
        var found = new HashSet<string>(StringComparer.Ordinal);
        void Look(Needs needs)
        {
            switch (needs)
            {
                case Needs.Any any when any.Of.OfType<Needs.One>().Any(n => byMotor.Contains(n.Operation)):
                    found.UnionWith(any.Of.OfType<Needs.One>().Select(n => n.Operation).Where(id => !byMotor.Contains(id)));
                    break;
                case Needs.Any any:
                    any.Of.ToList().ForEach(Look);
                    break;
                case Needs.All all:
                    all.Of.ToList().ForEach(Look);
                    break;
            }
        }

        map.Operations.ToList().ForEach(o => Look(o.Needs));
        return found;
    }
}

/// <summary>What is done while the vehicle still has its power.</summary>
/// <param name="Operation">The operation.</param>
/// <param name="Unpowered">How without power, or null.</param>
public sealed record WhileLive(Operation Operation, string? Unpowered)
{
    /// <summary>The operations of a way that want power, in their order.</summary>
    public static IReadOnlyList<WhileLive> InWay(AccessMap map, IEnumerable<string> removal) =>
        [.. removal.Select(id => map.Operation(id)).OfType<Operation>().Where(o => o.Live).Select(o => new WhileLive(o, o.Unpowered))];
}
