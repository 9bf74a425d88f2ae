using System.Globalization;
using Kettlefog.Core;

namespace Kettlefog.Database.Users;

/// <summary>
/// Which passwords can be chosen (NIST SP 800-63B, section 3.1.1.2): long ones of any characters, and none that are
/// guessed first: common passwords, repetitions and runs of neighbouring characters or keys, and the user's own name.
/// </summary>
public static class PasswordPolicy
{
    /// <summary>The least number of characters.</summary>
    public const int MinimumLength = 12;

    /// <summary>The greatest number of characters: hashing a longer one would only take time.</summary>
    public const int MaximumLength = 128;

    private const string GuessedHint = "Use several words that nobody else would put together.";
    private const string Resource = "common-passwords.txt";

    private static readonly string[] Runs =
    [
        "abcdefghijklmnopqrstuvwxyz",
        "01234567890",
        "qwertyuiop",
        "asdfghjkl",
        "zxcvbnm",
        "qwertzuiop",
        "azertyuiop",
        "1qaz2wsx3edc4rfv5tgb6yhn7ujm",
    ];

    private static readonly Lazy<HashSet<string>> Common = new(ReadCommon);

    /// <summary>Checks that a password can be chosen.</summary>
    /// <param name="password">The password.</param>
    /// <param name="user">The user's name.</param>
    /// <exception cref="KettlefogException">It cannot; the message says why.</exception>
    public static void Require(string password, string user)
    {
        ArgumentNullException.ThrowIfNull(password);
        ArgumentNullException.ThrowIfNull(user);
        if (password.Length < MinimumLength)
            throw Refusal("The password is too short.", $"Use at least {MinimumLength} characters.");
        if (password.Length > MaximumLength)
            throw Refusal("The password is too long.", $"Use at most {MaximumLength} characters.");
        var plain = LettersAndDigits(password);
        var name = LettersAndDigits(user);
        if (name.Length >= 3 && plain.Contains(name, StringComparison.Ordinal))
            throw Refusal("The password contains the user name.", GuessedHint);
        if (
            Common.Value.Contains(plain)
            || Common.Value.Contains(plain.Trim([.. "0123456789"]))
            || IsMonotonous(2 * plain.Length < password.Length ? password : plain)
        )
            throw Refusal("The password is one of those that are guessed first.", GuessedHint);
    }

    private static string LettersAndDigits(string text) =>
        string.Concat(text.Where(char.IsLetterOrDigit)).ToLower(CultureInfo.InvariantCulture);

    /// <summary>Whether most characters follow from those before them.</summary>
    private static bool IsMonotonous(string plain)
    {
        if (plain.Distinct().Count() <= 3)
            return true;
        for (var period = 1; period <= 4; period++)
            if (plain.Length > 2 * period && Enumerable.Range(period, plain.Length - period).All(Repeats(period)))
                return true;
        var following = Enumerable.Range(1, plain.Length - 1).Count(index => Follows(plain[index - 1], plain[index]));
        return following >= plain.Length - 3;

        Func<int, bool> Repeats(int period) => index => plain[index] == plain[index - period];
    }

    private static bool Follows(char one, char next) =>
        one == next
        || Runs.Any(run =>
            run.Contains($"{one}{next}", StringComparison.Ordinal)
            || run.Contains($"{next}{one}", StringComparison.Ordinal)
        );

    private static HashSet<string> ReadCommon()
    {
        using var stream = typeof(PasswordPolicy).Assembly.GetManifestResourceStream(Resource)!;
        using var reader = new StreamReader(stream);
        return
        [
            .. reader
                .ReadToEnd()
                .Split('\n', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
                .Where(line => line[0] != '#'),
        ];
    }

    private static KettlefogException Refusal(string message, string hint) =>
        new(ErrorCode.InvalidChoice, message, hint);
}
