using System.Globalization;
using Screeline.Core.Motion;

namespace Screeline.Web.Infrastructure;

/// <summary>Lets through addresses that name a kind of setting.</summary>
public class SettingConstraint : IRouteConstraint
{
    /// <inheritdoc/>
    public bool Match(HttpContext? httpContext, IRouter? route, string routeKey, RouteValueDictionary values, RouteDirection routeDirection) =>
        SettingKinds.Find(Convert.ToString(values[routeKey], CultureInfo.InvariantCulture) ?? "") is { } kind && Allows(kind);

    /// <summary>Whether this kind is let through.</summary>
    protected virtual bool Allows(SettingKind kind) => true;
}

/// <summary>Lets through addresses that name a kind of setting made on a vehicle.</summary>
public sealed class VehicleSettingConstraint : SettingConstraint
{
    /// <inheritdoc/>
    protected override bool Allows(SettingKind kind) => kind.OnVehicle;
}
