using System.Globalization;
using System.Text.Json;
using System.Text.Json.Nodes;
using Screeline.Core.Formats;

namespace Screeline.Core.Motion;

/// <summary>A wiper linkage with its name and the vehicles it is known on.</summary>
/// <param name="Id">Identifier.</param>
/// <param name="Models">Models it is fitted to; empty for any.</param>
/// <param name="Linkage">The linkage.</param>
public sealed record NamedLinkage(string Id, IReadOnlyList<string> Models, WiperLinkage Linkage);

/// <summary>The format <c>screeline/linkage@1</c>, exact meanings in docs/formats.md.</summary>
public static class LinkageFormat
{
    /// <summary>Its name.</summary>
    public const string Name = "screeline/linkage@1";

    /// <summary>Words for the drives.</summary>
    public static IReadOnlyDictionary<string, WiperDrive> Drives { get; } = new Dictionary<string, WiperDrive>(StringComparer.Ordinal)
    {
        ["continuous"] = WiperDrive.Continuous, ["alternating-park"] = WiperDrive.AlternatingPark, ["reversing"] = WiperDrive.Reversing,
    };

    /// <summary>Reads a file; all faults at once with their JSON path.</summary>
    /// <exception cref="RefusedFileException">The file has faults.</exception>
    public static NamedLinkage Read(string text, string source)
    {
        var faults = new List<FormatFault>();
        using var document = JsonReader.Parse(text, faults);
        var read = document is null ? null : Read(new JsonReader(document.RootElement, "$", faults));
        return faults.Count > 0 || read is null ? throw new RefusedFileException(source, faults) : read;
    }

    /// <summary>Reads one from an object; look at the reader's faults before using it.</summary>
    public static NamedLinkage? Read(JsonReader r)
    {
        r.Choice("format", [Name]);
        var (id, title) = (r.Text("id"), r.Text("title"));
        var models = r.Texts("models", optional: true);
        var drive = Drives[r.Choice("drive", [.. Drives.Keys])];
        var motor = Point(r, "motor");
        var crank = Length(r, "crank");
        var park = Numbers(r, "park", 1, 2);
        var ends = r.Given("ends") ? Numbers(r, "ends", 2, 2) : null;
        var gauge = r.Object("gauge", g => new CrankGauge(Length(g, "radius"), Length(g, "gap"), Length(g, "tolerance"), g.Choice("opens", ["against-clock", "with-clock"]) == "against-clock" ? 1 : -1), optional: true);
        var rockers = r.List("rockers", Rocker);
        var glass = r.Object("glass", g => new Windscreen(Line(g, "cowl"), Line(g, "left_pillar"), Line(g, "right_pillar")));
        r.RefuseOthers();
        if (r.Faults.Count > 0)
        {
            return null;
        }

        var linkage = new WiperLinkage(title, drive, motor, crank, park, ends is { } e ? (e[0], e[1]) : null, gauge, rockers, glass!);
        r.Faults.AddRange(LinkageChecks.FaultsOf(linkage).Select(f => f with { Path = r.Path + f.Path[1..] }));
        return new NamedLinkage(id, models, linkage);
    }

    /// <summary>Writes one; reading it again gives the same.</summary>
    public static JsonObject Write(NamedLinkage named)
    {
        var l = named.Linkage;
        JsonArray Of(Planar p) => [p.X, p.Y];
        JsonArray Points(IReadOnlyList<Planar> points) => [.. points.Select(p => (JsonNode)Of(p))];
        var o = new JsonObject
        {
            ["format"] = Name, ["id"] = named.Id, ["title"] = l.Title,
            ["models"] = new JsonArray([.. named.Models.Select(m => (JsonNode)m)]),
            ["drive"] = Drives.First(d => d.Value == l.Drive).Key, ["motor"] = Of(l.Motor), ["crank"] = l.Crank,
            ["park"] = new JsonArray([.. l.Park.Select(p => (JsonNode)p)]),
        };
        if (l.Ends is { } ends)
        {
            o["ends"] = new JsonArray(ends.From, ends.To);
        }

        if (l.Gauge is { } gauge)
        {
            o["gauge"] = new JsonObject { ["radius"] = gauge.Radius, ["gap"] = gauge.Gap, ["tolerance"] = gauge.Tolerance, ["opens"] = gauge.Opens > 0 ? "against-clock" : "with-clock" };
        }

        o["rockers"] = new JsonArray([.. l.Rockers.Select(r => (JsonNode)new JsonObject
        {
            ["title"] = r.Title, ["pivot"] = Of(r.Pivot), ["driven_by"] = r.DrivenBy, ["link"] = r.Link, ["lever"] = r.Lever, ["crossed"] = r.Crossed,
            ["from_lever"] = r.FromLever, ["from_angle"] = r.FromAngle,
            ["arm"] = new JsonObject { ["angle"] = r.Arm.Angle, ["tip"] = r.Arm.Tip, ["heel"] = r.Arm.Heel, ["teeth"] = r.Arm.Teeth },
            ["band"] = new JsonObject { ["height"] = r.Band.Height, ["tolerance"] = r.Band.Tolerance },
        })]);
        o["glass"] = new JsonObject { ["cowl"] = Points(l.Glass.Cowl), ["left_pillar"] = Points(l.Glass.LeftPillar), ["right_pillar"] = Points(l.Glass.RightPillar) };
        return o;
    }

    private static WiperRocker Rocker(JsonReader r)
    {
        var (title, pivot, drivenBy) = (r.Text("title"), Point(r, "pivot"), r.Whole("driven_by", -1, 9));
        var (link, lever) = (Length(r, "link"), Length(r, "lever"));
        var crossed = r.Given("crossed") && r.YesNo("crossed");
        var (fromLever, fromAngle) = ((double)(r.OptionalNumber("from_lever", 0, 10_000) ?? 0), (double)(r.OptionalNumber("from_angle", -360, 360) ?? 0));
        var arm = r.Object("arm", a => new WiperArm((double)a.Number("angle", -360, 360), Length(a, "tip"), Length(a, "heel"), a.Whole("teeth", 0, 400)));
        var band = r.Object("band", b => new TipBand((double)b.Number("height", -500, 500), Length(b, "tolerance")));
        return new WiperRocker(title, pivot, drivenBy, link, lever, crossed, fromLever, fromAngle, arm ?? new WiperArm(0, 1, 0, 0), band ?? new TipBand(0, 0));
    }

    private static double Length(JsonReader r, string key) => (double)r.Number(key, 0, 10_000);

    private static Planar Point(JsonReader r, string key) => Numbers(r, key, 2, 2) is [var x, var y] ? new Planar(x, y) : default;

    private static double[] Numbers(JsonReader r, string key, int least, int most)
    {
        if (r.Get(key) is not { } value)
        {
            r.Fault("is missing", key);
            return [];
        }

        if (Plain(value) is { } numbers && numbers.Length >= least && numbers.Length <= most)
        {
            return numbers;
        }

        r.Fault(least == most ? $"a list of {least} numbers, each from −10000 to 10000, is wanted here" : $"a list of {least} to {most} numbers is wanted here", key);
        return [];
    }

    private static double[]? Plain(JsonElement value) =>
        value.ValueKind == JsonValueKind.Array && value.EnumerateArray().All(n => n.ValueKind == JsonValueKind.Number && Math.Abs(n.GetDouble()) <= 10_000)
            ? [.. value.EnumerateArray().Select(n => n.GetDouble())] : null;

    private static Planar[] Line(JsonReader r, string key)
    {
        if (r.Get(key) is { ValueKind: JsonValueKind.Array } value && value.GetArrayLength() is >= 2 and <= 50
            && value.EnumerateArray().Select(Plain).ToList() is var points && points.All(p => p is { Length: 2 }))
        {
            Planar[] line = [.. points.Select(p => new Planar(p![0], p[1]))];
            if (line.Zip(line.Skip(1)).All(p => (p.First - p.Second).Length > 0))
            {
                return line;
            }
        }

        r.Fault(string.Create(CultureInfo.InvariantCulture, $"2 to 50 different points [x, y] are wanted here"), key);
        return [new Planar(0, 0), new Planar(1, 0)];
    }
}
