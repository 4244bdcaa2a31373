using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Screeline.Data;
using Screeline.Web.Infrastructure;

namespace Screeline.Web.Pages;

/// <summary>Who works on this device: every entry names a person.</summary>
public sealed class WhoModel(PeopleStore people, Desk desk) : PageModel
{
    [BindProperty(SupportsGet = true)]
    public string? Back { get; set; }

    public IReadOnlyList<Person> People { get; private set; } = [];

    public Person? Now { get; private set; }

    public string? Fault { get; private set; }

    public string? Name { get; private set; }

    public Task OnGetAsync() => PrepareAsync();

    public async Task<IActionResult> OnPostAsync(Guid person)
    {
        await PrepareAsync();
        return People.Any(p => p.Id == person) ? Chosen(person) : NotFound();
    }

    public async Task<IActionResult> OnPostAddAsync(string? name)
    {
        await PrepareAsync();
        Name = name?.Trim();
        Fault = string.IsNullOrEmpty(Name) ? "A name is wanted: it stands beside everything you keep." : Name.Length > 200 ? "Longer than 200 characters." : null;
        if (Fault is not null)
        {
            Response.StatusCode = StatusCodes.Status422UnprocessableEntity;
            return Page();
        }

        var person = new Person(Guid.NewGuid(), Name!, "technician");
        await people.AddAsync(person);
        return Chosen(person.Id);
    }

    private RedirectResult Chosen(Guid person)
    {
        desk.Set(Desk.PersonCookie, person.ToString());
        return Redirect(Url.IsLocalUrl(Back) ? Back! : "/");
    }

    private async Task PrepareAsync()
    {
        People = await people.AllAsync();
        Now = await desk.PersonAsync();
        ViewData["Title"] = "Who works here now?";
    }
}
