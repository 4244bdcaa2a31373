using Screeline.Core.Access;
using Screeline.Core.Fastening;
using Screeline.Core.People;
using Screeline.Core.Quantities;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Bench;

/// <summary>Torque: units, doubt, wrench, adaptor.</summary>
[Allow(Role.Viewer, Role.Viewer)]
public sealed class TorqueModel(ToolCrib crib, DevicePreferences preferences) : BenchPage
{
    public override string Title => "Torque";

    public Figure? Value { get; private set; }

    public MetricThread? Thread { get; private set; }

    public Joint Joint { get; private set; }

    public Adaptor? Adaptor { get; private set; }

    public string? Doubt { get; private set; }

    public OwnedTools Owned { get; private set; } = new(new HashSet<string>(), []);

    public IReadOnlyList<WrenchSetting> Settings { get; private set; } = [];

    /// <summary>The unit this device tells torques in.</summary>
    public Unit Unit => preferences.TorqueUnit;

    public async Task OnGetAsync(CancellationToken cancel)
    {
        Owned = await crib.OwnedAsync(cancel);
        if (Asked("value").Length > 0)
        {
            var parsed = QuantityParser.Read(QuantityKind.Torque, Asked("value"), Unit);
            Value = parsed.Figure;
            if (parsed.Reason is { } reason)
            {
                Faults["value"] = reason;
            }
        }

        if (Asked("thread").Length > 0)
        {
            (Thread, var reason) = MetricThread.Read(Asked("thread"));
            if (reason is not null)
            {
                Faults["thread"] = reason;
            }
        }

        Joint = AccessMapReader.Joints.GetValueOrDefault(Asked("joint"));
        if (Number("offset", 0, 1000) is { } offset and > 0)
        {
            Adaptor = new Adaptor((decimal)offset, (decimal)(Number("angle", 0, 180) ?? 0));
        }

        if (Value is { } value)
        {
            Doubt = Thread is null ? null : TorqueDoubt.Find(value, Thread, Joint);
            try
            {
                Settings = WrenchChoice.For(value, Owned.Wrenches, Adaptor, ToolCrib.Today);
            }
            catch (ArgumentException e)
            {
                Faults["offset"] = e.Message;
            }
        }
    }
}
