using System.Text;

namespace Kettlefog.Core.Naming;

/// <summary>
/// Enumeration members as they are written in maps, outputs and the API: <c>MasterUnlessBlank</c> is
/// <c>master-unless-blank</c>.
/// </summary>
public static class EnumName
{
    /// <summary>The written name of a member.</summary>
    /// <param name="value">The member.</param>
    public static string Of<T>(T value)
        where T : struct, Enum => Names<T>.ByValue[value];

    /// <summary>All written names, in the order of declaration.</summary>
    public static IReadOnlyCollection<string> All<T>()
        where T : struct, Enum => Names<T>.ByName.Keys;

    /// <summary>Reads a written name.</summary>
    /// <param name="name">The name.</param>
    /// <param name="value">The member, if there is one.</param>
    /// <returns>True if there is such a member.</returns>
    public static bool TryRead<T>(string name, out T value)
        where T : struct, Enum => Names<T>.ByName.TryGetValue(name, out value);

    private static class Names<T>
        where T : struct, Enum
    {
        public static readonly Dictionary<T, string> ByValue = Enum.GetValues<T>().ToDictionary(value => value, Write);

        public static readonly Dictionary<string, T> ByName = ByValue.ToDictionary(
            pair => pair.Value,
            pair => pair.Key
        );

        private static string Write(T value)
        {
            var text = new StringBuilder();
            foreach (var letter in value.ToString())
            {
                if (char.IsUpper(letter) && text.Length > 0)
                    text.Append('-');
                text.Append(char.ToLowerInvariant(letter));
            }

            return text.ToString();
        }
    }
}
