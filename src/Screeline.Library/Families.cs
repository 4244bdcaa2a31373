using Screeline.Core.Diagnosis;
using Screeline.Core.Jobs;

namespace Screeline.Library;

/// <summary>The shipped families, each with who judges its readings.</summary>
public sealed class Families(ShippedLibrary library) : IFamilies
{
    private readonly StartingRule _starting = new();

    /// <inheritdoc/>
    public FaultSystem? System(string family) => library.System(family);

    /// <inheritdoc/>
    public string ToolTitle(string tool) => library.ToolTitle(tool);

    /// <inheritdoc/>
    /// <remarks>One plain rule for starters today; an engine that reasons from the circuit takes this place for all families.</remarks>
    public IFindEngine Engine(string family) =>
        family == "starting" ? _starting : throw new ArgumentException($"Nobody judges the family “{family}” yet.", nameof(family));
}
