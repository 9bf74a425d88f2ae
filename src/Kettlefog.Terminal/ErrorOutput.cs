using Kettlefog.Contracts;

namespace Kettlefog.Terminal;

/// <summary>A usage error: the arguments or options of a command are wrong.</summary>
public sealed class UsageException(string message, string? hint = null) : Exception(message)
{
    public string? Hint => hint;
}

/// <summary>Writes an error to standard error, and returns the exit code.</summary>
public static class ErrorOutput
{
    public const int Failed = 1;
    public const int WrongUsage = 2;

    public static int Usage(string message, string? hint)
    {
        Say(message, [], hint);
        return WrongUsage;
    }

    public static int Failure(string message, string? hint, IReadOnlyList<string>? details = null)
    {
        Say(message, details ?? [], hint);
        return Failed;
    }

    public static int Of(Problem problem)
    {
        Say(problem.Title, problem.Details, problem.Hint);
        return Failed;
    }

    private static void Say(string message, IReadOnlyList<string> details, string? hint)
    {
        Console.Error.WriteLine($"error: {VisibleText.Of(message)}");
        foreach (var detail in details)
            Console.Error.WriteLine($"  {VisibleText.Of(detail)}");
        if (hint is not null)
            Console.Error.WriteLine($"hint: {VisibleText.Of(hint)}");
    }
}
