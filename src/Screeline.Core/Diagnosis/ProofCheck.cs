namespace Screeline.Core.Diagnosis;

/// <summary>When a proof check is due.</summary>
public enum ProofMoment
{
    /// <summary>With the covers still off; holds a gate.</summary>
    BeforeCovers,
    /// <summary>When all is closed.</summary>
    End,
}

/// <summary>A check that proves the repair.</summary>
public sealed record ProofCheck : Question
{
    /// <summary>When it is due.</summary>
    public required ProofMoment Moment { get; init; }
    /// <summary>The test of Find whose reading stands beside it as "before", or null.</summary>
    public string? BeforeTest { get; init; }
    /// <summary>Behaviours that are gone when its answer is good: of a plain complaint of these nobody is asked the same a second time.</summary>
    public IReadOnlyList<string> Shows { get; init; } = [];
    /// <summary>The operations of a job that it follows from: what they unplugged works, what they took the power from is restored. Empty for a family's own.</summary>
    public IReadOnlyList<string> FollowsFrom { get; init; } = [];
    /// <summary>Who sets the limit: a standard, the maker, or common practice.</summary>
    public required string LimitBy { get; init; }
}
