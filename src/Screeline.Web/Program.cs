using Screeline.Library;
using Screeline.Web.Infrastructure;

// Four things can be asked of this program: "prepare" makes the database ready and ends, "check" works its chains out again, "library"
// prints what the library covers; anything else serves.
if (args.FirstOrDefault() == "library")
{
    Console.Write(LibraryTable.Write(ShippedLibrary.Load()));
    return 0;
}

if (args.FirstOrDefault() == "check")
{
    return await Preparation.CheckAsync(args.ElementAtOrDefault(1));
}

if (args.FirstOrDefault() == "prepare")
{
    return await Preparation.RunAsync(args.Contains("--demo"));
}

var settings = Settings.FromEnvironment();
if (settings.Fault is { } fault)
{
    await Console.Error.WriteLineAsync(fault);
    return 2;
}

var app = WebSetup.Build(args, settings);
await app.RunAsync();
return 0;
