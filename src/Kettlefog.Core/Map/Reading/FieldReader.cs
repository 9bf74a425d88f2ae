using Kettlefog.Core.Map.Model;
using Kettlefog.Core.Naming;

namespace Kettlefog.Core.Map.Reading;

/// <summary>Reads the fields of a record type.</summary>
internal static class FieldReader
{
    internal static readonly string[] Keys =
    [
        "title",
        "column",
        "kind",
        "survivorship",
        "group",
        "separator",
        "overflow",
        "overflow_rows",
        "currency",
    ];

    internal static readonly string[] OverflowRowsKeys = ["reference", "column", "values"];

    /// <summary>Reads the part; reports every mistake.</summary>
    public static Field Read(string name, MapNode node)
    {
        node.Only(Keys);
        return new Field(
            name,
            node.Text("title") ?? Title.Of(name),
            node.Text("column") ?? name,
            node.Word<FieldKind>("kind") ?? FieldKind.Text,
            node.Word<SurvivorshipRule>("survivorship"),
            node.Text("group"),
            node.Text("separator"),
            node.Texts("overflow")
        )
        {
            OverflowRows = ReadOverflowRows(node),
            Currency = node.Text("currency"),
        };
    }

    private static OverflowRows? ReadOverflowRows(MapNode field) =>
        field.Child("overflow_rows")?.Only(OverflowRowsKeys) is { } node
            ? new OverflowRows(
                node.RequiredText("reference", "emails"),
                node.RequiredText("column", "address"),
                node.TextMap("values")
            )
            : null;
}
