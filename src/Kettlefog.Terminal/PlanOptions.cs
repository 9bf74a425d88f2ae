using System.CommandLine;
using Kettlefog.Contracts;

namespace Kettlefog.Terminal;

/// <summary>The arguments and options of a command that plans a merge.</summary>
public sealed class PlanOptions
{
    private readonly Argument<string> _type = new("type") { Description = "Record type, such as vendor." };

    private readonly Argument<string> _master = new("master") { Description = "Key of the record to keep." };

    private readonly Argument<string[]> _duplicates = new("duplicates")
    {
        Description = "Keys of the other records.",
        Arity = ArgumentArity.OneOrMore,
    };

    private readonly Option<string[]> _take = new("--take")
    {
        Description = "Take a field's value from a record: --take phone=1002; repeatable.",
        AllowMultipleArgumentsPerToken = false,
    };

    private readonly Option<string[]> _set = new("--set")
    {
        Description =
            "Set a field's value: --set 'name=Gannet Chandlery'; nothing after '=' makes it blank; " + "repeatable.",
        AllowMultipleArgumentsPerToken = false,
    };

    private readonly Option<string[]> _by = new("--by")
    {
        Description = "Use another survivorship rule for a field: --by remark=append; repeatable.",
        AllowMultipleArgumentsPerToken = false,
    };

    private readonly Option<string?> _rule = new("--rule")
    {
        Description = "Match rule that found the records; its survivorship rules apply.",
    };

    private readonly Option<string[]> _exclude = new("--exclude")
    {
        Description = "Leave the rows of a reference with the retired records, where the map allows it; repeatable.",
        AllowMultipleArgumentsPerToken = false,
    };

    private readonly Option<string[]> _end = new("--end")
    {
        Description =
            "End the duplicates' rows of an at_most_one rule of the map, such as running agreements; " + "repeatable.",
        AllowMultipleArgumentsPerToken = false,
    };

    private readonly Option<bool> _reopen = new("--reopen")
    {
        Description = "Reopen decisions that records of the merge are not duplicates.",
    };

    private readonly Option<string[]> _links = new("--link")
    {
        Description =
            "Include a linked merge that the plan offers: --link 'vessel 12 13', the master first; list a "
            + "merge after the one that offered it; repeatable.",
        AllowMultipleArgumentsPerToken = false,
    };

    private readonly Option<bool> _withLinked = new("--with-linked")
    {
        Description =
            "Include all linked merges that the plan offers, and those that they offer in turn, with "
            + "the suggested masters.",
    };

    /// <summary>Adds the arguments and options to a command.</summary>
    /// <returns>The command.</returns>
    public Command AddTo(Command command)
    {
        ArgumentNullException.ThrowIfNull(command);
        foreach (var argument in new Argument[] { _type, _master, _duplicates })
            command.Add(argument);
        foreach (var option in new Option[] { _take, _set, _by, _rule, _exclude, _end, _reopen, _links, _withLinked })
            command.Add(option);
        return command;
    }

    /// <summary>True if all offered linked merges are to be included.</summary>
    public bool WantsLinked(ParseResult result) => result.GetValue(_withLinked);

    /// <summary>
    /// Plans; if requested, with all linked merges that are offered, and those that they offer in turn.
    /// </summary>
    /// <param name="result">The parsed command line.</param>
    /// <param name="plan">Plans a merge.</param>
    /// <returns>The plan, and its request.</returns>
    public async Task<(PlanRequest Request, PlanView Plan)> PlanAsync(
        ParseResult result,
        Func<PlanRequest, Task<PlanView>> plan
    )
    {
        ArgumentNullException.ThrowIfNull(plan);
        var request = Read(result);
        for (; ; )
        {
            var view = await plan(request);
            var more = WantsLinked(result)
                ? (view.Offers ?? [])
                    .Where(offer => !offer.Chosen)
                    .Select(offer => new LinkedMerge(
                        offer.RecordType,
                        offer.Suggestion.Key,
                        [.. offer.Records.Select(record => record.Key).Where(key => key != offer.Suggestion.Key)]
                    ))
                    .ToList()
                : [];
            if (more.Count == 0)
                return (request, view);
            request = request with { Linked = [.. request.Linked ?? [], .. more] };
        }
    }

    private LinkedMerge ReadLink(string text)
    {
        var words = text.Split(' ', StringSplitOptions.RemoveEmptyEntries);
        return words.Length < 3
            ? throw new UsageException(
                $"'{text}' after {_links.Name} does not name a record type, a master and a duplicate.",
                $"Write it as in {_links.Name} 'vessel 12 13'."
            )
            : new LinkedMerge(words[0], words[1], words[2..]);
    }

    /// <summary>The request.</summary>
    /// <exception cref="UsageException">Choices contradict each other, or are malformed.</exception>
    public PlanRequest Read(ParseResult result)
    {
        var fields = new Dictionary<string, FieldChoiceView>();
        foreach (
            var (option, choice) in Pairs(result, _take)
                .Select(pair => (pair, new FieldChoiceView(From: pair.Value)))
                .Concat(Pairs(result, _set).Select(pair => (pair, new FieldChoiceView(Typed: pair.Value))))
                .Concat(Pairs(result, _by).Select(pair => (pair, new FieldChoiceView(Rule: pair.Value))))
        )
        {
            if (!fields.TryAdd(option.Field, choice))
                throw new UsageException(
                    $"The field {option.Field} is chosen twice.",
                    "Use one --take, --set or --by per field."
                );
        }

        return new PlanRequest(
            result.GetRequiredValue(_type),
            result.GetRequiredValue(_master),
            result.GetRequiredValue(_duplicates),
            fields,
            result.GetValue(_rule),
            result.GetValue(_exclude),
            [.. (result.GetValue(_links) ?? []).Select(ReadLink)],
            result.GetValue(_end),
            result.GetValue(_reopen)
        );
    }

    private static IEnumerable<(string Field, string Value)> Pairs(ParseResult result, Option<string[]> option) =>
        (result.GetValue(option) ?? []).Select(text =>
        {
            var at = text.IndexOf('=', StringComparison.Ordinal);
            return at > 0
                ? (text[..at], text[(at + 1)..])
                : throw new UsageException(
                    $"'{text}' after {option.Name} is not of the form field=value.",
                    $"Write it as in {option.Name} phone=1002."
                );
        });
}
