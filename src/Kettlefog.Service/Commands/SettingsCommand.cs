using System.CommandLine;
using Kettlefog.Database;
using Kettlefog.Service.Settings;
using Kettlefog.Terminal;

namespace Kettlefog.Service.Commands;

/// <summary>Show effective settings and their origin.</summary>
internal static class SettingsCommand
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
            format,
        };
        foreach (var option in ServiceSettings.OfServing)
            command.Add(option);
        command.SetAction(result =>
        {
            var settings = ServiceSettings.Of(result);
            var all = settings
                .All()
                .Select(setting =>
                    setting with
                    {
                        Value = setting is { Name: "database", Value: { } address }
                            ? OwnTablesMaintenance.WithoutPassword(address)
                            : setting.Value,
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
}
