using Screeline.Core.Formats;

namespace Screeline.Core.Diagnosis;

/// <summary>What is known of the vehicle before anything is measured.</summary>
/// <param name="Stated">Values its file states, by parameter.</param>
/// <param name="Celsius">Temperature here and now, °C, −40 to 60.</param>
public sealed record VehicleSetting(IReadOnlyDictionary<string, double> Stated, double Celsius)
{
    /// <summary>The temperatures that are taken, °C.</summary>
    public const int LeastCelsius = -40, MostCelsius = 60;

    /// <summary>Nothing stated, 20 °C.</summary>
    public static VehicleSetting Usual { get; } = new(new Dictionary<string, double>(), 20);

    /// <summary>The parameter that is the system's voltage.</summary>
    public const string Volts = "volts";

    // Readings taken within so many degrees of each other count as taken at one temperature, and so many are told apart.
    private const double AlikeDegrees = 5;
    private const int MostTemperatures = 3;

    private readonly double[] _others = [];

    /// <summary>The temperatures at which readings were taken, °C, that of here and now first, the others in whole degrees.</summary>
    public IReadOnlyList<double> Temperatures => [Celsius, .. _others];

    private VehicleSetting(VehicleSetting setting, double[] others) : this(setting.Stated, setting.Celsius) => _others = others;

    /// <summary>The same for readings that were taken at other temperatures than here and now; those that say none were taken here and now.</summary>
    public VehicleSetting ReadAt(IEnumerable<Evidence> readings)
    {
        var temperatures = new List<double> { Celsius };
        foreach (var celsius in readings.Select(r => r.Celsius).OfType<double>().Select(c => Math.Round(c)).GroupBy(c => c).OrderByDescending(g => g.Count()).ThenBy(g => g.Key).Select(g => g.Key))
        {
            if (temperatures.Count < MostTemperatures && temperatures.TrueForAll(t => Math.Abs(t - celsius) >= AlikeDegrees))
            {
                temperatures.Add(celsius);
            }
        }

        return new VehicleSetting(this, [.. temperatures.Skip(1)]);
    }

    /// <summary>The place among <see cref="Temperatures"/> of the one nearest to that of a reading.</summary>
    public int At(double? celsius) => celsius is { } c && Temperatures is var all ? Enumerable.Range(0, all.Count).MinBy(t => Math.Abs(all[t] - c)) : 0;

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

        if (!(Celsius is >= LeastCelsius and <= MostCelsius))
        {
            faults.Add(new FormatFault("$.temperature_c", $"{Celsius:0.#} °C is outside {LeastCelsius} to {MostCelsius} °C"));
        }

        return faults;
    }

    /// <summary>The same for equal settings: names what is built for it.</summary>
    public string Key(FaultSystem system) =>
        $"{system.Id}|{string.Join(';', Temperatures.Select(t => t.ToString("R", System.Globalization.CultureInfo.InvariantCulture)))}|{string.Join('|', Stated.OrderBy(s => s.Key, StringComparer.Ordinal).Select(s => string.Create(System.Globalization.CultureInfo.InvariantCulture, $"{s.Key}={s.Value:R}")))}";
}
