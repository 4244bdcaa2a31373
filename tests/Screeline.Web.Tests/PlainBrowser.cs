using System.Net;
using AngleSharp.Html.Dom;
using AngleSharp.Html.Parser;

namespace Screeline.Web.Tests;

/// <summary>A browser without scripts: links are followed, forms are sent as their HTML says.</summary>
internal sealed class PlainBrowser : IDisposable
{
    private readonly CookieContainer _cookies = new();

    public PlainBrowser(Site site, string? person = Site.Ansa)
    {
        Client = new HttpClient(new HttpClientHandler { CookieContainer = _cookies, AllowAutoRedirect = true }) { BaseAddress = site.Address };
        if (person is not null)
        {
            _cookies.Add(site.Address, new Cookie(SignIn.SignInSetup.Cookie, site.CookieOf(person)));
        }
    }

    public HttpClient Client { get; }

    public HttpStatusCode Status { get; private set; }

    public Uri At { get; private set; } = null!;

    public IHtmlDocument Page { get; private set; } = null!;

    public string Text => string.Join(' ', (Page.Body?.TextContent ?? "").Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));

    public async Task OpenAsync(string path) => await TakeAsync(await Client.GetAsync(path));

    /// <summary>The number in the address of a job's page.</summary>
    public long Number => long.Parse(At.Segments[2].TrimEnd('/'), System.Globalization.CultureInfo.InvariantCulture);

    public IHtmlFormElement Form(string selector) => (IHtmlFormElement)(Page.QuerySelector(selector) ?? throw new InvalidOperationException($"No form {selector} at {At}:\n{Text}"));

    /// <summary>The form of the main action.</summary>
    public IHtmlFormElement MainForm => Page.QuerySelector("[data-main]") is IHtmlButtonElement { Form: { } form } ? form : throw new InvalidOperationException($"No main form at {At}:\n{Text}");

    /// <summary>The form that ends a wait because somebody looked, or null.</summary>
    public IHtmlFormElement? LookedForm => (Page.QuerySelector("input[name=early]") as IHtmlInputElement)?.Form;

    /// <summary>What a browser would send for a form: its fields, changed as said, and the button pressed.</summary>
    public static List<KeyValuePair<string, string>> Fields(IHtmlFormElement form, params (string Name, string Value)[] changes)
    {
        var fields = new List<KeyValuePair<string, string>>();
        foreach (var element in form.Elements)
        {
            switch (element)
            {
                case IHtmlInputElement { Type: "checkbox" or "radio", IsChecked: false }:
                case IHtmlButtonElement:
                    break;
                case IHtmlInputElement { Name.Length: > 0 } input:
                    fields.Add(new(input.Name, input.Value));
                    break;
                case IHtmlTextAreaElement { Name.Length: > 0 } area:
                    fields.Add(new(area.Name, area.Value));
                    break;
                case IHtmlSelectElement { Name.Length: > 0 } select:
                    fields.Add(new(select.Name, select.Value ?? ""));
                    break;
            }
        }

        fields.RemoveAll(f => changes.Any(c => c.Name == f.Key));
        fields.AddRange(changes.Select(c => new KeyValuePair<string, string>(c.Name, c.Value)));
        return fields;
    }

    public Task SubmitAsync(string selector, params (string, string)[] changes) => SubmitAsync(Form(selector), changes);

    public async Task SubmitAsync(IHtmlFormElement form, params (string, string)[] changes) => await PostAsync(form.Action, Fields(form, changes));

    public async Task PostAsync(string action, IEnumerable<KeyValuePair<string, string>> fields)
    {
        var address = new Uri(At, action.StartsWith("about:", StringComparison.Ordinal) || action.Length == 0 ? At.PathAndQuery : new Uri(action, UriKind.RelativeOrAbsolute) is { IsAbsoluteUri: true } absolute ? absolute.PathAndQuery : action);
        await TakeAsync(await Client.PostAsync(address, new FormUrlEncodedContent(fields)));
    }

    /// <summary>Sends a form with a file.</summary>
    public async Task PostFileAsync(string selector, string field, string name, byte[] content)
    {
        var form = Form(selector);
        using var body = new MultipartFormDataContent();
        foreach (var (key, value) in Fields(form).Where(f => f.Key != field))
        {
            body.Add(new StringContent(value), key);
        }

        body.Add(new ByteArrayContent(content), field, name);
        await TakeAsync(await Client.PostAsync(new Uri(At, form.Action.StartsWith("about:", StringComparison.Ordinal) ? At.PathAndQuery : form.Action), body));
    }

    public void Dispose() => Client.Dispose();

    private async Task TakeAsync(HttpResponseMessage answer)
    {
        (Status, At) = (answer.StatusCode, answer.RequestMessage!.RequestUri!);
        Page = new HtmlParser().ParseDocument(await answer.Content.ReadAsStringAsync());
        // Relative actions resolve against the page's own address.
        foreach (var form in Page.Forms)
        {
            form.SetAttribute("action", form.GetAttribute("action") is { Length: > 0 } action ? new Uri(At, action).PathAndQuery : At.PathAndQuery);
        }
    }
}
