using System.IO.Compression;
using System.Net;
using System.Threading.RateLimiting;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.DataProtection.KeyManagement;
using Microsoft.AspNetCore.Http.Timeouts;
using Microsoft.AspNetCore.HttpOverrides;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.ModelBinding;
using Microsoft.AspNetCore.ResponseCompression;
using Microsoft.Extensions.Options;
using Screeline.Core.Jobs;
using Screeline.Core.People;
using Screeline.Data;
using Screeline.Library;
using Screeline.Web.Api;
using Screeline.Web.SignIn;

namespace Screeline.Web.Infrastructure;

/// <summary>Puts the web application together.</summary>
public static class WebSetup
{
    // Larger than any form or entry here; a form with a picture has its own limit.
    private const int LargestBody = 1_000_000;

    /// <summary>Services and the request pipeline.</summary>
    public static WebApplication Build(string[] args, Settings settings)
    {
        var builder = WebApplication.CreateBuilder(new WebApplicationOptions
        {
            Args = args,
            // Pages are found in this program also when another one, a test, puts it together.
            ApplicationName = typeof(WebSetup).Assembly.GetName().Name,
            ContentRootPath = AppContext.BaseDirectory,
            WebRootPath = Path.Combine(AppContext.BaseDirectory, "wwwroot"),
        });
        builder.Logging.AddFilter("Microsoft", LogLevel.Warning).AddFilter("Microsoft.AspNetCore.DataProtection", LogLevel.Error)
            // It warns that pages say no-store; they do so on purpose.
            .AddFilter("Microsoft.AspNetCore.Antiforgery", LogLevel.Error);
        builder.WebHost.ConfigureKestrel(kestrel =>
        {
            kestrel.Listen(IPAddress.Loopback, settings.Port);
            kestrel.AddServerHeader = false;
            kestrel.Limits.MaxRequestBodySize = LargestBody;
            kestrel.Limits.RequestHeadersTimeout = TimeSpan.FromSeconds(15);
            kestrel.Limits.MaxConcurrentConnections = 2000;
        });
        if (settings.JsonLog)
        {
            builder.Logging.ClearProviders().AddJsonConsole(options => options.TimestampFormat = "O");
        }

        AddServices(builder.Services, settings);
        var app = builder.Build();
        app.Services.GetRequiredService<WarmUp>().Begin();
        UsePipeline(app, settings);
        return app;
    }

    private static void AddServices(IServiceCollection services, Settings settings)
    {
        services.AddSingleton(settings);
        services.AddSingleton(ShippedLibrary.Load());
        services.AddSingleton<IFamilies, Families>();
        services.AddSingleton(new Database(settings.Connection, settings.AsRole)).AddSingleton(provider => provider.GetRequiredService<Database>().Memory);
        services.AddSingleton<JobStore>().AddSingleton<SummaryStore>().AddSingleton<PeopleStore>().AddSingleton<VehicleStore>()
            .AddSingleton<ToolStore>().AddSingleton<DocumentStore>().AddSingleton<KeyStore>();
        services.AddSingleton<ExperienceStore>().AddSingleton<InsightShelf>().AddSingleton<VehicleParameterStore>().AddSingleton<ShopFigureStore>().AddSingleton<HistoryStore>().AddSingleton<SettingStore>().AddSingleton<VehicleRecordStore>().AddSingleton<DiagnosisTables>().AddSingleton<JudgementCache>().AddSingleton<MapStore>().AddSingleton<MapShelf>().AddSingleton<LearnedMaps>().AddSingleton<ShopChoiceStore>().AddSingleton<ToolCrib>().AddSingleton<Workshop>();
        services.AddSingleton<WarmUp>();
        services.AddSingleton<JobFeed>().AddHostedService(provider => provider.GetRequiredService<JobFeed>());
        services.AddScoped<CurrentPerson>().AddScoped<DevicePreferences>().AddScoped<Diagnoser>();
        services.AddOpenApi("v1", options => options.AddDocumentTransformer((document, _, _) =>
        {
            document.Info.Title = "Screeline";
            document.Info.Description = "Meanings are in docs/formats.md. Figures carry their unit; faults in a request come back with their JSON path.";
            return Task.CompletedTask;
        }));

        services.AddDataProtection().SetApplicationName("screeline");
        services.AddSingleton<IConfigureOptions<KeyManagementOptions>>(provider =>
            new ConfigureOptions<KeyManagementOptions>(options => options.XmlRepository = new DatabaseKeys(provider.GetRequiredService<KeyStore>())));

        // Every form of a page carries a token: Razor Pages look for it by themselves.
        services.AddRazorPages(options => options.Conventions.UseRules());
        // Names of fields as another library writes them are not used here, and a name with an open bracket in it would break the request.
        services.Configure<MvcOptions>(options =>
        {
            options.ValueProviderFactories.RemoveType<JQueryFormValueProviderFactory>();
            options.ValueProviderFactories.RemoveType<JQueryQueryStringValueProviderFactory>();
        });
        services.AddSignIn();
        Metrics.Add(services);
        services.AddAntiforgery(options =>
        {
            options.Cookie.Name = "screeline-form";
            // It outlives every sign-in: were it gone when a browser opens several pages at once, each would bring one of its own, and
            // what is sent from any but the last would be turned away.
            options.Cookie.MaxAge = TimeSpan.FromDays(400);
            options.Cookie.SameSite = SameSiteMode.Strict;
            options.Cookie.SecurePolicy = CookieSecurePolicy.SameAsRequest;
            options.FormFieldName = "form-token";
        });
        services.AddHsts(options => options.MaxAge = TimeSpan.FromDays(365));
        // Nothing here takes half a minute; only what tells live goes on.
        services.AddRequestTimeouts(options => options.DefaultPolicy = new RequestTimeoutPolicy { Timeout = TimeSpan.FromSeconds(30), TimeoutStatusCode = StatusCodes.Status503ServiceUnavailable });
        // Far above what a hand does, far below what a loop does; tries to come in are counted in the database besides.
        services.AddRateLimiter(options =>
        {
            options.RejectionStatusCode = StatusCodes.Status429TooManyRequests;
            options.GlobalLimiter = PartitionedRateLimiter.Create<HttpContext, string>(context => Signed.InRequest(context) is { } signed
                ? RateLimitPartition.GetTokenBucketLimiter($"person {signed.SignedIn.Person}", _ => Bucket(5 * settings.Rate, settings.Rate))
                : RateLimitPartition.GetTokenBucketLimiter($"address {context.Connection.RemoteIpAddress}", _ => Bucket(200, 20)));
        });
        services.AddRouting(options =>
        {
            options.LowercaseUrls = true;
            options.ConstraintMap["setting"] = typeof(SettingConstraint);
            options.ConstraintMap["vehicle-setting"] = typeof(VehicleSettingConstraint);
        });
        services.AddResponseCompression(options =>
        {
            options.Providers.Add<BrotliCompressionProvider>();
            options.Providers.Add<GzipCompressionProvider>();
            options.MimeTypes = [.. ResponseCompressionDefaults.MimeTypes, "image/svg+xml"];
        });
        // A quarter less over a weak network for half a millisecond here. Without https browsers know gzip alone.
        services.Configure<BrotliCompressionProviderOptions>(options => options.Level = CompressionLevel.Optimal);
        services.Configure<GzipCompressionProviderOptions>(options => options.Level = CompressionLevel.Optimal);
        services.AddHttpContextAccessor();
        services.AddOptions<HostOptions>().Configure(options => options.ShutdownTimeout = TimeSpan.FromSeconds(5));
    }

    private static TokenBucketRateLimiterOptions Bucket(int most, int aSecond) => new() { TokenLimit = most, TokensPerPeriod = aSecond, ReplenishmentPeriod = TimeSpan.FromSeconds(1), QueueLimit = 0, AutoReplenishment = true };

    private static void UsePipeline(WebApplication app, Settings settings)
    {
        if (settings.BehindProxy)
        {
            // Only a proxy on this machine is believed, which is where this listens.
            app.UseForwardedHeaders(new ForwardedHeadersOptions { ForwardedHeaders = ForwardedHeaders.XForwardedFor | ForwardedHeaders.XForwardedProto });
            app.UseHsts();
        }

        app.UseMiddleware<SafetyHeaders>();
        app.UseResponseCompression();
        app.UseExceptionHandler(new ExceptionHandlerOptions
        {
            ExceptionHandlingPath = "/error/500",
            // What the server could not read is the sender's to mend.
            StatusCodeSelector = e => e is BadHttpRequestException bad ? bad.StatusCode : StatusCodes.Status500InternalServerError,
        });
        // Within the handler of everything else: that the database is away is no fault of the program.
        app.UseMiddleware<DatabaseAway>();
        app.UseStatusCodePagesWithReExecute("/error/{0}");
        app.UseStaticFiles(new StaticFileOptions
        {
            // A file named with its version never changes; the others are asked for again.
            OnPrepareResponse = context => context.Context.Response.Headers.CacheControl =
                context.Context.Request.Query.ContainsKey("v") ? "public, max-age=31536000, immutable" : "no-cache",
        });
        app.UseMiddleware<ReadableRequests>();
        app.Use(async (context, next) =>
        {
            // What changes something must see what it changed; a page that is only looked at is made of one state of the shop.
            using var look = HttpMethods.IsGet(context.Request.Method) || HttpMethods.IsHead(context.Request.Method) ? ShopMemory.BeginLook() : null;
            await next(context);
        });
        app.UseRouting();
        app.UseAuthentication();
        app.UseRateLimiter();
        app.UseAuthorization();
        app.UseRequestTimeouts();
        app.MapRazorPages();
        app.MapGroup("").AllowAnonymous().MapHealth();
        // What is only worked out may be asked by whoever may look.
        var asked = app.MapGroup("").Allow(Role.Viewer, Role.Viewer);
        asked.MapDiagnosis();
        asked.MapPlans();
        asked.MapPictures();
        asked.MapTorque();
        asked.MapSettings();
        asked.MapOpenApi("/openapi/{documentName}.json");
        app.MapGroup("").Allow(Role.Viewer, Role.Apprentice).MapEntries();
        asked.MapLive();
        app.MapGroup("").Allow(Role.Viewer, Role.Technician).MapFiles();
    }
}
