using Kettlefog.Terminal;

namespace Kettlefog.Cli;

/// <summary>Asks for confirmation before something is changed.</summary>
internal static class Confirmation
{
    /// <summary>Checks in advance that a person can read and answer.</summary>
    /// <exception cref="UsageException">Standard input or output is not a terminal.</exception>
    public static void EnsureInteractive(Printer printer, string hint)
    {
        if (Console.IsInputRedirected || !printer.ForPeople)
            throw new UsageException("Confirmation is required, but standard input is not a terminal.", hint);
    }

    /// <summary>Asks; if the answer is no, prints that nothing was changed.</summary>
    public static bool Ask(string question)
    {
        Console.Error.Write($"\n{VisibleText.Of(question)} [y/N] ");
        if (Console.ReadLine()?.Trim() is "y" or "Y" or "yes")
            return true;
        Console.Error.WriteLine("Nothing was changed.");
        return false;
    }
}
