using System.Diagnostics;
using System.Globalization;
using System.Text;
using Screeline.Core.Circuits;
using Switch = Screeline.Core.Circuits.Switch;

namespace Screeline.Diagnosis;

/// <summary>
/// Reads circuits with ngspice instead of our own solver. Which contacts are closed, which fuses whole, which motors stand and in
/// which range a source works is set as ours found it (ngspice 39 finds no rest across such kinks); voltages and currents are
/// ngspice's. Where it finds none, that is counted and our own reading taken.
/// </summary>
public sealed class Spice(double share)
{
    /// <summary>Share of voltmeter readings that ngspice gives.</summary>
    public double Share => share;

    /// <summary>Readings given.</summary>
    public int Count => _count;

    /// <summary>Readings for which ngspice found no operating point.</summary>
    public int Refused { get; private set; }

    /// <summary>Largest difference from our own solver, V.</summary>
    public double Worst { get; private set; }

    private int _count;
    private readonly Lock _lock = new();

    /// <summary>What a voltmeter reads.</summary>
    /// <param name="network">The circuit.</param>
    /// <param name="blown">Its fuses that have blown; the others hold.</param>
    /// <param name="plus">Node of the meter's one lead.</param>
    /// <param name="minus">Node of the other.</param>
    public double Voltmeter(Network network, IReadOnlySet<string> blown, string plus, string minus)
    {
        var ours = Solver.Solve(network.With(new Resistor("voltmeter", plus, minus, Instruments.MeterOhms)), blown, double.PositiveInfinity);
        var found = Run(Netlist(network, ours, plus, minus));
        var value = found ?? ours.Between(plus, minus);
        lock (_lock)
        {
            Refused += found is null ? 1 : 0;
            _count++;
            Worst = Math.Max(Worst, Math.Abs(value - ours.Between(plus, minus)));
        }

        return value;
    }

    private static string Netlist(Network network, Solution ours, string plus, string minus)
    {
        var names = new Dictionary<string, string> { ["0"] = "0" };
        string N(string node) => names.TryGetValue(node, out var name) ? name : names[node] = $"n{names.Count}";
        static string G(double x) => x.ToString("R", CultureInfo.InvariantCulture);
        var text = new StringBuilder("* a blind case\n");
        var i = 0;
        void Ohms(string from, string to, double ohms) => text.Append(CultureInfo.InvariantCulture, $"R{i++} {N(from)} {N(to)} {G(ohms)}\n");
        foreach (var e in network.Elements)
        {
            switch (e)
            {
                case Battery b:
                    text.Append($"V{i} x{i} {N(b.To)} {G(b.OpenCircuitVolts)}\nR{i} x{i} {N(b.From)} {G(b.InternalOhms)}\n");
                    i++;
                    break;
                case Resistor r: Ohms(r.From, r.To, r.Ohms); break;
                case Switch s: Ohms(s.From, s.To, s.Closed ? s.ClosedOhms : Switch.OpenOhms); break;
                case Lamp l:
                    var share = Math.Pow(l.ColdShare, 1 / 0.45);
                    text.Append($"B{i++} {N(l.From)} {N(l.To)} I = v({N(l.From)},{N(l.To)}) / ({G(l.HotOhms)} * ({G(share)} + {G(1 - share)} * abs(v({N(l.From)},{N(l.To)})) / {G(l.RatedVolts)})^0.45)\n".Replace(",0)", ")", StringComparison.Ordinal));
                    break;
                case Diode d:
                    text.Append($"D{i} {N(d.From)} {N(d.To)} dm{i}\n.model dm{i} D(IS={G(d.SaturationAmperes)} N={G(d.Ideality)})\n");
                    i++;
                    break;
                case RegulatedSource g:
                    // In the range that ours found; the microampere per volt outside it as in our element.
                    var wanted = (g.Volts - ours.Between(g.From, g.To)) / g.DroopOhms;
                    text.Append(wanted > 0 && wanted < g.LimitAmperes ? $"V{i} x{i} {N(g.To)} {G(g.Volts)}\nR{i} x{i} {N(g.From)} {G(g.DroopOhms)}\n"
                        : wanted <= 0 ? $"V{i} x{i} {N(g.To)} {G(g.Volts)}\nR{i} x{i} {N(g.From)} 1e6\n"
                        : $"I{i} {N(g.To)} {N(g.From)} {G(g.LimitAmperes)}\nV{i} x{i} {N(g.To)} {G(g.Volts - g.LimitAmperes * g.DroopOhms)}\nR{i} x{i} {N(g.From)} 1e6\n");
                    i++;
                    break;
                case ChoppedDrive c:
                    text.Append($"E{i} x{i} {N(c.Return)} {N(c.Supply)} {N(c.Return)} {G(c.Duty)}\nV{i} x{i} y{i} 0\nR{i} y{i} {N(c.Load)} {G(c.OnOhms)}\nF{i} {N(c.Supply)} {N(c.Return)} V{i} {G(c.Duty)}\n");
                    i++;
                    break;
                case MagnetMotor m: Motor(text, ref i, N(m.From), N(m.To), m.Ohms, G(m.Constant), m.Load, m.Speed(ours.Between(m.From, m.To))); break;
                case SeriesMotor m: Motor(text, ref i, N(m.From), N(m.To), m.Ohms, $"({G(m.SaturatedConstant)}*i(VsX)/(i(VsX)+{G(m.SaturationAmperes)}))", m.Load, m.Speed(ours.Between(m.From, m.To))); break;
                case TwoBrushMotor m:
                    var speed = m.Speed(ours.Between(m.Low, m.Common), ours.Between(m.High, m.Common));
                    text.Append($"Va{i} {N(m.Low)} xa{i} 0\nRa{i} xa{i} ya{i} {G(m.LowOhms)}\nBa{i} ya{i} {N(m.Common)} V = {G(m.LowConstant)}*v(w{i})\n");
                    text.Append($"Vb{i} {N(m.High)} xb{i} 0\nRb{i} xb{i} yb{i} {G(m.HighOhms)}\nBb{i} yb{i} {N(m.Common)} V = {G(m.HighConstant)}*v(w{i})\n");
                    text.Append(speed == 0 ? $"Rw{i} w{i} 0 1e-6\n"
                        : $"Bt{i} 0 w{i} I = {G(m.LowConstant)}*i(Va{i}) + {G(m.HighConstant)}*i(Vb{i}) - {G(Math.Sign(speed) * m.Load.Friction)}\nBl{i} w{i} 0 I = {G(m.Load.PerSpeed)}*v(w{i}) + {G(m.Load.PerSpeedSquared)}*v(w{i})*abs(v(w{i}))\n");
                    i++;
                    break;
                default: throw new InvalidOperationException($"No netlist for {e.GetType().Name}.");
            }
        }

        foreach (var r in network.Relays)
        {
            Ohms(r.CoilFrom, r.CoilTo, r.CoilOhms);
            Ohms(r.ContactFrom, r.ContactTo, ours.PulledIn.Contains(r.Id) ? r.ContactOhms : Switch.OpenOhms);
        }

        foreach (var f in network.Fuses)
        {
            Ohms(f.From, f.To, ours.Blown.Contains(f.Id) ? Switch.OpenOhms : f.Ohms);
        }

        text.Append(CultureInfo.InvariantCulture, $"Rmeter {N(plus)} {N(minus)} {G(Instruments.MeterOhms)}\n");
        foreach (var name in names.Values.Where(n => n != "0"))
        {
            text.Append($"Rleak{name} {name} 0 1e11\n");
        }

        text.Append($".options reltol=1e-7 abstol=1e-12 vntol=1e-9 gmin=1e-14 itl1=4000\n.control\nset numdgt=12\nop\nlet p0 = v({N(plus)}) - {(minus == "0" ? "0" : $"v({N(minus)})")}\nprint p0\n.endc\n.end\n".Replace("v(0)", "0", StringComparison.Ordinal));
        return text.ToString();
    }

    private static void Motor(StringBuilder text, ref int i, string from, string to, double ohms, string constant, MechanicalLoad load, double speed)
    {
        static string G(double x) => x.ToString("R", CultureInfo.InvariantCulture);
        var k = constant.Replace("VsX", $"Vs{i}", StringComparison.Ordinal);
        text.Append(speed == 0
            ? $"Rm{i} {from} {to} {G(ohms)}\n"
            : $"Vs{i} {from} xm{i} 0\nRm{i} xm{i} ym{i} {G(ohms)}\nBme{i} ym{i} {to} V = {k}*v(wm{i})\nBmt{i} 0 wm{i} I = {k}*i(Vs{i}) - {G(Math.Sign(speed) * load.Friction)}\nBml{i} wm{i} 0 I = {G(load.PerSpeed)}*v(wm{i}) + {G(load.PerSpeedSquared)}*v(wm{i})*abs(v(wm{i}))\n");
        i++;
    }

    private static double? Run(string netlist)
    {
        var file = Path.GetTempFileName();
        try
        {
            File.WriteAllText(file, netlist);
            using var process = Process.Start(new ProcessStartInfo("ngspice", ["-b", file]) { RedirectStandardOutput = true, RedirectStandardError = true })!;
            var errors = process.StandardError.ReadToEndAsync();
            var output = process.StandardOutput.ReadToEnd();
            process.WaitForExit();
            errors.Wait();
            return output.Split('\n').FirstOrDefault(l => l.StartsWith("p0 = ", StringComparison.Ordinal)) is { } line ? double.Parse(line["p0 = ".Length..], CultureInfo.InvariantCulture) : null;
        }
        finally
        {
            File.Delete(file);
        }
    }
}
