namespace Kettlefog.Core.Map.Model;

/// <summary>How a figure is computed from related rows.</summary>
public enum FigureOperation
{
    /// <summary>The number of related rows.</summary>
    Count,

    /// <summary>The exact decimal sum of a column.</summary>
    Sum,

    /// <summary>The greatest value of a column: the last date.</summary>
    Last,

    /// <summary>The least value of a column: the first date.</summary>
    First,
}

/// <summary>A number about a record, computed from its related rows.</summary>
/// <param name="Name">Its name in outputs.</param>
/// <param name="Title">Its name for people.</param>
/// <param name="Reference">The reference whose rows count.</param>
/// <param name="Operation">How it is computed.</param>
/// <param name="Column">The column it is computed from; null for a count.</param>
/// <param name="Control">True for a control total: it must agree before and after every merge.</param>
public sealed record Figure(
    string Name,
    string Title,
    string Reference,
    FigureOperation Operation,
    string? Column,
    bool Control
)
{
    /// <summary>True if the figures of several records add up.</summary>
    public bool Adds => Operation is FigureOperation.Count or FigureOperation.Sum;
}
