namespace Kettlefog.Core.Map.Model;

/// <summary>
/// Records of a type, parents or children, that may turn out to be duplicates of one another when records of this type
/// are merged: an account's vessels with the same hull number, or the households of a contact.
/// </summary>
/// <param name="Name">Its name in the map.</param>
/// <param name="Title">Their title.</param>
/// <param name="Type">Their record type.</param>
/// <param name="Through">
/// The reference of this type through whose rows they are found; null if this type's own <paramref name="Columns"/>
/// refer to them.
/// </param>
/// <param name="Columns">
/// The columns that hold their key: of the rows of <paramref name="Through"/>, or of this type's records. Empty if
/// those rows are the records themselves.
/// </param>
/// <param name="Same">
/// Groups of fields: records are offered together if all fields of one group are filled in and agree.
/// Empty if it is enough that they belong to merged records.
/// </param>
public sealed record LinkedRecords(
    string Name,
    string Title,
    string Type,
    string? Through,
    IReadOnlyList<string> Columns,
    IReadOnlyList<IReadOnlyList<string>> Same
);
