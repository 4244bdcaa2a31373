namespace Screeline.Core.Diagnosis;

/// <summary>What money decisions stand on; all of it can be changed where it is shown.</summary>
/// <param name="LabourPerHour">Price of an hour of work, in the shop's currency.</param>
/// <param name="Comeback">What a wrong repair costs besides doing the right one afterwards: the tow, the time, the trust.</param>
/// <param name="Minutes">Labour of repairs where something better is known than the system's figure, for example from the vehicle's access map.</param>
/// <param name="Prices">Parts of repairs where something better is known.</param>
public sealed record Assumptions(double LabourPerHour, double Comeback, IReadOnlyDictionary<string, double> Minutes, IReadOnlyDictionary<string, double> Prices)
{
    /// <summary>60 an hour, 90 for a comeback, the system's own minutes and prices.</summary>
    public static Assumptions Usual { get; } = new(60, 90, new Dictionary<string, double>(), new Dictionary<string, double>());

    /// <summary>What a repair costs: parts and labour.</summary>
    public double CostOf(Repair repair) => Prices.GetValueOrDefault(repair.Id, repair.Price) + LabourOf(repair);

    /// <summary>The labour of a repair in money.</summary>
    public double LabourOf(Repair repair) => Minutes.GetValueOrDefault(repair.Id, repair.Minutes) * LabourPerHour / 60;
}

/// <summary>How often each repair was confirmed in closed jobs.</summary>
/// <param name="Model">The vehicle's model that counts in full.</param>
/// <param name="OnModel">Closed jobs on this model, by repair.</param>
/// <param name="OnOthers">Closed jobs on other models, by repair.</param>
public sealed record ShopHistory(string Model, IReadOnlyDictionary<string, int> OnModel, IReadOnlyDictionary<string, int> OnOthers)
{
    /// <summary>The system's own priors weigh as much as this many closed jobs.</summary>
    public const double PriorJobs = 30;

    /// <summary>How much a closed job on another model counts.</summary>
    public const double OtherModel = 0.3;

    /// <summary>A fault that came back: what was repaired then weighs as much as this many closed jobs on the model.</summary>
    public const int ComebackWeighs = 3;

    /// <summary>The same history with some more jobs on this model that confirmed a repair.</summary>
    public ShopHistory With(string repair, int jobs) =>
        this with { OnModel = new Dictionary<string, int>(OnModel, StringComparer.Ordinal) { [repair] = OnModel.GetValueOrDefault(repair) + jobs } };

    /// <summary>No closed job.</summary>
    public static ShopHistory None { get; } = new("", new Dictionary<string, int>(), new Dictionary<string, int>());

    /// <summary>How many jobs count, weighted.</summary>
    public double Weight => OnModel.Values.Sum() + OtherModel * OnOthers.Values.Sum();

    /// <summary>
    /// Chance of each fault before any reading: the system's priors and the closed jobs, added as counts (the mean of a Dirichlet
    /// distribution). A closed job counts for the faults of its repair in proportion to their priors.
    /// </summary>
    public double[] Priors(FaultSystem system)
    {
        var total = system.Faults.Sum(f => f.Prior);
        var byRepair = system.Faults.GroupBy(f => f.Repair).ToDictionary(g => g.Key, g => g.Sum(f => f.Prior), StringComparer.Ordinal);
        var known = byRepair.Keys.Sum(Count);
        return [.. system.Faults.Select(f => (PriorJobs * f.Prior / total + (byRepair[f.Repair] > 0 ? Count(f.Repair) * f.Prior / byRepair[f.Repair] : 0)) / (PriorJobs + known))];
    }

    private double Count(string repair) => OnModel.GetValueOrDefault(repair) + OtherModel * OnOthers.GetValueOrDefault(repair);
}
