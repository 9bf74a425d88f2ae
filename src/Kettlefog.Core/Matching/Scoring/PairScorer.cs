using Kettlefog.Core.Matching.Evidence;

namespace Kettlefog.Core.Matching.Scoring;

/// <summary>
/// Scores pairs of records: the probability that both are the same entity, given the findings about them.
/// <para>
/// Fellegi and Sunter (1969), "A Theory for Record Linkage", with more than one alternative: a pair is of one entity,
/// of unrelated entities, or of related entities (Larsen and Rubin 2001,
/// "Iterative Automated Record Linkage Using Mixture Models", who distinguish members of one household in this way).
/// What related entities share - address, phone, mailbox, family name - therefore cannot replace agreement on the
/// entity itself, however often it occurs together.
/// </para>
/// </summary>
internal sealed class PairScorer
{
    private readonly EvidenceKind[] _evidence;
    private readonly int _relations;
    private readonly Calibration _calibration;

    // For each evidence and level: the weight against chance (without rarity), then those against each relation.
    private readonly float[][] _weights;
    private readonly bool[][] _byFrequency;

    // For each relation the evidence of which rarity speaks against it.
    private readonly bool[][] _rarityAgainst;
    private readonly float _commonRarity;
    private readonly double _priorRandom;
    private readonly double[] _priorRelated;

    /// <summary>Creates a scorer.</summary>
    /// <param name="evidence">The evidence with its probabilities.</param>
    /// <param name="relations">The relations with their odds.</param>
    /// <param name="population">The number of records.</param>
    /// <param name="duplicates">The number of matching pairs per record.</param>
    /// <param name="taught">What decisions taught; nothing while the model is learned.</param>
    public PairScorer(
        EvidenceKind[] evidence,
        Relation[] relations,
        int population,
        double duplicates,
        Taught? taught = null
    )
    {
        _calibration = taught?.Calibration ?? Calibration.None;
        _evidence = evidence;
        _relations = relations.Length;
        _commonRarity = MathF.Min(CommonRarity, MathF.Log2(Math.Max(population, 2)) - CommonAmongFew);
        _priorRandom = Math.Log2(duplicates / (Math.Max(population, 2) / 2.0));
        _priorRelated = [.. relations.Select(relation => Math.Log2(relation.Odds))];
        _weights = [.. evidence.Select((kind, index) => Weights(kind, taught?.Weights[index]))];
        _rarityAgainst =
        [
            .. relations.Select(relation =>
                evidence.Select(kind => relation.ByFrequency.Contains(kind.Name)).ToArray()
            ),
        ];
        _byFrequency = [.. evidence.Select(kind => kind.Levels.Select(level => level.ByFrequency).ToArray())];
    }

    /// <summary>The number of findings about a pair.</summary>
    public int Findings => _evidence.Length;

    /// <summary>The number of relations that a pair is weighed against.</summary>
    public int Relations => _relations;

    /// <summary>The binary logarithm of the odds against one relation before anything was found.</summary>
    public double Prior(int relation) => _priorRelated[relation];

    /// <summary>
    /// The maximum that a finding adds to the odds against one relation; a missing value adds nothing.
    /// </summary>
    public double MaxWeight(int evidence, int relation)
    {
        double max = 0;
        for (var at = 1 + relation; at < _weights[evidence].Length; at += 1 + _relations)
            max = Math.Max(max, _weights[evidence][at]);
        return _rarityAgainst[relation][evidence] ? max + MaxRarityAgainst : max;
    }

    /// <summary>The weight of a finding against one relation.</summary>
    public double Against(int relation, int evidence, Finding finding) =>
        finding.Level < 0 ? 0 : Weight(evidence, finding, 1 + relation);

    /// <summary>
    /// What the rarity of a value adds against a relation. That one of two entities has it is as likely as that both
    /// records of one have it; that the other has it too, by chance, is as likely as it is common. Two that share some
    /// value share one of the common rarity on average (its collision entropy: Rényi 1961): a rarer one speaks against
    /// the relation, and a commoner one for it.
    /// </summary>
    private float RarityAgainst(float rarity) => Math.Clamp(rarity - _commonRarity, MinRarityAgainst, MaxRarityAgainst);

    /// <summary>
    /// The rarity of the names that namesakes have, in bits: of given and of family names much the same.
    /// </summary>
    private const float CommonRarity = 7.5f;

    /// <summary>Among few records a name that eight of them have is common; as a binary logarithm.</summary>
    private const float CommonAmongFew = 3;

    private const float MinRarityAgainst = -4,
        MaxRarityAgainst = 7;

    /// <summary>The binary logarithm of the odds that a pair matches.</summary>
    public double LogOdds(ReadOnlySpan<Finding> findings) => _calibration.Of(RawLogOdds(findings));

    /// <summary>The same, as the model has it.</summary>
    public double RawLogOdds(ReadOnlySpan<Finding> findings)
    {
        Span<double> against = stackalloc double[1 + _relations];
        Sum(findings, against);
        return -LogSum(against);
    }

    /// <summary>The binary logarithm of the model's odds for a probability.</summary>
    public double RawLogOddsOf(double probability) => _calibration.Back(LogOddsOf(probability));

    /// <summary>The probability that a pair matches, from 0 to 1.</summary>
    public double Score(ReadOnlySpan<Finding> findings) => Probability(LogOdds(findings));

    /// <summary>
    /// The weight that each finding adds to the binary logarithm of the odds, with the alternatives weighted by their
    /// probability for this pair; the last number is the prior.
    /// </summary>
    public double[] Explain(ReadOnlySpan<Finding> findings)
    {
        Span<double> against = stackalloc double[1 + _relations];
        Sum(findings, against);
        var all = LogSum(against);
        var parts = new double[_evidence.Length + 1];
        for (var index = 0; index < findings.Length; index++)
        {
            if (findings[index].Level < 0)
                continue;
            for (var alternative = 0; alternative <= _relations; alternative++)
                parts[index] +=
                    _calibration.Slope * Exp2(against[alternative] - all) * Weight(index, findings[index], alternative);
        }

        parts[^1] = _calibration.Of(-all) - parts.Sum();
        return parts;
    }

    /// <summary>For each alternative - match, chance, each relation - its share in the probability of a pair.</summary>
    public void Shares(ReadOnlySpan<Finding> findings, Span<double> shares)
    {
        Sum(findings, shares[1..]);
        shares[0] = 0;
        var all = LogSum(shares);
        for (var index = 0; index < shares.Length; index++)
            shares[index] = Exp2(shares[index] - all);
    }

    /// <summary>The binary logarithm of the odds for a probability.</summary>
    public static double LogOddsOf(double probability) => Math.Log2(probability / (1 - probability));

    /// <summary>The probability for the binary logarithm of odds.</summary>
    public static double Probability(double logOdds) => logOdds > 60 ? 1 : 1 / (1 + Exp2(-logOdds));

    /// <summary>The likelihood of each alternative relative to a match, as binary logarithms.</summary>
    private void Sum(ReadOnlySpan<Finding> findings, Span<double> against)
    {
        against[0] = -_priorRandom;
        for (var relation = 0; relation < _relations; relation++)
            against[1 + relation] = -_priorRelated[relation];
        for (var index = 0; index < findings.Length; index++)
        {
            var finding = findings[index];
            if (finding.Level < 0)
                continue;
            var weights = _weights[index];
            var at = finding.Level * (1 + _relations);
            against[0] -= weights[at] + (_byFrequency[index][finding.Level] ? finding.Rarity : 0);
            for (var relation = 1; relation <= _relations; relation++)
            {
                against[relation] -= weights[at + relation];
                if (_byFrequency[index][finding.Level] && _rarityAgainst[relation - 1][index])
                    against[relation] -= RarityAgainst(finding.Rarity);
            }
        }
    }

    private double Weight(int index, Finding finding, int alternative)
    {
        var weight = _weights[index][(finding.Level * (1 + _relations)) + alternative];
        if (!_byFrequency[index][finding.Level])
            return weight;
        return alternative == 0 ? weight + finding.Rarity
            : _rarityAgainst[alternative - 1][index] ? weight + RarityAgainst(finding.Rarity)
            : weight;
    }

    /// <summary>The weights of an evidence; what was taught holds against every alternative alike.</summary>
    private float[] Weights(EvidenceKind kind, double[]? taught) =>
        [
            .. kind.Levels.SelectMany(
                (level, at) =>
                    new[] { level.Random }
                        .Concat(level.Related)
                        .Select(share =>
                            (float)(Math.Log2(level.Match / share) + ((taught?[at] ?? 0) / _calibration.Slope))
                        )
            ),
        ];

    // Two raised to a power, at half the cost of the general power.
    private static double Exp2(double power) => Math.Exp(power * 0.69314718055994531);

    private static double LogSum(ReadOnlySpan<double> values)
    {
        var max = double.NegativeInfinity;
        foreach (var value in values)
            max = Math.Max(max, value);
        double sum = 0;
        foreach (var value in values)
            sum += Exp2(value - max);
        return max + Math.Log2(sum);
    }
}
