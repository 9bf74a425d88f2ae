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

/// <summary>A request for an API token, with name and password unless signed in.</summary>
/// <param name="Label">What it is for.</param>
/// <param name="Name">The user's name.</param>
/// <param name="Password">The password.</param>
public sealed record TokenBody(string Label, string? Name = null, string? Password = null);

/// <summary>A new token.</summary>
/// <param name="Token">The secret; it is not shown again.</param>
/// <param name="User">Whose it is.</param>
public sealed record IssuedToken(string Token, string User);

/// <summary>A token, without its secret.</summary>
/// <param name="Id">Its number.</param>
/// <param name="User">Whose it is.</param>
/// <param name="Label">What it is for.</param>
/// <param name="CreatedAt">When it was made.</param>
public sealed record TokenView(long Id, string User, string Label, DateTimeOffset CreatedAt);

/// <summary>A user.</summary>
/// <param name="Name">The name to sign in with.</param>
/// <param name="FullName">The name for people.</param>
/// <param name="Role"><c>viewer</c>, <c>operator</c>, <c>approver</c> or <c>administrator</c>.</param>
/// <param name="CreatedAt">When the user was added.</param>
public sealed record UserView(string Name, string FullName, string Role, DateTimeOffset CreatedAt);

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
