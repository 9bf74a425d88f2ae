using Kettlefog.Core;
using Kettlefog.Terminal;

namespace Kettlefog.Service.Commands;

/// <summary>
/// Asks a person, or whoever writes to standard input, one thing after the other. What is said goes to standard error.
/// </summary>
internal static class Prompts
{
    private static bool IsPerson => !Console.IsInputRedirected;

    public static void Say(string text) => Console.Error.WriteLine(text);

    public static void Step(int number, string title) => Console.Error.WriteLine($"\n{number}. {title}");

    /// <summary>Asks for a line.</summary>
    /// <param name="question">What is asked.</param>
    /// <param name="usual">What holds if nothing is said; null if something must be.</param>
    /// <exception cref="UsageException">Standard input has ended.</exception>
    public static string Ask(string question, string? usual = null)
    {
        Console.Error.Write($"{question}{(string.IsNullOrEmpty(usual) ? "" : $" [{usual}]")}: ");
        var answer = Console.ReadLine() ?? throw Ended(question);
        if (!IsPerson)
            Console.Error.WriteLine();
        return answer.Trim() is { Length: > 0 } said ? said : usual ?? "";
    }

    /// <summary>Asks for yes or no; no is the default.</summary>
    public static bool Agree(string question) => Ask($"{question} (yes or no)", "no") is "y" or "yes" or "Yes" or "YES";

    /// <summary>Asks for what nobody should see.</summary>
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

    /// <summary>Asks until the answer will do.</summary>
    /// <param name="question">What is asked.</param>
    /// <param name="given">The answer, if it was given before; then it must do.</param>
    /// <param name="use">Uses the answer, or refuses it.</param>
    /// <param name="usual">What holds if nothing is said.</param>
    public static async Task<T> UntilAsync<T>(
        string question,
        string? given,
        Func<string, Task<T>> use,
        string? usual = null
    )
    {
        if (given is not null)
            return await use(given);
        for (; ; )
        {
            var answer = Ask(question, usual);
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
            "Run the command at a terminal, or write one answer a line to its input."
        );
}
