using System.Globalization;
using CsvHelper;

namespace Kettlefog.Terminal;

/// <summary>
/// Writes CSV (RFC 4180, but lines end in LF as tools on Linux expect), with a header line. A text that a spreadsheet
/// would take for a formula gets an apostrophe in front, which it takes for "text follows".
/// </summary>
public static class CsvText
{
    private const int BufferSize = 64 * 1024;
    private const char Mark = '\'';

    private static CsvWriterOptions Options => new() { NewLine = "\n" };

    /// <summary>Writes rows to a text writer.</summary>
    /// <param name="to">The writer; it is not disposed.</param>
    /// <param name="columns">The header.</param>
    /// <param name="rows">The values of each row; null is an empty field.</param>
    public static void Write(TextWriter to, IEnumerable<string> columns, IEnumerable<IEnumerable<object?>> rows)
    {
        using var csv = CsvWriter.Create(to, Options, leaveOpen: true);
        csv.WriteRecord([.. columns]);
        foreach (var row in rows)
            csv.WriteRecord(Texts(row));
    }

    /// <summary>Writes rows to a stream as UTF-8, as they come, so that their number does not matter.</summary>
    /// <param name="to">The stream, which is only written asynchronously; it is not disposed.</param>
    /// <param name="columns">The header.</param>
    /// <param name="rows">The values of each row; null is an empty field.</param>
    public static async Task WriteAsync(
        Stream to,
        IEnumerable<string> columns,
        IAsyncEnumerable<IReadOnlyList<object?>> rows
    )
    {
        using var buffer = new MemoryStream();
        using var csv = CsvWriter.Create(buffer, Options, leaveOpen: true);
        csv.WriteRecord([.. columns]);
        await foreach (var row in rows)
        {
            csv.WriteRecord(Texts(row));
            if (buffer.Length < BufferSize)
                continue;
            csv.Flush();
            await PassOnAsync();
        }

        csv.Flush();
        await PassOnAsync();

        async Task PassOnAsync()
        {
            await to.WriteAsync(buffer.GetBuffer().AsMemory(0, (int)buffer.Length));
            buffer.SetLength(0);
        }
    }

    /// <summary>The text that was written as a field, given what is read there.</summary>
    public static string Read(string field)
    {
        ArgumentNullException.ThrowIfNull(field);
        return field.StartsWith(Mark) && IsFormula(field[1..]) ? field[1..] : field;
    }

    private static string[] Texts(IEnumerable<object?> row) =>
        [
            .. row.Select(value => Convert.ToString(value, CultureInfo.InvariantCulture) ?? "")
                .Select(text => IsFormula(text) ? Mark + text : text),
        ];

    /// <summary>Whether a spreadsheet may compute it (OWASP, CSV injection); numbers are what they are.</summary>
    private static bool IsFormula(string text) =>
        text.Length > 0
        && text[0] is '=' or '+' or '-' or '@' or '\t' or '\r' or '\n' or '＝' or '＋' or '－' or '＠'
        && !decimal.TryParse(
            text,
            NumberStyles.Float | NumberStyles.AllowThousands,
            CultureInfo.InvariantCulture,
            out _
        );
}
