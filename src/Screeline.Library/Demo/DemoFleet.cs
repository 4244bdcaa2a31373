using Screeline.Core.Formats;

namespace Screeline.Library.Demo;

/// <summary>A person of the demo.</summary>
public sealed record DemoPerson(Guid Id, string Name, string Role);

/// <summary>A vehicle of the demo.</summary>
public sealed record DemoVehicle(Guid Id, string Name, string Model, string Version, int Year, decimal NominalVolts);

/// <summary>The motor pool of the invented harbour trust: people, vehicles, tools.</summary>
public sealed record DemoFleet(IReadOnlyList<DemoPerson> People, IReadOnlyList<DemoVehicle> Vehicles, IReadOnlyList<string> ToolsOwned, IReadOnlyList<(string Tool, int DaysAgo)> Calibrated)
{
    /// <summary>Reads it from the data file.</summary>
    /// <exception cref="RefusedFileException">The file has faults.</exception>
    public static DemoFleet Load()
    {
        const string name = "demo/fleet.json";
        var faults = new List<FormatFault>();
        var people = ShippedLibrary.ReadList(name, "people", r => new DemoPerson(Id(r), r.Text("name"), r.Text("role")), faults);
        var vehicles = ShippedLibrary.ReadList(name, "vehicles", r => new DemoVehicle(Id(r), r.Text("name"), r.Text("model"), r.Text("version"), r.Whole("year", 1900, 2200), r.Number("nominal_volts", 12, 24)), faults);
        var tools = ShippedLibrary.ReadTexts(name, "tools_owned", faults);
        var calibrated = ShippedLibrary.ReadList(name, "calibrated", r => (r.Text("tool"), r.Whole("days_ago", 0, 5000)), faults);
        return faults.Count == 0 ? new DemoFleet(people, vehicles, tools, calibrated) : throw new RefusedFileException(name, faults);
    }

    /// <summary>The vehicle with this name.</summary>
    public DemoVehicle Vehicle(string name) => Vehicles.First(v => v.Name == name);

    /// <summary>The person whose name begins so.</summary>
    public DemoPerson Person(string first) => People.First(p => p.Name.StartsWith(first, StringComparison.Ordinal));

    private static Guid Id(JsonReader r)
    {
        if (!Guid.TryParse(r.Text("id"), out var id))
        {
            r.Fault("a UUID is wanted here", "id");
        }

        return id;
    }
}
