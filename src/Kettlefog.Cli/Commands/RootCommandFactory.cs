using System.CommandLine;
using Kettlefog.Terminal;

namespace Kettlefog.Cli.Commands;

/// <summary>Builds the root command.</summary>
internal static class RootCommandFactory
{
    public static RootCommand Create() =>
        new(
            CommandHelp.WithExamples(
                "Find and merge duplicate records in an operational database, and reverse merges.",
                "scan vendor",
                "clusters list vendor",
                "search vendor 'gann*'",
                "plan vendor 1001 1002",
                "merge vendor 1001 1002 --reason 'same firm'",
                "reverse 1 --reason 'two firms after all'"
            )
        )
        {
            CommonOptions.Url,
            CommonOptions.Token,
            CommonOptions.Format,
            SignInCommands.SignIn(),
            SignInCommands.SignOut(),
            SignInCommands.WhoAmI(),
            RecordCommands.Types(),
            MapCommand.Map(),
            RecordCommands.Search(),
            RecordCommands.Show(),
            RecordCommands.Related(),
            MergeCommands.Plan(),
            MergeCommands.Merge(),
            HistoryCommands.History(),
            HistoryCommands.Reverse(),
            OverviewCommand.Overview(),
            ScanCommands.Scan(),
            ClusterCommands.Clusters(),
            PairCommands.Pairs(),
            PairCommands.Explain(),
            PairCommands.Likely(),
            PairCommands.NonDuplicates(),
            RuleCommands.Rules(),
            UserCommands.Users(),
            UserCommands.Sessions(),
            UserCommands.Tokens(),
        };
}
