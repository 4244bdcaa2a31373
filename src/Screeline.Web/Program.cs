using Screeline.Web.Infrastructure;

// Two things can be asked of this program: "prepare" makes the database ready and ends; anything else serves.
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
