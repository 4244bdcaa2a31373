using Screeline.Core.Access;
using Screeline.Core.Fastening;
using Screeline.Core.People;
using Screeline.Core.Quantities;
using Screeline.Web.Infrastructure;
using Screeline.Web.SignIn;

namespace Screeline.Web.Pages.Bench;

/// <summary>What to do where no torque is given, and the table of classes.</summary>
[Allow(Role.Viewer, Role.Viewer)]
public sealed class ThreadModel(DevicePreferences preferences) : BenchPage
{
    /// <summary>Joints with their words.</summary>
    public static IReadOnlyList<(string Key, string Title)> Joints { get; } =
        [("steel", "steel or iron"), ("light-alloy", "light alloy"), ("copper-stud", "a copper or brass stud"), ("self-tapper", "sheet metal, self-tapping"), ("plastic", "plastic")];

    public override string Title => "No torque given";

    public MetricThread? Thread { get; private set; }

    public Joint Joint { get; private set; }

    public StrengthClass Strength { get; private set; } = StrengthClass.Parse("8.8")!;

    public double Friction { get; private set; } = TighteningTorque.UsualFriction;

    public WorkedTorque? Worked { get; private set; }

    /// <summary>The unit this device tells torques in.</summary>
    public Unit Unit => preferences.TorqueUnit;

    public void OnGet()
    {
        Joint = AccessMapReader.Joints.GetValueOrDefault(Asked("joint"));
        Strength = StrengthClass.Parse(Asked("strength")) ?? Strength;
        Friction = Number("friction", 0.05, 0.3) ?? Friction;
        var engagement = Number("engagement", 1, 200);
        if (Asked("thread").Length > 0)
        {
            (Thread, var reason) = MetricThread.Read(Asked("thread"));
            if (reason is not null)
            {
                Faults["thread"] = reason;
            }
        }

        if (Thread is not null)
        {
            Worked = TighteningTorque.Work(Thread, Joint, Strength, Friction, engagement);
        }
    }

    /// <summary>A torque told in this device's unit.</summary>
    public string Format(double newtonMetres) => new Figure((decimal)newtonMetres, Units.NewtonMetre).Format(Unit);
}
