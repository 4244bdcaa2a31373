namespace Screeline.Core.Access.Planning;

/// <summary>
/// Needs over numbered actions: all (or any) of some numbers and of nested conditions of the other kind. Without negation, so
/// what holds of a set holds of every larger one.
/// </summary>
internal sealed class Condition
{
    public static readonly Condition True = new(true, default, []);
    public static readonly Condition False = new(false, default, []);

    private Condition(bool isAll, Bits ones, Condition[] parts) => (IsAll, Ones, Parts) = (isAll, ones, parts);

    public bool IsAll { get; }
    public Bits Ones { get; }
    public Condition[] Parts { get; }

    /// <summary>Every number named anywhere inside.</summary>
    public Bits Names => Parts.Aggregate(Ones, (names, part) => names | part.Names);

    public static Condition Of(Needs needs, IReadOnlyDictionary<string, int> index) => needs switch
    {
        Needs.One one => AllOf(Bits.Of(index[one.Operation]), []),
        Needs.All all => AllOf(default, all.Of.Select(n => Of(n, index))),
        _ => AnyOf(default, ((Needs.Any)needs).Of.Select(n => Of(n, index))),
    };

    public static Condition AllOf(Bits ones, IEnumerable<Condition> parts)
    {
        var kept = new List<Condition>();
        foreach (var part in parts)
        {
            if (part.IsAll)
            {
                ones |= part.Ones;
                kept.AddRange(part.Parts);
            }
            else if (part.Parts.Length == 0 && part.Ones.Count <= 1)
            {
                if (part.Ones.IsEmpty)
                {
                    return False;
                }

                ones |= part.Ones;
            }
            else
            {
                kept.Add(part);
            }
        }

        return ones.IsEmpty && kept.Count == 0 ? True : ones.IsEmpty && kept.Count == 1 ? kept[0] : new Condition(true, ones, [.. kept]);
    }

    public static Condition AnyOf(Bits ones, IEnumerable<Condition> parts)
    {
        var kept = new List<Condition>();
        foreach (var part in parts)
        {
            if (!part.IsAll)
            {
                ones |= part.Ones;
                kept.AddRange(part.Parts);
            }
            else if (part.Parts.Length == 0 && part.Ones.Count <= 1)
            {
                if (part.Ones.IsEmpty)
                {
                    return True;
                }

                ones |= part.Ones;
            }
            else
            {
                kept.Add(part);
            }
        }

        return ones.IsEmpty && kept.Count == 0 ? False
            : kept.Count == 0 && ones.Count == 1 ? new Condition(true, ones, [])
            : ones.IsEmpty && kept.Count == 1 ? kept[0]
            : new Condition(false, ones, [.. kept]);
    }

    public bool Holds(in Bits set)
    {
        if (IsAll)
        {
            if (!set.Holds(Ones))
            {
                return false;
            }

            foreach (var part in Parts)
            {
                if (!part.Holds(set))
                {
                    return false;
                }
            }

            return true;
        }

        if (set.Meets(Ones))
        {
            return true;
        }

        foreach (var part in Parts)
        {
            if (part.Holds(set))
            {
                return true;
            }
        }

        return false;
    }

    /// <summary>What is left to ask when some numbers are true for certain and all outside another set are false for certain.</summary>
    public Condition Given(in Bits truth, in Bits possible)
    {
        if (IsAll)
        {
            var ones = Ones.Minus(truth);
            if (!possible.Holds(ones))
            {
                return False;
            }

            if (Parts.Length == 0)
            {
                return ones == Ones ? this : AllOf(ones, []);
            }

            var parts = new Condition[Parts.Length];
            for (var i = 0; i < parts.Length; i++)
            {
                parts[i] = Parts[i].Given(truth, possible);
            }

            return AllOf(ones, parts);
        }

        if (Ones.Meets(truth))
        {
            return True;
        }

        var left = new Condition[Parts.Length];
        for (var i = 0; i < left.Length; i++)
        {
            left[i] = Parts[i].Given(truth, possible);
        }

        return AnyOf(Ones & possible, left);
    }

    public bool IsFalse => !IsAll && Ones.IsEmpty && Parts.Length == 0;

    public bool IsTrue => IsAll && Ones.IsEmpty && Parts.Length == 0;
}
