using System.Reflection;
using NetArchTest.Rules;

namespace Screeline.Core.Tests;

/// <summary>The arrows between projects point one way only.</summary>
public sealed class ArchitectureTests
{
    private static readonly Assembly CoreAssembly = typeof(Screeline.Core.Jobs.Job).Assembly;
    private static readonly Assembly LibraryAssembly = typeof(Screeline.Library.ShippedLibrary).Assembly;
    private static readonly Assembly DataAssembly = typeof(Screeline.Data.JobStore).Assembly;
    private static readonly Assembly WebAssembly = typeof(Screeline.Web.Infrastructure.WebSetup).Assembly;

    [Fact]
    public void Core_stands_alone()
    {
        Assert.All(CoreAssembly.GetReferencedAssemblies(), a => Assert.True(a.Name!.StartsWith("System", StringComparison.Ordinal) || a.Name is "MathNet.Numerics" or "CsvHelper", a.Name));
        Assert.True(Types.InAssembly(CoreAssembly).ShouldNot().HaveDependencyOnAny("System.IO.File", "System.IO.Directory", "System.Net", "System.Data", "Npgsql", "Microsoft.AspNetCore").GetResult().IsSuccessful);
    }

    [Fact]
    public void Library_knows_only_Core() =>
        Assert.Equal(["Screeline.Core"], Ours(LibraryAssembly));

    [Fact]
    public void Data_knows_only_Core_of_ours() =>
        Assert.Equal(["Screeline.Core"], Ours(DataAssembly));

    [Fact]
    public void Web_speaks_no_SQL()
    {
        Assert.Equal(["Screeline.Core", "Screeline.Data", "Screeline.Library"], Ours(WebAssembly));
        var breakers = Types.InAssembly(WebAssembly).That().HaveDependencyOn("Npgsql.NpgsqlCommand").GetTypes();
        Assert.Empty(breakers);
    }

    [Fact]
    public void Core_holds_no_HTML_and_Data_no_trade()
    {
        var data = Types.InAssembly(DataAssembly).That().HaveDependencyOnAny("Screeline.Core.Diagnosis.DiagnosisEngine", "Screeline.Core.Access.Planning.RoutePlanner", "Screeline.Core.Fastening.FastenerCount").GetTypes();
        Assert.Empty(data);
    }

    private static IReadOnlyList<string> Ours(Assembly assembly) =>
        [.. assembly.GetReferencedAssemblies().Select(a => a.Name!).Where(n => n.StartsWith("Screeline", StringComparison.Ordinal)).Order(StringComparer.Ordinal)];
}
