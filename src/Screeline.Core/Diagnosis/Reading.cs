namespace Screeline.Core.Diagnosis;

/// <summary>Chances of what people hear and read.</summary>
public static class Reading
{
    /// <summary>Share of answers that are misheard, misseen or miswritten (common practice, no source).</summary>
    public const double Misheard = 0.03;

    /// <summary>Share of numbers that nothing on the vehicle gave and that can be anything: slip of the pen, wrong range (common practice, no source).</summary>
    public const double Outlier = 0.001;

    /// <summary>Share of numbers that are nothing because a probe had no contact or nobody commanded (common practice, no source).</summary>
    public const double NoContact = 0.005;

    /// <summary>The chance that an answer is given when its true chance is this, among n answers.</summary>
    public static double Heard(double chance, int answers) => (1 - Misheard) * chance + Misheard / answers;

    /// <summary>The chances of "always", "sometimes", "never" in ten attempts, each failing with this chance.</summary>
    public static double OfTen(double perAttempt, int answer) => Heard(answer switch
    {
        0 => Math.Pow(perAttempt, 10),
        2 => Math.Pow(1 - perAttempt, 10),
        _ => 1 - Math.Pow(perAttempt, 10) - Math.Pow(1 - perAttempt, 10),
    }, 3);
}
