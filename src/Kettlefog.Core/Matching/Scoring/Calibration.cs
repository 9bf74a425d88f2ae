namespace Kettlefog.Core.Matching.Scoring;

/// <summary>
/// Turns the odds of the model into odds that hold. Evidence is not independent, and what is learned is held to the
/// defaults: the model says 84 % where 96 % are duplicates. The odds are stretched and moved (Platt 1999,
/// "Probabilistic Outputs for Support Vector Machines and Comparisons to Regularized Likelihood Methods").
/// </summary>
/// <param name="Slope">What the binary logarithm of the odds is multiplied by; more than 0.</param>
/// <param name="Offset">What is added to it afterwards.</param>
internal readonly record struct Calibration(double Slope, double Offset)
{
    /// <summary>Leaves odds as they are.</summary>
    public static Calibration None { get; } = new(1, 0);

    /// <summary>
    /// What holds for a kind of entity before anybody decided anything: measured on made-up records of six countries
    /// with known truth, over several seeds and numbers of records (<c>./kettlefog bench accuracy</c>).
    /// </summary>
    public static Calibration Default(EntityKind entity) =>
        entity switch
        {
            EntityKind.Person => new(1.9, 0.75),
            EntityKind.Organisation => new(1.75, 2.2),
            _ => None,
        };

    /// <summary>The binary logarithm of odds that hold.</summary>
    public double Of(double logOdds) => (Slope * logOdds) + Offset;

    /// <summary>The binary logarithm of the model's odds for those that hold.</summary>
    public double Back(double logOdds) => (logOdds - Offset) / Slope;
}
