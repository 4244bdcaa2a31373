namespace Screeline.Core.Motion;

/// <summary>A kind of setting.</summary>
/// <param name="Id">Its name in addresses, maps and entries.</param>
/// <param name="Title">What people call it.</param>
/// <param name="OnVehicle">Whether it is set on a vehicle and kept in its job; else it only works something out on the bench.</param>
public sealed record SettingKind(string Id, string Title, bool OnVehicle);

/// <summary>All kinds of setting.</summary>
public static class SettingKinds
{
    /// <summary>In the order of the bench.</summary>
    public static IReadOnlyList<SettingKind> All { get; } =
    [
        new("wiper", "Wiper setting", true),
        new("park", "Park, ten stops", true),
        new("window", "Window travel", true),
        new("actuator", "Actuator ends", true),
        new("balance", "Balance", true),
        new("belt", "Belt and pulleys", true),
        new("lengths", "Lengths of a linkage", false),
        new("battery", "Battery", false),
    ];

    /// <summary>Names of those that are set on a vehicle.</summary>
    public static IReadOnlyList<string> OnVehicle { get; } = [.. All.Where(k => k.OnVehicle).Select(k => k.Id)];

    /// <summary>The kind of this name, or null.</summary>
    public static SettingKind? Find(string id) => All.FirstOrDefault(k => k.Id == id);

    /// <summary>What people call a kind; its name when it is not known.</summary>
    public static string Title(string id) => Find(id)?.Title ?? id;
}
