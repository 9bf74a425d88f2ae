using System.CommandLine;
using System.Text.RegularExpressions;
using Kettlefog.Service.Settings;
using Kettlefog.Terminal;

namespace Kettlefog.Service.Commands;

/// <summary>Show effective settings and their origin.</summary>
internal static partial class SettingsCommand
{
    public static Command Create()
    {
        var format = Printer.FormatOption();
        var command = new Command(
            "settings",
            CommandHelp.WithExamples(
                "Show effective settings and their origin.",
                "service settings --config service.yaml"
            )
        )
        {
            ServiceSettings.DatabaseOption,
            ServiceSettings.MapOption,
            ServiceSettings.HostOption,
            ServiceSettings.PortOption,
            ServiceSettings.BusyTimeoutOption,
            ServiceSettings.BackupsOption,
            ServiceSettings.SigningKeyOption,
            ServiceSettings.CheckpointsOption,
            ServiceSettings.CheckpointHoursOption,
            format,
        };
        command.SetAction(result =>
        {
            var settings = ServiceSettings.Of(result);
            var all = settings
                .All()
                .Select(setting =>
                    setting with
                    {
                        Value = setting.Value is null ? null : PasswordPattern().Replace(setting.Value, "$1***"),
                    }
                )
                .ToList();
            new Printer(result.GetValue(format)).Print(
                all,
                new Grid(
                    ["setting", "value", "from"],
                    [
                        .. all.Select(setting =>
                            (IReadOnlyList<string?>)[setting.Name, setting.Value ?? "", setting.From]
                        ),
                    ]
                ),
                settings.File is null
                    ? $"No configuration file was found in {string.Join(" or ", SettingsFile.Places)}."
                    : null
            );
        });
        return command;
    }

    [GeneratedRegex(@"((?:://[^:@/]*:)|(?:password=))[^@;]*", RegexOptions.IgnoreCase)]
    private static partial Regex PasswordPattern();
}
