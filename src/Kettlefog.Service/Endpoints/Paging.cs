using Kettlefog.Core;

namespace Kettlefog.Service.Endpoints;

/// <summary>Checks the page that a caller asks for.</summary>
internal static class Paging
{
    public const int DefaultSize = 50;

    private const int MostItems = 1000;

    /// <exception cref="Refusal">The page or its size is out of range.</exception>
    public static (int Page, int Size) Check(int? page, int? size)
    {
        if (page is < 1)
            throw new Refusal(RefusalCode.InvalidQuery, $"There is no page {page}.", "Pages are counted from 1.");
        if (size is < 1 or > MostItems)
            throw new Refusal(RefusalCode.InvalidQuery, $"A page cannot have {size} items.", $"Ask for 1 to {MostItems}.");
        return (page ?? 1, size ?? DefaultSize);
    }
}
