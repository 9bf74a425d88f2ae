using System.Text.Json.Nodes;

namespace Kettlefog.Core.History;

/// <summary>
/// Reads details as earlier programs wrote them. They are never rewritten, since the hash of their entry covers them;
/// they are converted when they are read.
/// </summary>
internal static class EarlierDetails
{
    /// <summary>The form that this program writes.</summary>
    public const int CurrentFormat = 2;

    /// <summary>Details in the current form.</summary>
    /// <param name="json">The details as the history stores them.</param>
    public static JsonNode Upgrade(string json)
    {
        var details = JsonNode.Parse(json)!;
        if (details["moves"] is not JsonArray moves)
            return details;
        var states = new JsonArray();
        foreach (var move in moves.OfType<JsonObject>())
        {
            if (move["worth"] is { } worth)
                move["amount"] = worth.ToJsonString();
            move["collisions"] ??= new JsonArray();
            foreach (var collision in move["collisions"]!.AsArray().OfType<JsonObject>())
            {
                Rename(collision, "stays", "kept");
                Rename(collision, "gone", "removed");
                Rename(collision, "along", "dependentsMoved");
            }

            if (move["pointedAt"] is null && move["lastKey"] is null)
                continue;
            var state = new JsonObject { ["reference"] = move["reference"]!.DeepClone() };
            Rename(move, "pointedAt", "pointedAt", state);
            Rename(move, "lastKey", "lastKey", state);
            states.Add(state);
        }

        if (details["ended"] is JsonArray ended)
            details["endedSteps"] = new JsonArray([.. ended.Select(row => row!["step"]?.DeepClone())]);
        if (states.Count > 0)
            details["references"] = states;
        return details;
    }

    private static void Rename(JsonObject from, string name, string today, JsonObject? into = null)
    {
        if (!from.Remove(name, out var value))
            return;
        (into ?? from)[today] = value;
    }
}
