using Kettlefog.Terminal;

namespace Kettlefog.Cli;

/// <summary>Asks a person before something is changed.</summary>
internal static class Confirmation
{
    /// <summary>Makes sure, before anything else is done, that a person reads and can answer.</summary>
    /// <exception cref="UsageException">Input or output is not a person's.</exception>
    public static void DemandSomebody(Printer printer, string hint)
    {
        if (Console.IsInputRedirected || !printer.ForPeople)
            throw new UsageException("Confirmation is required, but standard input is not a terminal.", hint);
    }

    /// <summary>Asks, and says so if the answer is no.</summary>
    public static bool Ask(string question)
    {
        Console.Error.Write($"\n{question} [y/N] ");
        if (Console.ReadLine()?.Trim() is "y" or "Y" or "yes")
            return true;
        Console.Error.WriteLine("Nothing was changed.");
        return false;
    }
}
