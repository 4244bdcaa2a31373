using Screeline.Core.Access.Recording;
using Screeline.Core.Diagnosis;
using Screeline.Core.Fastening;
using Screeline.Core.Jobs;

namespace Screeline.Library;

/// <summary>The shipped families.</summary>
public sealed class Families(ShippedLibrary library) : IFamilies
{
    /// <inheritdoc/>
    public FaultSystem? System(string family) => library.System(family);

    /// <inheritdoc/>
    public string ToolTitle(string tool) => library.ToolTitle(tool);

    /// <inheritdoc/>
    public PartKnowledge? Part(string family, string model) => library.Part(family, model);

    /// <inheritdoc/>
    public PartWords Words => library.PartWords;

    /// <inheritdoc/>
    public IReadOnlyList<string> RequiredBy(string caution) => library.Cautions.GetValueOrDefault(caution) ?? [];
}
