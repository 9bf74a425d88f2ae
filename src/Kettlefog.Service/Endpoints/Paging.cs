using Kettlefog.Core;

namespace Kettlefog.Service.Endpoints;

/// <summary>Checks the page that a caller requests.</summary>
internal static class Paging
{
    public const int DefaultSize = 50;

    private const int MaxItems = 1000;

    /// <exception cref="KettlefogException">The page or its size is out of range.</exception>
    public static (int Page, int Size) Check(int? page, int? size)
    {
        if (page is < 1)
            throw new KettlefogException(
                ErrorCode.InvalidQuery,
                $"There is no page {page}.",
                "Pages are counted from 1."
            );
        if (size is < 1 or > MaxItems)
            throw new KettlefogException(
                ErrorCode.InvalidQuery,
                $"A page cannot have {size} items.",
                $"Request 1 to {MaxItems}."
            );
        return (page ?? 1, size ?? DefaultSize);
    }
}
