// Loads a shop of many years and measures its pages.
//   dotnet run -c Release -- load  "<owner's connection string>" [closed 20000] [open 500] [seed 1]
//   dotnet run -c Release -- pages <address> [users 20] [seconds 60] [think ms 1000]
// The database must be prepared (./run once, or the program's "prepare" without --demo) and hold no job yet.
using Screeline.Fleet;

return args switch
{
    ["load", var connection, .. var rest] => await Loader.RunAsync(connection, Number(rest, 0, 20_000), Number(rest, 1, 500), Number(rest, 2, 1)),
    ["pages", var address, .. var rest] => await Pages.RunAsync(new Uri(address), Number(rest, 0, 20), Number(rest, 1, 60), Number(rest, 2, 1000)),
    _ => Usage(),
};

static int Number(string[] rest, int at, int otherwise) => rest.Length > at ? int.Parse(rest[at], System.Globalization.CultureInfo.InvariantCulture) : otherwise;

static int Usage()
{
    Console.Error.WriteLine("load <connection> [closed] [open] [seed], or pages <address> [users] [seconds] [think ms]");
    return 2;
}
