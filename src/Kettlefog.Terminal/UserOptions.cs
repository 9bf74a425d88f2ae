using System.CommandLine;
using Kettlefog.Contracts;

namespace Kettlefog.Terminal;

/// <summary>The options of a command that adds or changes a user, of the client and on the machine itself.</summary>
public sealed class UserOptions
{
    /// <summary>The names of the roles, the least first.</summary>
    internal static readonly string[] Roles = ["viewer", "operator", "approver", "administrator"];

    private readonly bool _isChange;

    private readonly Argument<string> _name;

    private readonly Option<string?> _fullName = new("--full-name") { Description = "Full name." };

    private readonly Option<string?> _role = new("--role")
    {
        Description = "Role: viewer, operator, approver or administrator.",
    };

    private readonly Option<bool> _password = new("--password-stdin");

    private readonly Option<bool> _disable = new("--disable")
    {
        Description = "Let the user no longer sign in, neither with a password nor by token or link; sessions end.",
    };

    private readonly Option<bool> _enable = new("--enable") { Description = "Let the user sign in again." };

    private UserOptions(bool isChange)
    {
        _isChange = isChange;
        _name = new("name")
        {
            Description = isChange
                ? "Name of the user."
                : "Name to sign in with: lower-case letters, digits, dots and hyphens.",
        };
        _password.Description = isChange
            ? "Read a new password from standard input; the user's sessions end."
            : "Read the password from standard input; without a password the user signs in by link or token only.";
        _role.AcceptOnlyFromAmong(Roles);
        if (!isChange)
            _role.DefaultValueFactory = _ => "operator";
    }

    /// <summary>Adds what a command needs that adds a user.</summary>
    /// <param name="command">The command.</param>
    /// <returns>The options, to be read with <see cref="ReadNewAsync"/>.</returns>
    public static UserOptions ForNew(Command command) => new UserOptions(isChange: false).On(command);

    /// <summary>Adds what a command needs that changes a user.</summary>
    /// <param name="command">The command.</param>
    /// <returns>The options, to be read with <see cref="ReadChangeAsync"/>.</returns>
    public static UserOptions ForChange(Command command) => new UserOptions(isChange: true).On(command);

    /// <summary>The user's name.</summary>
    /// <param name="result">The parsed command line.</param>
    /// <returns>The name as typed.</returns>
    public string Name(ParseResult result) => result.GetRequiredValue(_name);

    /// <summary>Reads the user to add, and the password from standard input if asked for.</summary>
    /// <param name="result">The parsed command line.</param>
    /// <param name="cancellationToken">Stops the reading.</param>
    /// <returns>The user; the full name is the name unless given.</returns>
    public async Task<NewUser> ReadNewAsync(ParseResult result, CancellationToken cancellationToken)
    {
        var name = Name(result);
        var password = await PasswordAsync(result, cancellationToken);
        return new NewUser(name, result.GetValue(_fullName) ?? name, result.GetRequiredValue(_role)!, password);
    }

    /// <summary>Reads what to change of a user, and the new password from standard input if asked for.</summary>
    /// <param name="result">The parsed command line.</param>
    /// <param name="cancellationToken">Stops the reading.</param>
    /// <returns>What to change; null where nothing is said.</returns>
    /// <exception cref="UsageException">Nothing is to change, or both disabled and enabled are asked for.</exception>
    public async Task<UserChangeBody> ReadChangeAsync(ParseResult result, CancellationToken cancellationToken)
    {
        var isDisabled = (result.GetValue(_disable), result.GetValue(_enable)) switch
        {
            (true, true) => throw new UsageException(
                "A user cannot be both disabled and enabled.",
                "Use '--disable' or '--enable'."
            ),
            (true, false) => true,
            (false, true) => false,
            _ => (bool?)null,
        };
        var password = await PasswordAsync(result, cancellationToken);
        var change = new UserChangeBody(result.GetValue(_fullName), result.GetValue(_role), isDisabled, password);
        return change != new UserChangeBody()
            ? change
            : throw new UsageException(
                "There is nothing to change.",
                "Use '--role', '--full-name', '--password-stdin', '--disable' or '--enable'."
            );
    }

    /// <summary>Says what a user is after a change.</summary>
    /// <param name="name">The user's name.</param>
    /// <param name="fullName">The full name.</param>
    /// <param name="role">The role's name.</param>
    /// <param name="isDisabled">Whether the user may not sign in.</param>
    /// <returns>One line.</returns>
    public static string InWords(string name, string fullName, string role, bool isDisabled) =>
        $"{name}: {fullName}, {role}, {(isDisabled ? "disabled" : "enabled")}.";

    private UserOptions On(Command command)
    {
        command.Add(_name);
        command.Add(_fullName);
        command.Add(_role);
        command.Add(_password);
        if (_isChange)
        {
            command.Add(_disable);
            command.Add(_enable);
        }
        return this;
    }

    private async Task<string?> PasswordAsync(ParseResult result, CancellationToken cancellationToken) =>
        result.GetValue(_password) ? (await Console.In.ReadLineAsync(cancellationToken) ?? "").TrimEnd('\r') : null;
}
