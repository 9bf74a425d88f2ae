using System.Text.Json;

namespace Kettlefog.Cli;

/// <summary>The stored address and token of a sign-in, in the XDG config folder, readable by the owner only.</summary>
/// <param name="Url">The address of the service.</param>
/// <param name="Token">The API token.</param>
internal sealed record SignInFile(string Url, string Token)
{
    private const UnixFileMode OwnerOnly = UnixFileMode.UserRead | UnixFileMode.UserWrite;

    /// <summary>Its path (XDG Base Directory Specification).</summary>
    public static string Location
    {
        get
        {
            var home = Environment.GetEnvironmentVariable("XDG_CONFIG_HOME");
            if (string.IsNullOrEmpty(home) || !Path.IsPathRooted(home))
                home = Path.Combine(Environment.GetFolderPath(Environment.SpecialFolder.UserProfile), ".config");
            return Path.Combine(home, "kettlefog", "sign-in.json");
        }
    }

    /// <summary>Reads it; null if there is none.</summary>
    /// <exception cref="IOException">The file exists but cannot be read.</exception>
    public static SignInFile? Read()
    {
        if (!File.Exists(Location))
            return null;
        try
        {
            return JsonSerializer.Deserialize<SignInFile>(File.ReadAllText(Location), JsonSerializerOptions.Web);
        }
        catch (JsonException)
        {
            throw new IOException($"{Location} is damaged; sign in again with 'kettlefog sign-in'.");
        }
    }

    /// <summary>Stores it.</summary>
    public void Write()
    {
        Directory.CreateDirectory(Path.GetDirectoryName(Location)!);

        // A new file with its rights from the start: others can never read the token.
        var fresh = Location + ".new";
        File.Delete(fresh);
        var options = new FileStreamOptions { Mode = FileMode.CreateNew, Access = FileAccess.Write };
        if (!OperatingSystem.IsWindows())
            options.UnixCreateMode = OwnerOnly;
        using (var stream = new FileStream(fresh, options))
            JsonSerializer.Serialize(stream, this, JsonSerializerOptions.Web);
        File.Move(fresh, Location, overwrite: true);
    }

    /// <summary>Deletes it.</summary>
    /// <returns>True if it existed.</returns>
    public static bool Forget()
    {
        var kept = File.Exists(Location);
        File.Delete(Location);
        return kept;
    }
}
