using Screeline.Core.Diagnosis;
using Screeline.Core.Jobs;
using Screeline.Core.Quantities;

namespace Screeline.Core.Proof;

/// <summary>One line of the proof: what it was before, what is good, what it is now.</summary>
/// <param name="Check">The check.</param>
/// <param name="Before">The reading of Find that stands beside it, or null.</param>
/// <param name="Limit">The good range in words.</param>
/// <param name="After">What was taken now, or null.</param>
/// <param name="Held">Whether it is held; null while open.</param>
public sealed record ProofRow(ProofCheck Check, string? Before, string Limit, string? After, bool? Held);

/// <summary>Before and after, side by side.</summary>
public static class ProofSheet
{
    /// <summary>The rows due at a moment.</summary>
    public static IReadOnlyList<ProofRow> Rows(Job job, ProofMoment moment) =>
        [.. job.Checks.Where(c => c.Moment == moment).Select(c => Row(job, c))];

    /// <summary>The row of one check.</summary>
    public static ProofRow Row(Job job, ProofCheck check)
    {
        var before = check.BeforeTest is null ? null : job.Readings.LastOrDefault(r => r.Payload.Test == check.BeforeTest)?.Payload;
        var after = job.Proofs.GetValueOrDefault(check.Id)?.Payload;
        return new ProofRow(
            check,
            before is null ? null : AnswerWords(job.System.Test(before.Test)!, before.Value, before.Choice),
            check.GoodWords(job.Opened.Payload.NominalVolts, after?.Celsius),
            after is null ? null : AnswerWords(check, after.Value, after.Choice),
            job.Held(check));
    }

    /// <summary>An answer in words: the figure as stated, or the title of the choice.</summary>
    public static string AnswerWords(Question question, Figure? value, string? choice) =>
        value?.ToString() ?? question.Choices.FirstOrDefault(c => c.Id == choice)?.Title ?? "";
}
