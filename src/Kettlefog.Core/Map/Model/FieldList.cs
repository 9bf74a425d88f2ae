namespace Kettlefog.Core.Map.Model;

/// <summary>Finds fields by name.</summary>
internal static class FieldList
{
    /// <summary>The index of a field, or -1.</summary>
    public static int IndexOf(this IReadOnlyList<Field> fields, string name)
    {
        for (var index = 0; index < fields.Count; index++)
        {
            if (fields[index].Name == name)
                return index;
        }

        return -1;
    }
}
