using System.CommandLine;
using Kettlefog.Contracts;

namespace Kettlefog.Terminal;

/// <summary>What a command is told of the merge that is to be planned.</summary>
public sealed class PlanOptions
{
    private readonly Argument<string> _type = new("type") { Description = "The record type, such as vendor." };

    private readonly Argument<string> _master = new("master") { Description = "The key of the record that stays." };

    private readonly Argument<string[]> _duplicates = new("duplicates")
    {
        Description = "The keys of the others.",
        Arity = ArgumentArity.OneOrMore,
    };

    private readonly Option<string[]> _take = new("--take")
    {
        Description = "Take a field's value from a record: --take phone=1002. May be repeated.",
        AllowMultipleArgumentsPerToken = false,
    };

    private readonly Option<string[]> _set = new("--set")
    {
        Description =
            "Type a field's value in: --set 'name=Gannet Chandlery'. May be repeated; nothing after '=' "
            + "leaves it blank.",
        AllowMultipleArgumentsPerToken = false,
    };

    private readonly Option<string[]> _by = new("--by")
    {
        Description = "Let another survivorship rule choose for a field: --by remark=append. May be repeated.",
        AllowMultipleArgumentsPerToken = false,
    };

    private readonly Option<string?> _rule = new("--rule")
    {
        Description = "The match rule by which the records were found: its survivorship holds.",
    };

    private readonly Option<string[]> _exclude = new("--exclude")
    {
        Description =
            "Let the rows of a reference stay with the retired records, where the map allows it. May be repeated.",
        AllowMultipleArgumentsPerToken = false,
    };

    private readonly Option<string[]> _end = new("--end")
    {
        Description =
            "Let the duplicates' rows end of which one record at most may have any, where the map says how. "
            + "May be repeated.",
        AllowMultipleArgumentsPerToken = false,
    };

    private readonly Option<string[]> _links = new("--link")
    {
        Description =
            "Merge linked records along that the plan offers: --link 'vessel 12 13', the master first. May be "
            + "repeated; what another of them offered comes after it.",
        AllowMultipleArgumentsPerToken = false,
    };

    private readonly Option<bool> _withLinked = new("--with-linked")
    {
        Description =
            "Merge along all linked records that the plan offers, and what they bring to light in turn, into "
            + "the suggested masters.",
    };

    /// <summary>Adds the arguments and options to a command.</summary>
    /// <returns>The command.</returns>
    public Command AddTo(Command command)
    {
        ArgumentNullException.ThrowIfNull(command);
        foreach (var argument in new Argument[] { _type, _master, _duplicates })
            command.Add(argument);
        foreach (var option in new Option[] { _take, _set, _by, _rule, _exclude, _end, _links, _withLinked })
            command.Add(option);
        return command;
    }

    /// <summary>True if all that is offered is to be merged along.</summary>
    public bool WantsLinked(ParseResult result) => result.GetValue(_withLinked);

    /// <summary>
    /// Plans; with all that the plan offers and that what was chosen offers in turn, if that was asked for.
    /// </summary>
    /// <param name="result">What was asked for.</param>
    /// <param name="plan">Makes a plan.</param>
    /// <returns>The plan, and the request that led to it.</returns>
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

    /// <summary>What was asked for.</summary>
    /// <exception cref="UsageException">Choices contradict each other, or are not of their form.</exception>
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
                    "Give one --take, --set or --by for each field."
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
            result.GetValue(_end)
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
