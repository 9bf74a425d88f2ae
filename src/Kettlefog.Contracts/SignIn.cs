namespace Kettlefog.Contracts;

/// <summary>A sign-in to the console: name and password, or a one-time link.</summary>
/// <param name="Name">The user's name.</param>
/// <param name="Password">The password.</param>
/// <param name="Link">The secret of a one-time link.</param>
public sealed record SignInBody(string? Name = null, string? Password = null, string? Link = null);

/// <summary>Who is signed in.</summary>
/// <param name="Name">The user's name.</param>
/// <param name="FullName">The name for people.</param>
/// <param name="Role"><c>viewer</c>, <c>operator</c>, <c>approver</c> or <c>administrator</c>.</param>
/// <param name="AntiForgery">
/// Send it with every change as <c>X-Kettlefog-Antiforgery</c>; null with a bearer token.
/// </param>
public sealed record SessionView(string Name, string FullName, string Role, string? AntiForgery);

/// <summary>A session of the console.</summary>
/// <param name="Id">Its number.</param>
/// <param name="User">Who is signed in.</param>
/// <param name="Address">The network address that signed in, or null if it is not known.</param>
/// <param name="CreatedAt">When it began.</param>
/// <param name="LastSeenAt">When it was used last, to a few minutes.</param>
/// <param name="ExpiresAt">When it ends at the latest; it ends earlier after twelve hours without a request.</param>
/// <param name="IsCurrent">Whether it is the session that asks.</param>
public sealed record OpenSessionView(
    long Id,
    string User,
    string? Address,
    DateTimeOffset CreatedAt,
    DateTimeOffset LastSeenAt,
    DateTimeOffset ExpiresAt,
    bool IsCurrent
);

/// <summary>Sessions that were ended.</summary>
/// <param name="Count">How many there were.</param>
public sealed record EndedSessions(int Count);

/// <summary>A change of the own password.</summary>
/// <param name="Current">The password until now.</param>
/// <param name="Password">The new password, of 12 to 128 characters.</param>
public sealed record PasswordBody(string Current, string Password);

/// <summary>A request for an API token, with name and password unless signed in.</summary>
/// <param name="Label">What it is for, in at most 200 characters.</param>
/// <param name="Name">The user's name.</param>
/// <param name="Password">The password.</param>
/// <param name="Days">After how many days it expires: 1 to 3650. Without a number after 365.</param>
/// <param name="Role">
/// The role it acts in at most: <c>viewer</c>, <c>operator</c>, <c>approver</c> or <c>administrator</c>; null for
/// that of its user.
/// </param>
public sealed record TokenBody(
    string Label,
    string? Name = null,
    string? Password = null,
    int? Days = null,
    string? Role = null
);

/// <summary>A new token.</summary>
/// <param name="Token">The secret; it is not shown again.</param>
/// <param name="User">Whose it is.</param>
public sealed record IssuedToken(string Token, string User);

/// <summary>A token, without its secret.</summary>
/// <param name="Id">Its number.</param>
/// <param name="User">Whose it is.</param>
/// <param name="Label">What it is for.</param>
/// <param name="Role">The role it acts in at most, or null for that of its user.</param>
/// <param name="CreatedAt">When it was made.</param>
/// <param name="ExpiresAt">When it becomes invalid, or null if never.</param>
/// <param name="LastUsedAt">When it was used last, to a few minutes; null if it never was.</param>
public sealed record TokenView(
    long Id,
    string User,
    string Label,
    string? Role,
    DateTimeOffset CreatedAt,
    DateTimeOffset? ExpiresAt,
    DateTimeOffset? LastUsedAt
);

/// <summary>A user.</summary>
/// <param name="Name">The name to sign in with.</param>
/// <param name="FullName">The name for people.</param>
/// <param name="Role"><c>viewer</c>, <c>operator</c>, <c>approver</c> or <c>administrator</c>.</param>
/// <param name="CreatedAt">When the user was added.</param>
/// <param name="DisabledAt">Since when the user cannot sign in, or null if they can.</param>
/// <param name="LastSignInAt">When the user signed in last, or null if that is not known.</param>
public sealed record UserView(
    string Name,
    string FullName,
    string Role,
    DateTimeOffset CreatedAt,
    DateTimeOffset? DisabledAt,
    DateTimeOffset? LastSignInAt
);

/// <summary>What to change of a user; what is left out is kept.</summary>
/// <param name="FullName">The name for people.</param>
/// <param name="Role"><c>viewer</c>, <c>operator</c>, <c>approver</c> or <c>administrator</c>.</param>
/// <param name="IsDisabled">
/// True if the user can no longer sign in, neither with a password nor by token or link; ends the user's sessions.
/// </param>
/// <param name="Password">A new password, of 12 to 128 characters; ends the user's sessions.</param>
public sealed record UserChangeBody(
    string? FullName = null,
    string? Role = null,
    bool? IsDisabled = null,
    string? Password = null
);

/// <summary>A user to whom clusters can be assigned.</summary>
/// <param name="Name">The name to sign in with.</param>
/// <param name="FullName">The name for people.</param>
public sealed record AssigneeView(string Name, string FullName);

/// <summary>A user to add.</summary>
/// <param name="Name">The name to sign in with: small letters, digits, dots and hyphens.</param>
/// <param name="FullName">The name for people.</param>
/// <param name="Role"><c>viewer</c>, <c>operator</c>, <c>approver</c> or <c>administrator</c>.</param>
/// <param name="Password">The password, or null for a user who signs in by token or link only.</param>
public sealed record NewUser(string Name, string FullName, string Role, string? Password = null);

/// <summary>The health of the service.</summary>
/// <param name="Status"><c>ok</c>, or <c>unavailable</c> if the operational database is not responding.</param>
/// <param name="Version">The version of the service.</param>
public sealed record HealthView(string Status, string Version);
