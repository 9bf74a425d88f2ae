using Kettlefog.Core;
using Kettlefog.Terminal;

namespace Kettlefog.Service.Commands;

/// <summary>
/// Asks questions, one after the other, at a terminal or over standard input. Texts go to standard error.
/// </summary>
internal static class Prompts
{
    private static bool IsPerson => !Console.IsInputRedirected;

    public static void Say(string text) => Console.Error.WriteLine(text);

    public static void Step(int number, string title) => Console.Error.WriteLine($"\n{number}. {title}");

    /// <summary>Asks for a line.</summary>
    /// <param name="question">The question.</param>
    /// <param name="defaultAnswer">The default for an empty answer; null if an answer is required.</param>
    /// <exception cref="UsageException">Standard input has ended.</exception>
    public static string Ask(string question, string? defaultAnswer = null)
    {
        Console.Error.Write($"{question}{(string.IsNullOrEmpty(defaultAnswer) ? "" : $" [{defaultAnswer}]")}: ");
        var answer = Console.ReadLine() ?? throw Ended(question);
        if (!IsPerson)
            Console.Error.WriteLine();
        return answer.Trim() is { Length: > 0 } said ? said : defaultAnswer ?? "";
    }

    /// <summary>Asks for yes or no; no is the default.</summary>
    public static bool Agree(string question) => Ask($"{question} (yes or no)", "no") is "y" or "yes" or "Yes" or "YES";

    /// <summary>Asks for a secret, without showing it.</summary>
    public static string Secret(string question)
    {
        if (!IsPerson)
            return Ask(question);
        Console.Error.Write($"{question}: ");
        var secret = "";
        while (Console.ReadKey(intercept: true) is var key && key.Key != ConsoleKey.Enter)
            secret =
                key.Key == ConsoleKey.Backspace ? secret[..Math.Max(0, secret.Length - 1)]
                : char.IsControl(key.KeyChar) ? secret
                : secret + key.KeyChar;
        Console.Error.WriteLine();
        return secret;
    }

    /// <summary>Asks until the answer is accepted.</summary>
    /// <param name="question">The question.</param>
    /// <param name="given">The answer, if it was given as an option; then it must be valid.</param>
    /// <param name="use">Uses the answer, or throws to refuse it.</param>
    /// <param name="defaultAnswer">The default for an empty answer.</param>
    public static async Task<T> UntilAsync<T>(
        string question,
        string? given,
        Func<string, Task<T>> use,
        string? defaultAnswer = null
    )
    {
        if (given is not null)
            return await use(given);
        for (; ; )
        {
            var answer = Ask(question, defaultAnswer);
            if (answer.Length == 0)
                continue;
            try
            {
                return await use(answer);
            }
            catch (KettlefogException refusal)
            {
                Say($"Not accepted: {refusal.Message}");
                foreach (var detail in refusal.Details)
                    Say($"  {detail}");
                if (refusal.Hint is not null)
                    Say($"  {refusal.Hint}");
            }
        }
    }

    private static UsageException Ended(string question) =>
        new(
            $"There is no answer to '{question}'.",
            "Run the command at a terminal, or write one answer per line to its standard input."
        );
}
