using Screeline.Core.Formats;

namespace Screeline.Core.Diagnosis;

/// <summary>What is known of the vehicle before anything is measured.</summary>
/// <param name="Stated">Values its file states, by parameter.</param>
/// <param name="Celsius">Temperature, °C, −40 to 60.</param>
public sealed record VehicleSetting(IReadOnlyDictionary<string, double> Stated, double Celsius)
{
    /// <summary>Nothing stated, 20 °C.</summary>
    public static VehicleSetting Usual { get; } = new(new Dictionary<string, double>(), 20);

    /// <summary>The parameter that is the system's voltage.</summary>
    public const string Volts = "volts";

    /// <summary>The same with a value stated.</summary>
    public VehicleSetting With(string parameter, double value) =>
        this with { Stated = new Dictionary<string, double>(Stated, StringComparer.Ordinal) { [parameter] = value } };

    /// <summary>What is wrong with it for a system, with paths under "vehicle" and "temperature_c".</summary>
    public IReadOnlyList<FormatFault> Faults(FaultSystem system)
    {
        var faults = new List<FormatFault>();
        foreach (var (id, value) in Stated.OrderBy(s => s.Key, StringComparer.Ordinal))
        {
            if (system.VehicleParameters.FirstOrDefault(p => p.Id == id) is not { } parameter)
            {
                faults.Add(new FormatFault($"$.vehicle.{id}", $"is not a parameter of {system.Title}; these are: {string.Join(", ", system.VehicleParameters.Select(p => p.Id))}"));
            }
            else if (!double.IsFinite(value) || value < parameter.Low || value > parameter.High || (parameter.Choices.Count > 0 && value != Math.Truncate(value)) || (id == Volts && value is not (12 or 24)))
            {
                faults.Add(new FormatFault($"$.vehicle.{id}", id == Volts ? $"{value:0.####} V: 12 or 24 is wanted here" : $"{value:0.####} is outside {parameter.Low:0.####} to {parameter.High:0.####}{(parameter.Unit.Length > 0 ? " " + parameter.Unit : "")}"));
            }
        }

        if (!double.IsFinite(Celsius) || Celsius is < -40 or > 60)
        {
            faults.Add(new FormatFault("$.temperature_c", $"{Celsius:0.#} °C is outside -40 to 60 °C"));
        }

        return faults;
    }

    /// <summary>The same for equal settings: names what is built for it.</summary>
    public string Key(FaultSystem system) =>
        $"{system.Id}|{Celsius.ToString("R", System.Globalization.CultureInfo.InvariantCulture)}|{string.Join('|', Stated.OrderBy(s => s.Key, StringComparer.Ordinal).Select(s => string.Create(System.Globalization.CultureInfo.InvariantCulture, $"{s.Key}={s.Value:R}")))}";
}
