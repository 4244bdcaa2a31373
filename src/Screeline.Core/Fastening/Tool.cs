namespace Screeline.Core.Fastening;

/// <summary>A tool that maps and shops name.</summary>
/// <param name="Id">Identifier.</param>
/// <param name="Title">What people call it.</param>
/// <param name="Drive">The drive it is made for, or null when it is no key to one.</param>
/// <param name="Wrench">Its scale, when it is a torque wrench; without a calibration date, which belongs to the shop's own.</param>
public sealed record Tool(string Id, string Title, Drive? Drive = null, TorqueWrench? Wrench = null);
