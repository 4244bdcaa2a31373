namespace Screeline.Core.Formats;

/// <summary>One fault in a file: where, and what is wrong in words.</summary>
/// <param name="Path">JSON path from the root, for example "$.operations[3].needs".</param>
/// <param name="Message">What is wrong and what would be right.</param>
public sealed record FormatFault(string Path, string Message)
{
    /// <inheritdoc/>
    public override string ToString() => $"{Path}: {Message}";
}

/// <summary>A file that was refused, with every fault found in it.</summary>
public sealed class RefusedFileException(string what, IReadOnlyList<FormatFault> faults)
    : Exception($"{what}: {string.Join("; ", faults)}")
{
    /// <summary>All faults.</summary>
    public IReadOnlyList<FormatFault> Faults { get; } = faults;
}
