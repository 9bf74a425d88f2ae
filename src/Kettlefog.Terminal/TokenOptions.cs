using System.CommandLine;

namespace Kettlefog.Terminal;

/// <summary>The options of a command that creates an API token, of the client and on the machine itself.</summary>
public static class TokenOptions
{
    private const int UsualDays = 365;
    private const int MaximumDays = 3650;

    /// <summary>After how many days it expires.</summary>
    public static Option<int> Days()
    {
        var days = new Option<int>("--days")
        {
            Description = $"Days until it expires, at most {MaximumDays}.",
            DefaultValueFactory = _ => UsualDays,
        };
        days.Validators.Add(result =>
        {
            if (result.GetValueOrDefault<int>() is < 1 or > MaximumDays)
                result.AddError($"'--days' is 1 to {MaximumDays}.");
        });
        return days;
    }

    /// <summary>The role in which it acts at most.</summary>
    public static Option<string?> Role()
    {
        var role = new Option<string?>("--role")
        {
            Description = "Role in which it acts at most (default: that of its user).",
        };
        role.AcceptOnlyFromAmong(UserOptions.Roles);
        return role;
    }
}
