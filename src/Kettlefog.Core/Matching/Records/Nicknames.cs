using System.Collections.Concurrent;
using Kettlefog.Core.Text;

namespace Kettlefog.Core.Matching.Records;

/// <summary>The groups of given names that are forms of one name.</summary>
internal sealed class Nicknames
{
    private readonly Dictionary<string, HashSet<int>> _groups = [];
    private readonly ConcurrentDictionary<string, ulong> _sounds = new();
    private readonly List<string[]> _all;

    /// <summary>Creates the table.</summary>
    /// <param name="further">Groups in addition to the built-in ones.</param>
    public Nicknames(IEnumerable<IReadOnlyList<string>>? further = null)
    {
        _all =
        [
            .. WordLists.Nicknames,
            .. (further ?? []).Select(group => group.Select(name => PlainLetters.Of(name.Trim())).ToArray()),
        ];
        for (var group = 0; group < _all.Count; group++)
        {
            foreach (var name in _all[group])
            {
                if (!_groups.TryGetValue(name, out var groups))
                    _groups[name] = groups = [];
                groups.Add(group);
            }
        }
    }

    /// <summary>True if the name is in any group.</summary>
    public bool Knows(Token name) => _groups.ContainsKey(name.Text);

    /// <summary>True if both are forms of one name.</summary>
    public bool Share(Token a, Token b) =>
        _groups.TryGetValue(a.Text, out var x) && _groups.TryGetValue(b.Text, out var y) && x.Overlaps(y);

    /// <summary>True if one is the initial of a name of which the other is a form: E. and Liz.</summary>
    public bool HaveInitial(Token a, Token b)
    {
        var (letter, name) = a.Text.Length == 1 ? (a.Text[0], b.Text) : (b.Text[0], a.Text);
        return (a.Text.Length == 1 || b.Text.Length == 1)
            && _groups.TryGetValue(name, out var groups)
            && groups.Any(group => _all[group][0][0] == letter);
    }

    /// <summary>
    /// The phonetic code of a name; nicknames of one group share a code, if the name is in one group only.
    /// </summary>
    public ulong SoundOf(Token token)
    {
        if (_sounds.TryGetValue(token.Text, out var known))
            return known;
        var sound = token.Sound;
        if (_groups.TryGetValue(token.Text, out var groups))
            sound = new Token(0, _all[groups.Min()][0]).Sound;
        return _sounds[token.Text] = sound;
    }
}
