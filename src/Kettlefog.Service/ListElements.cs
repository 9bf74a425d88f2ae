using System.Collections;
using System.Reflection;
using System.Text.Json;
using System.Text.Json.Serialization.Metadata;

namespace Kettlefog.Service;

/// <summary>
/// Refuses null where a list or a dictionary of a request has no place for it: the serializer heeds the nullable
/// annotations of properties, but not those of elements.
/// </summary>
internal static class ListElements
{
    public static void RefuseNull(JsonTypeInfo type)
    {
        if (type.Kind != JsonTypeInfoKind.Object)
            return;
        var nullability = new NullabilityInfoContext();
        var lists = type
            .Type.GetProperties()
            .Where(property => property.GetIndexParameters().Length == 0 && HasNoNull(nullability.Create(property)))
            .ToList();
        if (lists.Count > 0)
            type.OnDeserialized = read => Check(read, lists);
    }

    private static bool HasNoNull(NullabilityInfo property) =>
        property.Type != typeof(string)
        && typeof(IEnumerable).IsAssignableFrom(property.Type)
        && (property.ElementType ?? property.GenericTypeArguments.LastOrDefault())
            is { ReadState: NullabilityState.NotNull, Type.IsValueType: false };

    private static void Check(object read, List<PropertyInfo> lists)
    {
        foreach (var list in lists)
        {
            var name = JsonNamingPolicy.CamelCase.ConvertName(list.Name);
            foreach (var (place, element) in ElementsOf(list.GetValue(read)))
                if (element is null)
                    throw new JsonException($"'{name}' contains null.", $"$.{name}{place}", null, null);
        }
    }

    private static IEnumerable<(string Place, object? Element)> ElementsOf(object? value) =>
        value switch
        {
            IDictionary dictionary => dictionary.Keys.Cast<object>().Select(key => ($".{key}", dictionary[key])),
            IEnumerable list => list.Cast<object?>().Select((element, index) => ($"[{index}]", element)),
            _ => [],
        };
}
