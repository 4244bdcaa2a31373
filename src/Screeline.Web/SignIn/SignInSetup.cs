using System.Security.Claims;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.Cookies;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc.ApplicationModels;
using Screeline.Core.People;
using Screeline.Data;

namespace Screeline.Web.SignIn;

/// <summary>Puts sign-in together: a cookie for people, tokens for programs, and no way in without a rule.</summary>
public static class SignInSetup
{
    /// <summary>The cookie's name.</summary>
    public const string Cookie = "screeline-sign-in";

    private const string Either = "either";

    /// <summary>Services.</summary>
    public static void AddSignIn(this IServiceCollection services)
    {
        services.AddSingleton<AccountStore>().AddSingleton<TryStore>().AddSingleton<SetupStore>().AddSingleton<TokenStore>().AddSingleton<TrailStore>().AddSingleton<Gatekeeper>();
        services.AddAuthentication(Either)
            .AddPolicyScheme(Either, null, options => options.ForwardDefaultSelector = context =>
                context.Request.Headers.Authorization.ToString().StartsWith("Bearer ", StringComparison.OrdinalIgnoreCase) ? TokenScheme.Name : CookieAuthenticationDefaults.AuthenticationScheme)
            .AddScheme<AuthenticationSchemeOptions, TokenScheme>(TokenScheme.Name, null)
            .AddCookie(options =>
            {
                options.Cookie.Name = Cookie;
                options.Cookie.HttpOnly = true;
                options.Cookie.SameSite = SameSiteMode.Lax;
                options.Cookie.SecurePolicy = CookieSecurePolicy.SameAsRequest;
                options.ExpireTimeSpan = Signed.Shift;
                options.SlidingExpiration = false;
                options.Events.OnValidatePrincipal = ValidateAsync;
                options.Events.OnRedirectToLogin = context => AskAsync(context.HttpContext);
                options.Events.OnRedirectToAccessDenied = context =>
                {
                    context.Response.StatusCode = StatusCodes.Status403Forbidden;
                    return IsCall(context.HttpContext) ? context.Response.WriteAsJsonAsync(new { error = "Your role does not allow that." }) : Task.CompletedTask;
                };
            });
        services.AddSingleton<IAuthorizationHandler, AllowHandler>();
        services.AddAuthorization(options => options.FallbackPolicy = options.DefaultPolicy = new AuthorizationPolicyBuilder().AddRequirements(new AllowRequirement()).Build());
    }

    /// <summary>The rule of a page stands on its model.</summary>
    public static void UseRules(this PageConventionCollection conventions) => conventions.AddFolderApplicationModelConvention("/", model =>
    {
        foreach (var attribute in model.HandlerTypeAttributes.OfType<AllowAttribute>())
        {
            model.EndpointMetadata.Add(attribute);
        }
    });

    /// <summary>The rule of a call.</summary>
    public static T Allow<T>(this T endpoint, Role read, Role write) where T : IEndpointConventionBuilder => endpoint.WithMetadata(new AllowAttribute(read, write));

    /// <summary>Whether a program or a script asks, who wants a word and no page.</summary>
    public static bool IsCall(HttpContext context) =>
        context.Request.Path.StartsWithSegments("/api") || context.Request.Headers.ContainsKey("X-Screeline-Kept") || context.Request.Headers.Accept.ToString().StartsWith("text/event-stream", StringComparison.Ordinal);

    private static async Task ValidateAsync(CookieValidatePrincipalContext context)
    {
        var accounts = context.HttpContext.RequestServices.GetRequiredService<AccountStore>();
        // Whether the process lives is told whoever asks and whatever the database does.
        if (context.HttpContext.Request.Path.StartsWithSegments("/health"))
        {
            context.RejectPrincipal();
        }
        else if (context.Principal is { } principal && await ReadAsync(principal, accounts, context.HttpContext.RequestServices.GetRequiredService<Database>(), context.HttpContext.RequestAborted) is { } signed)
        {
            context.HttpContext.Features.Set(signed);
        }
        else
        {
            context.RejectPrincipal();
        }
    }

    // A connection that broke while nobody used it shows only now; the next one is new. Nothing is changed by looking twice.
    private static async Task<Signed?> ReadAsync(ClaimsPrincipal principal, AccountStore accounts, Database database, CancellationToken cancel)
    {
        try
        {
            return await Signed.ReadAsync(principal, accounts, DateTimeOffset.UtcNow, cancel);
        }
        catch (Exception e) when (Database.IsAway(e))
        {
            database.ForgetConnections();
            return await Signed.ReadAsync(principal, accounts, DateTimeOffset.UtcNow, cancel);
        }
    }

    private static Task AskAsync(HttpContext context)
    {
        if (IsCall(context))
        {
            context.Response.StatusCode = StatusCodes.Status401Unauthorized;
            return context.Response.WriteAsJsonAsync(new { error = "Nobody is signed in. Sign in at /sign-in, or send a token." });
        }

        // A picture, a style or an icon that a browser asks for by itself is no page: sent on to the form, its answer would bring
        // another cookie for forms than the page has that the person looks at.
        if (context.Request.Headers["Sec-Fetch-Dest"].ToString() is not ("" or "document" or "empty"))
        {
            context.Response.StatusCode = StatusCodes.Status401Unauthorized;
            return Task.CompletedTask;
        }

        var back = HttpMethods.IsGet(context.Request.Method) ? context.Request.Path + context.Request.QueryString : "/";
        context.Response.Redirect($"/sign-in?back={Uri.EscapeDataString(back)}");
        return Task.CompletedTask;
    }
}
