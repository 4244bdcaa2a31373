using System.Text.Json.Nodes;
using Screeline.Core.Motion;
using Screeline.Library;
using Screeline.Web.Drawing;

namespace Screeline.Web.Setting;

/// <summary>Lengths of a linkage that nobody knows, from what can be measured on the vehicle.</summary>
public sealed class LengthsWork : SettingWork
{
    private static readonly (ArmSeen What, string Field, string Title)[] Seen =
        [(ArmSeen.AtPark, "at", "Arm at park, from the right"), (ArmSeen.AtLow, "lo", "Arm at the lower end"), (ArmSeen.AtHigh, "hi", "Arm at the upper end"), (ArmSeen.Sweep, "sw", "Angle it sweeps")];

    /// <summary>Works it out.</summary>
    public LengthsWork(IReadOnlyDictionary<string, string> asked, ShippedLibrary library) : base(asked)
    {
        Linkages = library.Linkages;
        Named = Linkages.FirstOrDefault(l => l.Id == Asked("linkage")) ?? Linkages.First(l => l.Id == "petrel-front");
        var linkage = Named.Linkage;
        Candidates = [.. CandidatesOf(linkage)];
        Error = Number("err", 0.05, 10) ?? 0.5;
        List<ArmMeasured> measured = [];
        for (var r = 0; r < linkage.Rockers.Count; r++)
        {
            foreach (var (what, field, _) in Seen)
            {
                if (Number($"{field}{r}", -180, 360) is { } value)
                {
                    measured.Add(new ArmMeasured(what, r, value, what == ArmSeen.Sweep ? Error * Math.Sqrt(2) : Error));
                }
            }
        }

        Measured = measured.Count;
        List<Sought> sought = [];
        foreach (var c in Candidates.Where(c => Asked($"find-{c.Field}").Length > 0))
        {
            sought.Add(c.Sought with { Guess = Number($"g-{c.Field}", -720, 5000) ?? c.Sought.Guess, Spread = Number($"s-{c.Field}", 0.01, 500) ?? c.Sought.Spread });
        }

        if (sought.Count == 0 || measured.Count == 0 || Faults.Count > 0)
        {
            return;
        }

        try
        {
            Found = LinkageFit.Fit(linkage, sought, measured);
            Verdict = SettingVerdicts.Lengths(Found, TitleOf);
            Picture = LinkageChecks.FaultsOf(Found.Linkage).Count == 0 ? new WiperPicture(Found.Linkage, null, [], Found.Linkage.Park[0]).Drawing : null;
        }
        catch (MotionException e)
        {
            Verdict = new SettingVerdict(e.Message, false);
        }
    }

    /// <inheritdoc/>
    public override string Kind => "lengths";

    /// <summary>Linkages to start from.</summary>
    public IReadOnlyList<NamedLinkage> Linkages { get; }

    /// <summary>The one it starts from.</summary>
    public NamedLinkage Named { get; }

    /// <summary>What could be sought, with the field of the wiper setting it goes into.</summary>
    public IReadOnlyList<(string Field, Sought Sought)> Candidates { get; }

    /// <summary>Standard error of an angle, degrees.</summary>
    public double Error { get; }

    /// <summary>How many angles were measured.</summary>
    public int Measured { get; }

    /// <summary>What was found; null with too little.</summary>
    public LinkageFound? Found { get; }

    /// <summary>The fields of one arm.</summary>
    public static IEnumerable<(string Field, string Title)> ArmFields(int arm) => Seen.Select(s => ($"{s.Field}{arm}", s.Title));

    /// <summary>What a length is called.</summary>
    public string TitleOf(Sought s) => s.What switch
    {
        LinkageLength.Crank => "Crank", LinkageLength.ParkAngle => "Crank at park",
        LinkageLength.Link => $"{Named.Linkage.Rockers[s.Rocker].Title} link", LinkageLength.Lever => $"{Named.Linkage.Rockers[s.Rocker].Title} lever", _ => $"{Named.Linkage.Rockers[s.Rocker].Title} arm against its lever",
    };

    /// <summary>Its unit.</summary>
    public static string UnitOf(Sought s) => s.What is LinkageLength.ParkAngle or LinkageLength.ArmAngle ? "°" : "mm";

    /// <summary>The address of the wiper setting with what was found.</summary>
    public string WiperAddress => "/bench/wiper?linkage=" + Uri.EscapeDataString(Named.Id) + string.Concat((Found?.Found ?? []).Select(f => $"&l-{Candidates.First(c => c.Sought.What == f.Sought.What && c.Sought.Rocker == f.Sought.Rocker).Field}={Text(f.Value, 2)}"));

    private static IEnumerable<(string, Sought)> CandidatesOf(WiperLinkage l)
    {
        if (l.Crank > 0)
        {
            yield return ("crank", new Sought(LinkageLength.Crank, -1, l.Crank, 5));
        }

        yield return ("park", new Sought(LinkageLength.ParkAngle, -1, l.Park[0], 10));
        for (var r = 0; r < l.Rockers.Count; r++)
        {
            if (!l.Rockers[r].IsDirect)
            {
                yield return ($"link{r}", new Sought(LinkageLength.Link, r, l.Rockers[r].Link, 10));
                yield return ($"lever{r}", new Sought(LinkageLength.Lever, r, l.Rockers[r].Lever, 5));
            }

            yield return ($"angle{r}", new Sought(LinkageLength.ArmAngle, r, l.Rockers[r].Arm.Angle, 10));
        }
    }

    /// <inheritdoc/>
    public override IReadOnlyList<IReadOnlyList<string>> Table() =>
        [["what", "unit", "value", "standard_error", "guess"], .. (Found?.Found ?? []).Select(f => (IReadOnlyList<string>)[TitleOf(f.Sought), UnitOf(f.Sought) == "°" ? "deg" : "mm", Text(f.Value), Text(f.Error), Text(f.Sought.Guess)])];

    /// <inheritdoc/>
    public override JsonObject Json() => new()
    {
        ["misfit"] = Found is null ? null : Math.Round(Found.Misfit, 4),
        ["found"] = new JsonArray([.. (Found?.Found ?? []).Select(f => (JsonNode)new JsonObject { ["what"] = f.Sought.What.ToString(), ["rocker"] = f.Sought.Rocker, ["value"] = Math.Round(f.Value, 4), ["error"] = Math.Round(f.Error, 4), ["fixed"] = f.IsFixed })]),
        ["linkage"] = Found is null ? null : LinkageFormat.Write(Named with { Linkage = Found.Linkage }),
    };
}
