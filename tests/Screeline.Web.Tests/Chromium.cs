using System.Collections.Concurrent;
using OpenQA.Selenium;
using OpenQA.Selenium.Chrome;

[assembly: AssemblyFixture(typeof(Screeline.Web.Tests.Chromiums))]

namespace Screeline.Web.Tests;

/// <summary>Ends the browsers that are left when all tests are done.</summary>
public sealed class Chromiums : IDisposable
{
    public void Dispose() => Chromium.QuitAll();
}

/// <summary>
/// A Chromium process with its driver and a profile of its own, used by one test at a time: the headless shell, which is the same engine without the
/// windows, menus and start page that nobody sees and that took a third of the processor.
/// </summary>
internal sealed class Chromium
{
    private static readonly ConcurrentBag<Chromium> Idle = [];
    private readonly string _profile = Directory.CreateTempSubdirectory("screeline-chromium-").FullName;

    private Chromium()
    {
        var options = new ChromeOptions { BinaryLocation = Site.InTree("tools/headless-chromium") };
        options.AddArguments("--no-sandbox", "--disable-gpu", "--disable-dev-shm-usage", "--disable-background-networking", "--disable-component-update", "--disable-sync", "--no-first-run", $"--user-data-dir={_profile}");
        var service = ChromeDriverService.CreateDefaultService("/usr/bin", "chromedriver");
        service.SuppressInitialDiagnosticInformation = true;
        Driver = new ChromeDriver(service, options, TimeSpan.FromSeconds(60));
        // How long a script takes beside other tests is not what is tested.
        Driver.Manage().Timeouts().AsynchronousJavaScript = TimeSpan.FromMinutes(2);
    }

    public ChromeDriver Driver { get; }

    /// <summary>One that is free, as new; a new one when none is.</summary>
    public static Chromium Take() => Idle.TryTake(out var free) ? free : new Chromium();

    /// <summary>Takes away what the test left and keeps the process for the next one; one that does not answer any more is ended.</summary>
    public void GiveBack(IEnumerable<string> origins)
    {
        try
        {
            var windows = Driver.WindowHandles;
            Driver.SwitchTo().Window(windows[0]);
            // An open page may write while its storage is emptied: the windows go first.
            Driver.SwitchTo().NewWindow(WindowType.Tab);
            var fresh = Driver.CurrentWindowHandle;
            foreach (var window in windows)
            {
                Driver.SwitchTo().Window(window);
                Driver.Close();
            }

            Driver.SwitchTo().Window(fresh);
            foreach (var origin in origins)
            {
                Driver.ExecuteCdpCommand("Storage.clearDataForOrigin", new() { ["origin"] = origin, ["storageTypes"] = "all" });
            }

            Driver.ExecuteCdpCommand("Network.clearBrowserCookies", []);
            Driver.ExecuteCdpCommand("Network.clearBrowserCache", []);
            Driver.Manage().Logs.GetLog("browser");
            Idle.Add(this);
        }
        catch (WebDriverException)
        {
            // It fell in the test, which has failed for that already.
            Quit();
        }
    }

    public static void QuitAll()
    {
        while (Idle.TryTake(out var one))
        {
            one.Quit();
        }
    }

    private void Quit()
    {
        Driver.Quit();
        Driver.Dispose();
        Directory.Delete(_profile, recursive: true);
    }
}
