using System.CommandLine;
using System.Text.Encodings.Web;
using System.Text.Json;
using Kettlefog.Contracts;
using Spectre.Console;

namespace Kettlefog.Terminal;

/// <summary>The output formats.</summary>
public enum OutputFormat
{
    /// <summary>For people.</summary>
    Table,

    /// <summary>The API's response.</summary>
    Json,

    /// <summary>RFC 4180, but lines end in LF; with a header line.</summary>
    Csv,
}

/// <summary>Rows under column headings.</summary>
public sealed record Grid(
    IReadOnlyList<string> Columns,
    IReadOnlyList<IReadOnlyList<string?>> Rows,
    IReadOnlyList<int>? RightAligned = null
);

/// <summary>Prints to standard output.</summary>
public sealed class Printer(OutputFormat format, TextWriter? writer = null)
{
    private static readonly JsonSerializerOptions Json = new(ContractJson.Options)
    {
        WriteIndented = true,
        Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    private readonly IAnsiConsole _console = CreateConsole(writer ?? Console.Out);

    /// <summary>The option for the output format.</summary>
    public static Option<OutputFormat> FormatOption() =>
        new("--output", "-o")
        {
            Description = "Output format: table, json or csv.",
            HelpName = "table|json|csv",
            DefaultValueFactory = _ => OutputFormat.Table,
            CustomParser = result =>
            {
                if (
                    Enum.TryParse<OutputFormat>(
                        result.Tokens.SingleOrDefault()?.Value,
                        ignoreCase: true,
                        out var format
                    ) && Enum.IsDefined(format)
                )
                    return format;
                result.AddError(
                    $"'{result.Tokens.SingleOrDefault()?.Value}' is not an output format: write table, json or csv."
                );
                return default;
            },
        };

    /// <summary>True if people read the output.</summary>
    public bool ForPeople => format == OutputFormat.Table;

    /// <summary>Prints a response: as it is, as rows, or as a page for people.</summary>
    public void Print<T>(T answer, Func<Grid> rows, Action<Printer> page)
    {
        switch (format)
        {
            case OutputFormat.Json:
                Console.Out.WriteLine(VisibleText.OfJson(JsonSerializer.Serialize(answer, Json)));
                break;
            case OutputFormat.Csv:
                var grid = rows();
                // A pipe gets every character as it is.
                Func<string?, string> shown = Console.IsOutputRedirected
                    ? value => value ?? ""
                    : value => VisibleText.Of(value ?? "");
                CsvText.Write(Console.Out, grid.Columns, grid.Rows.Select(row => row.Select(shown)));
                break;
            default:
                page(this);
                break;
        }
    }

    /// <summary>Prints a response whose page is a table and a line below it.</summary>
    public void Print<T>(T answer, Grid grid, string? below = null) =>
        Print(
            answer,
            () => grid,
            page =>
            {
                page.Table(grid);
                if (below is not null)
                    page.Line(below);
            }
        );

    /// <summary>Prints a line for people.</summary>
    public void Line(string text = "")
    {
        if (ForPeople)
            _console.WriteLine(VisibleText.Of(text));
    }

    /// <summary>Prints a heading for people.</summary>
    public void Heading(string text)
    {
        _console.WriteLine();
        _console.Write(new Text(VisibleText.InLine(text), new Style(decoration: Decoration.Bold)));
        _console.WriteLine();
    }

    /// <summary>Prints a table for people.</summary>
    public void Table(Grid grid)
    {
        var table = new Table { Border = TableBorder.Simple };
        for (var index = 0; index < grid.Columns.Count; index++)
        {
            var column = new TableColumn(
                new Text(VisibleText.InLine(grid.Columns[index]), new Style(decoration: Decoration.Bold))
            );
            if (grid.RightAligned?.Contains(index) == true)
                column.RightAligned();
            table.AddColumn(column);
        }

        foreach (var row in grid.Rows)
            table.AddRow(row.Select(value => new Text(VisibleText.InLine(value))));
        _console.Write(table);
    }

    private static IAnsiConsole CreateConsole(TextWriter writer)
    {
        var console = AnsiConsole.Create(new AnsiConsoleSettings { Out = new AnsiConsoleOutput(writer) });

        // A pipe has no width: its reader needs whole lines, unless COLUMNS says otherwise.
        if (Console.IsOutputRedirected)
            console.Profile.Width =
                int.TryParse(Environment.GetEnvironmentVariable("COLUMNS"), out var columns) && columns > 20
                    ? columns
                    : 4096;
        return console;
    }
}
