namespace Kettlefog.Core.Map.Model;

/// <summary>Which kinds the comparators of rules apply to, and which settings they take.</summary>
public static class Comparators
{
    private static readonly Comparator[] YesOrNo =
    [
        Comparator.Exact,
        Comparator.IgnoringCase,
        Comparator.SameDigits,
        Comparator.SameMailbox,
        Comparator.SamePhone,
        Comparator.SameDate,
        Comparator.NearNumber,
        Comparator.SoundsAlike,
    ];

    /// <summary>The comparators that apply to values of a kind.</summary>
    /// <param name="kind">The kind.</param>
    public static IEnumerable<Comparator> Fitting(FieldKind kind) =>
        Enum.GetValues<Comparator>().Where(comparator => Fits(comparator, kind));

    /// <summary>True if a comparator applies to values of a kind.</summary>
    /// <param name="comparator">The comparator.</param>
    /// <param name="kind">The kind.</param>
    public static bool Fits(Comparator comparator, FieldKind kind) =>
        comparator switch
        {
            Comparator.SameMailbox => kind is FieldKind.Email or FieldKind.Text,
            Comparator.SamePhone => kind is FieldKind.Phone or FieldKind.Text,
            Comparator.SimilarPersonName => kind
                is FieldKind.PersonName
                    or FieldKind.GivenName
                    or FieldKind.FamilyName
                    or FieldKind.Text,
            Comparator.SimilarOrganisationName => kind
                is FieldKind.OrganisationName
                    or FieldKind.HouseholdName
                    or FieldKind.Text,
            Comparator.SimilarAddress => kind is FieldKind.Street or FieldKind.Text,
            Comparator.SameDate => kind is FieldKind.Date or FieldKind.BirthDate or FieldKind.Timestamp,
            Comparator.NearNumber => kind is FieldKind.Number or FieldKind.Integer or FieldKind.Money,
            Comparator.SoundsAlike
            or Comparator.JaroWinkler
            or Comparator.DamerauLevenshtein
            or Comparator.MongeElkan
            or Comparator.QGram => kind
                is not (
                    FieldKind.Date
                    or FieldKind.BirthDate
                    or FieldKind.Timestamp
                    or FieldKind.Money
                    or FieldKind.Number
                    or FieldKind.Integer
                    or FieldKind.Flag
                ),
            _ => true,
        };

    /// <summary>
    /// True if a comparator gives a similarity, so that <c>at_least</c> means something; others give yes or no.
    /// </summary>
    /// <param name="comparator">The comparator.</param>
    public static bool TakesSimilarity(Comparator comparator) => !YesOrNo.Contains(comparator);

    /// <summary>The setting that a comparator takes: <c>at_least</c>, <c>within</c>, <c>digits</c>, or null.</summary>
    /// <param name="comparator">The comparator.</param>
    public static string? SettingOf(Comparator comparator) =>
        comparator switch
        {
            Comparator.SameDate or Comparator.NearNumber => "within",
            Comparator.SamePhone => "digits",
            _ => TakesSimilarity(comparator) ? "at_least" : null,
        };
}
