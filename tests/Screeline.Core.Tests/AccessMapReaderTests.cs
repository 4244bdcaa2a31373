using System.Text.Json.Nodes;
using Screeline.Core.Access;

namespace Screeline.Core.Tests;

/// <summary>Every fault of a map is told at once, with its path.</summary>
public sealed class AccessMapReaderTests
{
    private const string Good = """
        {
          "format": "screeline/access-map@1", "id": "m", "title": "M", "family": "starting", "start_position": "top",
          "positions": [{"id": "top", "title": "Top"}, {"id": "under", "title": "Under"}, {"id": "bench", "title": "Bench"}],
          "moves": [{"from": "top", "to": "under", "minutes": 4}],
          "default_move_minutes": 5, "tool_change_minutes": 0.25, "labour_rate_per_hour": 60,
          "operations": [
            {"id": "a", "title": "A", "kind": "open", "position": "top", "minutes": {"low": 1, "likely": 2, "high": 3}, "needs": null, "tools": ["t"],
             "damage": {"chance": 0.1, "cost": 10, "what": "w"}, "consumes": [], "close": {"minutes": null, "while": null, "gate": false}},
            {"id": "b", "title": "B", "kind": "once", "position": "under", "minutes": {"low": 1, "likely": 2, "high": 3}, "needs": {"any": ["a", {"all": []}]}, "tools": [],
             "damage": {"chance": 0, "cost": 0, "what": ""}, "consumes": [{"part": "p", "quantity": 1, "price": 3.2}], "close": {"minutes": null, "while": null, "gate": false}}
          ],
          "refit_steps": [{"id": "s", "title": "S", "position": "top", "minutes": {"low": 1, "likely": 2, "high": 3}, "tools": [], "applies_if": "a", "after": ["a"], "before": [], "gate": true}],
          "targets": [{"id": "t", "operation": "b"}]
        }
        """;

    [Fact]
    public void A_good_map_has_no_faults()
    {
        var reading = AccessMapReader.Read(Good);
        Assert.Empty(reading.Faults);
        Assert.Equal(4m, reading.Map!.MoveMinutes("under", "top"));
        Assert.Equal(5m, reading.Map.MoveMinutes("under", "bench"));
    }

    public static TheoryData<string, string, string, string> Faults => new()
    {
        // change at path, to JSON, path of the fault, part of its message
        { "colour", "\"red\"", "$.colour", "unknown key" },
        { "operations.0.colour", "\"red\"", "$.operations[0].colour", "unknown key" },
        { "format", "\"screeline/access-map@9\"", "$.format", "is not read here" },
        { "start_position", "\"roof\"", "$.start_position", "no position “roof”" },
        { "operations.0.position", "\"roof\"", "$.operations[0].position", "no position" },
        { "operations.1.id", "\"a\"", "$.operations[1].id", "used twice" },
        { "refit_steps.0.id", "\"a\"", "$.refit_steps[0].id", "used twice" },
        { "operations.0.minutes.low", "9", "$.operations[0].minutes", "out of order" },
        { "operations.0.minutes.low", "-1", "$.operations[0].minutes.low", "below 0" },
        { "operations.0.minutes.low", "\"x\"", "$.operations[0].minutes.low", "a number is wanted" },
        { "operations.0.damage.chance", "1.5", "$.operations[0].damage.chance", "outside 0 to 1" },
        { "operations.0.needs", "\"zz\"", "$.operations[0].needs", "no operation “zz”" },
        { "operations.0.needs", "{\"any\": []}", "$.operations[0].needs", "empty \"any\"" },
        { "operations.0.needs", "{\"none\": [\"b\"]}", "$.operations[0].needs", "is wanted here" },
        { "operations.0.needs", "{\"all\": [\"b\"], \"any\": [\"b\"]}", "$.operations[0].needs", "is wanted here" },
        { "operations.0.needs", "\"a\"", "$.operations[0].needs", "can never be done" },
        { "operations.0.kind", "\"shut\"", "$.operations[0].kind", "none of: open, once" },
        { "operations.0.close.gate", "\"yes\"", "$.operations[0].close.gate", "true or false" },
        { "operations.0.or_tools", "{\"other\": [\"x\"]}", "$.operations[0].or_tools.other", "does not use" },
        { "operations.0.cautions", "[\"nonsense\"]", "$.operations[0].cautions[0]", "no caution" },
        { "operations.0.tools", "[3]", "$.operations[0].tools[0]", "text is wanted" },
        { "moves", "[{\"from\": \"top\", \"to\": \"under\", \"minutes\": 4}, {\"from\": \"under\", \"to\": \"top\", \"minutes\": 4}]", "$.moves[1]", "given twice" },
        { "moves", "[{\"from\": \"top\", \"to\": \"under\", \"minutes\": 99}]", "$.moves", "10 min through bench" },
        { "moves", "[{\"from\": \"top\", \"to\": \"moon\", \"minutes\": 4}]", "$.moves[0].to", "no position" },
        { "targets.0.operation", "\"zz\"", "$.targets[0].operation", "no operation" },
        { "targets", "[]", "$.targets", "leads nowhere" },
        { "printed_route", "[\"zz\"]", "$.printed_route[0]", "no operation" },
        { "refit_steps.0.after", "[\"zz\"]", "$.refit_steps[0].after[0]", "no operation or refit step" },
        { "operations.0.cautions", "[\"live\"]", "$.operations[0].needs", "the caution “live” requires “isolated”" },
        { "positions.1.requires", "[\"on-stands\"]", "$.operations[1].needs", "“under” requires “on-stands”" },
        { "refit_steps", "[{\"id\": \"s\", \"title\": \"S\", \"position\": \"top\", \"minutes\": {\"low\": 1, \"likely\": 2, \"high\": 3}, \"tools\": [], \"after\": [\"s\"], \"before\": [], \"gate\": true}]", "$.targets[0]", "no order of refitting" },
        { "operations.0.fasteners", "[{\"id\": \"f\", \"holds\": \"h\", \"kind\": \"bolt\", \"count\": 2, \"reuse\": \"yes\", \"treatment\": \"dry\", \"at\": [[1, 2]]}]", "$.operations[0].fasteners[0].at", "1 places for 2 fasteners" },
        { "operations.0.fasteners", "[{\"id\": \"f\", \"holds\": \"h\", \"kind\": \"bolt\", \"count\": 2, \"reuse\": \"yes\", \"treatment\": \"dry\", \"at\": [[1, 200], [2, 3]]}]", "$.operations[0].fasteners[0].at", "each from 0 to 100" },
        { "operations.0.fasteners", "[{\"id\": \"f\", \"holds\": \"h\", \"kind\": \"bolt\", \"count\": 2, \"reuse\": \"yes\", \"treatment\": \"dry\", \"at\": 7}]", "$.operations[0].fasteners[0].at", "a list of [x, y]" },
        { "operations.0.fasteners", "[{\"id\": \"f\", \"holds\": \"h\", \"kind\": \"bolt\", \"count\": 2, \"reuse\": \"yes\", \"treatment\": \"dry\", \"joint\": \"glass\"}]", "$.operations[0].fasteners[0].joint", "none of: steel" },
        { "operations.0.fasteners", "[{\"id\": \"f\", \"holds\": \"h\", \"kind\": \"bolt\", \"count\": 2, \"reuse\": \"yes\", \"treatment\": \"dry\", \"strength\": \"7.7\"}]", "$.operations[0].fasteners[0].strength", "none of: 4.6" },
        { "operations.0.fasteners", "[{\"id\": \"f\", \"holds\": \"h\", \"kind\": \"bolt\", \"count\": 2, \"reuse\": \"yes\", \"treatment\": \"dry\", \"structural\": 1}]", "$.operations[0].fasteners[0].structural", "true or false" },
        { "operations.0.fasteners", "[{\"id\": \"f\", \"holds\": \"h\", \"kind\": \"bolt\", \"count\": 2, \"reuse\": \"yes\", \"treatment\": \"dry\", \"adaptor\": {\"offset_mm\": 45, \"angle\": 270}}]", "$.operations[0].fasteners[0].adaptor.angle", "outside 0 to 180" },
        { "operations.0.fasteners", "[{\"id\": \"f\", \"holds\": \"h\", \"kind\": \"bolt\", \"count\": 2, \"reuse\": \"yes\", \"treatment\": \"dry\", \"torque\": {\"value\": 9, \"unit\": \"N·m\", \"source\": \"s\", \"passes\": [1, 0.5]}}]", "$.operations[0].fasteners[0].torque.passes", "rise to 1" },
        { "operations.0.fasteners", "[{\"id\": \"f\", \"holds\": \"h\", \"kind\": \"bolt\", \"count\": 2, \"reuse\": \"yes\", \"treatment\": \"dry\", \"torque\": {\"value\": 9, \"unit\": \"N·m\", \"source\": \"s\", \"grade\": \"rumour\"}}]", "$.operations[0].fasteners[0].torque.grade", "none of: maker" },
        { "operations.0.fasteners", "[{\"id\": \"f\", \"holds\": \"h\", \"kind\": \"bolt\", \"count\": 2, \"reuse\": \"yes\", \"treatment\": \"dry\", \"torque\": {\"value\": 9, \"unit\": \"N·m\", \"source\": \"s\", \"others\": [{\"value\": 0, \"unit\": \"N·m\", \"source\": \"t\"}]}}]", "$.operations[0].fasteners[0].torque.others[0].value", "outside 0.01" },
        { "operations.0.outline", "[[0, 0], [1, 1]]", "$.operations[0].outline", "three corners" },
        { "operations.0.off", "[{\"kind\": \"door\", \"what\": \"w\"}]", "$.operations[0].off[0].kind", "none of: connector" },
        { "operations.0.off", "[{\"kind\": \"hose\", \"what\": \"w\", \"count\": 0}]", "$.operations[0].off[0].count", "outside 1 to 100" },
        { "refit_steps.0.applies_if", "\"zz\"", "$.refit_steps[0].applies_if", "no operation" },
    };

    [Theory]
    [MemberData(nameof(Faults))]
    public void A_fault_is_told_with_its_path(string at, string to, string path, string message)
    {
        var reading = AccessMapReader.Read(Changed(Good, at, JsonNode.Parse(to)), new Dictionary<string, IReadOnlyList<string>> { ["battery"] = [], ["live"] = ["isolated"] });
        Assert.Null(reading.Map);
        Assert.Contains(reading.Faults, f => f.Path == path && f.Message.Contains(message, StringComparison.Ordinal));
    }

    [Theory]
    [InlineData("id")]
    [InlineData("positions")]
    [InlineData("operations")]
    [InlineData("default_move_minutes")]
    [InlineData("operations.0.needs")]
    [InlineData("operations.0.close")]
    [InlineData("operations.0.minutes.high")]
    public void A_needed_key_left_out_is_told(string at)
    {
        var reading = AccessMapReader.Read(Changed(Good, at, null, remove: true));
        Assert.Contains(reading.Faults, f => f.Message.Contains("is missing", StringComparison.Ordinal));
    }

    [Fact]
    public void All_faults_are_told_at_once()
    {
        var twice = Changed(Changed(Good, "start_position", "roof"), "operations.0.damage.chance", 7);
        Assert.Equal(2, AccessMapReader.Read(twice).Faults.Count);
    }

    [Fact]
    public void A_map_too_large_says_the_limit()
    {
        var root = JsonNode.Parse(Good)!;
        var operations = root["operations"]!.AsArray();
        for (var i = 0; i < 256; i++)
        {
            var more = operations[0]!.DeepClone();
            more["id"] = $"more-{i}";
            operations.Add(more);
        }

        for (var i = 0; i < 24; i++)
        {
            root["positions"]!.AsArray().Add(JsonNode.Parse($"{{\"id\": \"p{i}\", \"title\": \"P\"}}"));
        }

        var faults = AccessMapReader.Read(root.ToJsonString()).Faults;
        Assert.Contains(faults, f => f.Path == "$.operations" && f.Message.Contains("258 operations and 1 refit steps: together at most 256", StringComparison.Ordinal));
        Assert.Contains(faults, f => f.Path == "$.positions" && f.Message.Contains("at most 24", StringComparison.Ordinal));
    }

    [Fact]
    public void A_state_that_makes_safe_must_hold_on_every_way()
    {
        // Under the vehicle by “a”, which provides the stand, or by nothing at all: the second way is not safe.
        var root = JsonNode.Parse(Good)!;
        root["positions"]![1]!["requires"] = new JsonArray("on-stands");
        root["operations"]![0]!["provides"] = new JsonArray("on-stands");
        Assert.Contains(AccessMapReader.Read(root.ToJsonString()).Faults, f => f.Path == "$.operations[1].needs" && f.Message.Contains("there is a way here", StringComparison.Ordinal));
        root["operations"]![1]!["needs"] = "a";
        Assert.Empty(AccessMapReader.Read(root.ToJsonString()).Faults);
        // Whoever stands under it cannot be the one who puts it on stands.
        root["operations"]![0]!["position"] = "under";
        Assert.Contains(AccessMapReader.Read(root.ToJsonString()).Faults, f => f.Path == "$.operations[0].needs");
    }

    [Fact]
    public void What_a_job_was_planned_on_is_read_without_being_checked_again()
    {
        var root = JsonNode.Parse(Good)!;
        root["positions"]![1]!["requires"] = new JsonArray("on-stands");
        Assert.Null(AccessMapReader.Read(root.ToJsonString()).Map);
        Assert.NotNull(AccessMapReader.ReadKept(root.ToJsonString()));
        Assert.Null(AccessMapReader.ReadKept("{ not JSON"));
    }

    [Theory]
    [InlineData("")]
    [InlineData("[")]
    [InlineData("3")]
    [InlineData("null")]
    [InlineData("[]")]
    [InlineData("{\"id\": \"a\", \"id\": \"b\"}")]
    [InlineData("{\"id\": \"\\u0000\"}")]
    [InlineData("{\"id\": \"\\ud800\"}")]
    public void What_is_no_map_is_refused_not_thrown(string text)
    {
        var reading = AccessMapReader.Read(text);
        Assert.Null(reading.Map);
        Assert.NotEmpty(reading.Faults);
    }

    private static string Changed(string json, string at, JsonNode? to, bool remove = false)
    {
        var root = JsonNode.Parse(json)!;
        var keys = at.Split('.');
        var node = root;
        foreach (var key in keys[..^1])
        {
            node = int.TryParse(key, out var i) ? node[i]! : node[key]!;
        }

        if (remove)
        {
            node.AsObject().Remove(keys[^1]);
        }
        else
        {
            node[keys[^1]] = to;
        }

        return root.ToJsonString();
    }
}
