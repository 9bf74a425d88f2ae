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
    /// <summary>Decisions outweigh the default when there are about so many.</summary>
    private const double PriorDecisions = 40;

    private const int Rounds = 12;

    /// <summary>Leaves odds as they are.</summary>
    public static Calibration None { get; } = new(1, 0);

    /// <summary>
    /// What holds for a kind of entity before anybody decided anything: measured on made-up records of six countries
    /// with known truth, over several seeds and numbers of records (<c>./kettlefog bench accuracy</c>).
    /// </summary>
    public static Calibration Default(EntityKind entity) =>
        entity switch
        {
            EntityKind.Person => new(1.9, 0.5),
            EntityKind.Organisation => new(1.3, 0.9),
            _ => None,
        };

    /// <summary>The binary logarithm of odds that hold.</summary>
    public double Of(double logOdds) => (Slope * logOdds) + Offset;

    /// <summary>The binary logarithm of the model's odds for those that hold.</summary>
    public double Back(double logOdds) => (logOdds - Offset) / Slope;

    /// <summary>
    /// Fits to what operators decided: logistic regression by Newton's method, with the present calibration as the
    /// normal prior, so that a few decisions move it a little.
    /// </summary>
    /// <param name="decided">The binary logarithm of the model's odds of each decided pair, and the decision.</param>
    public Calibration Fit(IReadOnlyList<(double LogOdds, bool IsMatch)> decided)
    {
        if (decided.Count == 0)
            return this;
        var (slope, offset) = (Slope, Offset);
        for (var round = 0; round < Rounds; round++)
        {
            // The prior weighs like decisions that are as uncertain as can be, at odds of one to four.
            var (gradientA, gradientB) = (-(slope - Slope) * PriorDecisions, -(offset - Offset) * PriorDecisions / 4);
            var (aa, ab, bb) = (PriorDecisions, 0.0, PriorDecisions / 4);
            foreach (var (logOdds, isMatch) in decided)
            {
                var odds = Math.Clamp(logOdds, -30, 30);
                var said = PairScorer.Probability((slope * odds) + offset);
                var (missing, weight) = ((isMatch ? 1 : 0) - said, said * (1 - said));
                gradientA += missing * odds;
                gradientB += missing;
                aa += weight * odds * odds;
                ab += weight * odds;
                bb += weight;
            }

            var determinant = (aa * bb) - (ab * ab);
            slope += ((bb * gradientA) - (ab * gradientB)) / determinant;
            offset += ((aa * gradientB) - (ab * gradientA)) / determinant;
            slope = Math.Clamp(slope, Slope / 3, Slope * 3);
            offset = Math.Clamp(offset, Offset - 6, Offset + 6);
        }

        return new Calibration(slope, offset);
    }
}
