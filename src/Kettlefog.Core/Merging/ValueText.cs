using Kettlefog.Core.Values;

namespace Kettlefog.Core.Merging;

/// <summary>Writes values into sentences.</summary>
internal static class ValueText
{
    /// <summary>A value in quotes, or <c>a blank</c>.</summary>
    public static string Of(ColumnValue value) => value.IsBlank ? "a blank" : $"'{value.ToText()}'";
}
