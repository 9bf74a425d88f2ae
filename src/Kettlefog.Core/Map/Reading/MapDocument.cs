using Kettlefog.Core.Map.Model;

namespace Kettlefog.Core.Map.Reading;

/// <summary>A map as read from its file, with the line numbers of its parts.</summary>
/// <param name="Map">The map.</param>
/// <param name="File">The file's name, for messages.</param>
/// <param name="Lines">The line of each part, by its path such as <c>record_types.vendor.fields.name</c>.</param>
public sealed record MapDocument(RecordMap Map, string File, IReadOnlyDictionary<string, int> Lines)
{
    /// <summary>The line of a part, or of the part around it.</summary>
    /// <param name="path">The part, such as <c>record_types.vendor.fields.name</c>.</param>
    public int LineOf(string path)
    {
        ArgumentNullException.ThrowIfNull(path);
        while (!Lines.ContainsKey(path) && path.Contains('.', StringComparison.Ordinal))
            path = path[..path.LastIndexOf('.')];
        return Lines.GetValueOrDefault(path, 1);
    }
}
