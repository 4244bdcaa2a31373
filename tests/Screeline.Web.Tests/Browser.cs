using OpenQA.Selenium;
using OpenQA.Selenium.Chrome;
using OpenQA.Selenium.Support.UI;

namespace Screeline.Web.Tests;

/// <summary>
/// A real headless Chromium with a pointer or with the keyboard alone. Starting one takes longer than most tests: the process goes on
/// to the next test, which finds no cookie, no cache, no storage, no worker and no window of the one before.
/// </summary>
internal sealed class Browser : IDisposable
{
    private readonly Chromium _chromium = Chromium.Take();
    private readonly Uri _address;
    private readonly HashSet<string> _origins = [];
    private string _over = "";

    private ChromeDriver _driver => _chromium.Driver;

    public Browser(Site site, int width = 1280, int height = 800, bool keyboardOnly = false, string look = "light", string? person = Site.Ansa, Uri? through = null)
    {
        (_address, KeyboardOnly) = (through ?? site.Address, keyboardOnly);
        _origins.Add(_address.GetLeftPart(UriPartial.Authority));
        Turn(width, height);
        _driver.Navigate().GoToUrl(new Uri(_address, "/health/live"));
        if (person is not null)
        {
            _driver.Manage().Cookies.AddCookie(new Cookie(SignIn.SignInSetup.Cookie, site.CookieOf(person), "/"));
        }

        _driver.Manage().Cookies.AddCookie(new Cookie("screeline-look", look, "/"));
    }

    public bool KeyboardOnly { get; }

    /// <summary>What the person did so far: presses and fields filled in.</summary>
    public int Actions { get; private set; }

    /// <summary>A command of the browser's own protocol.</summary>
    public void Tell(string command, Dictionary<string, object?> arguments) => _driver.ExecuteCdpCommand(command, arguments);

    /// <summary>Another size of screen, as when a phone is turned round.</summary>
    public void Turn(int width, int height) => Tell("Emulation.setDeviceMetricsOverride", new() { ["width"] = width, ["height"] = height, ["deviceScaleFactor"] = 1, ["mobile"] = Math.Min(width, height) < 700 });

    public void Back() => _driver.Navigate().Back();

    /// <summary>Two presses in a row, faster than any answer.</summary>
    public void PressTwice(string selector) => new OpenQA.Selenium.Interactions.Actions(_driver).DoubleClick(One(selector)).Perform();

    /// <summary>Opens a second tab; the first one stays as it is.</summary>
    public string OtherTab()
    {
        var first = _driver.CurrentWindowHandle;
        _driver.SwitchTo().NewWindow(WindowType.Tab);
        return first;
    }

    public void GoToTab(string tab) => _driver.SwitchTo().Window(tab);

    public string Path => new Uri(_driver.Url).AbsolutePath;

    /// <summary>What is seen of the page; nothing while another one comes.</summary>
    public string Text => Script<string>("return document.body ? document.body.innerText : ''");

    public void Open(string path) => _driver.Navigate().GoToUrl(new Uri(_address, path));

    /// <summary>
    /// Opens a page and makes sure that it is set in its own letters: on a busy machine a font that comes late stands aside for
    /// the page's life (docs/decisions/0016), and the page is opened again.
    /// </summary>
    public void OpenInItsOwnLetters(string path)
    {
        for (var once = 0; once < 20; once++)
        {
            Open(path);
            if (Script<bool>("""
                const probe = document.createElement('span'), width = (family, weight) => { probe.style.fontFamily = family; probe.style.fontWeight = weight; return probe.getBoundingClientRect().width; };
                probe.textContent = 'firm, level ground 0123'; probe.style.cssText = 'position: absolute; font-size: 40px; white-space: nowrap'; document.body.append(probe);
                const own = [['Hyperlegible', 400], ['Hyperlegible', 700], ['Hyperlegible Mono', 700]].every(([family, weight]) => width(`"${family}", monospace`, weight) !== width('monospace', weight) && width(`"${family}", serif`, weight) !== width('serif', weight));
                probe.remove();
                return own
                """))
            {
                return;
            }
        }

        Assert.Fail($"{path} was twenty times not set in its own letters");
    }

    public void Reload() => _driver.Navigate().Refresh();

    public T Script<T>(string script, params object[] arguments) => (T)_driver.ExecuteScript(script, arguments)!;

    /// <summary>A number from the page; null when there is none.</summary>
    public double? Number(string script) => _driver.ExecuteScript(script) is { } value ? Convert.ToDouble(value, System.Globalization.CultureInfo.InvariantCulture) : null;

    public object? RunAsync(string script, params object[] arguments) => _driver.ExecuteAsyncScript(script, arguments);

    public IReadOnlyCollection<IWebElement> All(string selector) => _driver.FindElements(By.CssSelector(selector));

    public IWebElement One(string selector) => Until(() => _driver.FindElements(By.CssSelector(selector)).FirstOrDefault(), () => $"no {selector} at {Path}");

    /// <summary>Presses a control and waits until its consequence is there.</summary>
    public void Press(string selector, Func<bool>? then = null)
    {
        Actions++;
        var before = Script<string>("return document.getElementById('frame').dataset.stamp ??= String(Math.random())");
        var element = One(selector);
        if (KeyboardOnly && Script<IWebElement?>("return arguments[0].type === 'radio' ? (arguments[0].form.querySelector(`input[name=\"${arguments[0].name}\"]:checked`) ?? arguments[0].form.querySelector(`input[name=\"${arguments[0].name}\"]`)) : null", element) is { } chosen)
        {
            // Of a group of choices Tab reaches the one that is chosen, else the first; arrows go through the others.
            Reach(chosen);
            _driver.SwitchTo().ActiveElement().SendKeys(Keys.Space);
            for (var i = 0; i < 30 && !element.Selected; i++)
            {
                _driver.SwitchTo().ActiveElement().SendKeys(Keys.ArrowDown);
            }

            Assert.True(element.Selected, $"arrows do not reach {selector} at {Path}");
        }
        else if (KeyboardOnly)
        {
            Reach(element);
            _driver.SwitchTo().ActiveElement().SendKeys(element.TagName is "input" && element.GetDomAttribute("type") is "checkbox" or "radio" ? Keys.Space : Keys.Enter);
        }
        else
        {
            // The box itself is drawn by its label; the pointer hits that. A page that still moves is waited for.
            Until(() => Click(selector), () => $"{selector} at {Path} cannot be pressed");
        }

        if (element is { } && !IsBox(selector))
        {
            Until(() => then?.Invoke() ?? Script<bool>("const f = document.getElementById('frame'); return document.readyState === 'complete' && f !== null && f.dataset.stamp !== arguments[0]", before), () => $"nothing came of {selector} at {Path}:\n{Text}");
        }
    }

    /// <summary>Keeps a picture of an element.</summary>
    public void Save(string selector, string file) => File.WriteAllBytes(file, ((ITakesScreenshot)One(selector)).GetScreenshot().AsByteArray);

    /// <summary>Presses a place within an element, in shares of its width and height.</summary>
    public void ClickAt(string selector, double x, double y)
    {
        var element = One(selector);
        Script<object?>("arguments[0].scrollIntoView({ block: 'center' }); return null", element);
        new OpenQA.Selenium.Interactions.Actions(_driver).MoveToElement(element, (int)Math.Round((x - 0.5) * element.Size.Width), (int)Math.Round((y - 0.5) * element.Size.Height)).Click().Perform();
    }

    /// <summary>Types into a field, in place of what stands there.</summary>
    public void Type(string selector, string text)
    {
        Actions++;
        var element = One(selector);
        if (KeyboardOnly)
        {
            Reach(element);
        }

        // Where the page is exchanged under the hand, what was typed into the old field is typed again into the new one.
        Until(() =>
        {
            element = One(selector);
            element.SendKeys(Keys.Control + "a");
            element.SendKeys(text);
            return true;
        }, $"{selector} at {Path} takes no text");
    }

    public T Until<T>(Func<T?> condition, string otherwise) => Until(condition, () => otherwise);

    /// <summary>Waits for a condition; what to say when it does not come is worked out only then.</summary>
    public T Until<T>(Func<T?> condition, Func<string> otherwise)
    {
        _over = "";
        var wait = new WebDriverWait(_driver, TimeSpan.FromSeconds(15)) { PollingInterval = TimeSpan.FromMilliseconds(20) };
        wait.IgnoreExceptionTypes(typeof(StaleElementReferenceException), typeof(NoSuchElementException), typeof(JavaScriptException));
        try
        {
            return wait.Until(_ => condition())!;
        }
        catch (WebDriverTimeoutException e)
        {
            throw new WebDriverTimeoutException($"{otherwise()} {e.Message} {_over}", e);
        }
    }

    /// <summary>One key at what has the focus.</summary>
    public void Key(string key)
    {
        Actions++;
        _driver.SwitchTo().ActiveElement().SendKeys(key);
    }

    public IWebElement Focused => _driver.SwitchTo().ActiveElement();

    /// <summary>
    /// Problems the page itself reported since this was last asked: script errors, what the content policy stopped, what found nobody.
    /// The live stream may end at any time and begins anew by itself; refusals (4xx) belong to what tests do.
    /// </summary>
    public IReadOnlyList<string> Complaints => [.. _driver.Manage().Logs.GetLog("browser").Where(l => l.Level == LogLevel.Severe
        && !(l.Message.Contains("/live ", StringComparison.Ordinal) && l.Message.Contains("net::ERR_", StringComparison.Ordinal))
        && !l.Message.Contains("the server responded with a status of 4", StringComparison.Ordinal)).Select(l => l.Message)];

    /// <summary>How many sheets of A4 the page prints on.</summary>
    public int PrintedPages()
    {
        var printed = _driver.Print(new PrintOptions { PageDimensions = PrintOptions.PageSize.A4, PageMargins = new PrintOptions.Margins { Top = 1.2, Bottom = 1.2, Left = 1.2, Right = 1.2 } });
        // Each page of a PDF is an object of /Type /Page; the tree above them is of /Type /Pages.
        return System.Text.RegularExpressions.Regex.Count(System.Text.Encoding.Latin1.GetString(printed.AsByteArray), @"/Type\s*/Page[^s]");
    }

    public void Dispose() => _chromium.GiveBack(_origins);

    // A person scrolls until what is to be pressed stands free of the action bar.
    private bool Click(string selector)
    {
        var element = _driver.FindElement(By.CssSelector(selector));
        element = element.TagName == "input" ? element.FindElement(By.XPath("..")) : element;
        _driver.ExecuteScript("if (!arguments[0].closest('.actions')) { arguments[0].scrollIntoView({ block: 'center' }); }", element);
        try
        {
            element.Click();
            return true;
        }
        catch (ElementClickInterceptedException e)
        {
            _over = e.Message;
            return false;
        }

    }

    private static bool IsBox(string selector) => selector.StartsWith("input", StringComparison.Ordinal);

    // Goes to a control as a person without a pointer does: Tab by Tab, forwards. As many at once as stops seem to lie between; what
    // is left, or everything once more from the top when they were fewer, one by one.
    private void Reach(IWebElement element)
    {
        var between = (int)Script<long>("""
            const groups = new Set(), stops = [...document.querySelectorAll('a[href], button, input:not([type=hidden]), select, textarea, summary, [tabindex]')].filter((e) => {
              if (e.disabled || e.tabIndex < 0 || !e.checkVisibility({ visibilityProperty: true })) { return false; }
              const group = e.type === 'radio' ? `${e.form?.id}/${e.form?.action}/${e.name}` : null;
              if (group === null) { return true; }
              if (groups.has(group) && !e.checked) { return false; }
              groups.add(group);
              return true;
            });
            const from = stops.indexOf(document.activeElement), to = stops.indexOf(arguments[0]);
            return to > from ? to - from : 0
            """, element);
        if (between > 0)
        {
            var tabs = new OpenQA.Selenium.Interactions.Actions(_driver);
            for (var i = 0; i < between; i++)
            {
                tabs.SendKeys(Keys.Tab);
            }

            tabs.Perform();
        }

        for (var i = 0; i < 250; i++)
        {
            if (Script<bool>("return document.activeElement === arguments[0]", element))
            {
                Assert.True(Script<bool>("return getComputedStyle(arguments[0]).outlineStyle !== 'none' || !!arguments[0].closest('.choice:focus-within')", element), "the focus is not to be seen");
                return;
            }

            new OpenQA.Selenium.Interactions.Actions(_driver).SendKeys(Keys.Tab).Perform();
        }

        Assert.Fail($"Tab does not reach {element.TagName} “{element.Text}” at {Path}");
    }
}
