using Microsoft.AspNetCore.Authorization;
using Screeline.Core.People;

namespace Screeline.Web.SignIn;

/// <summary>Who may open a page or call, and who may send something to it. What has no such rule is open to nobody.</summary>
/// <param name="read">The least role that may look (GET, HEAD).</param>
/// <param name="write">The least role that may send.</param>
[AttributeUsage(AttributeTargets.Class)]
public sealed class AllowAttribute(Role read, Role write) : Attribute
{
    /// <summary>The least role that may look.</summary>
    public Role Read { get; } = read;

    /// <summary>The least role that may send.</summary>
    public Role Write { get; } = write;

    /// <summary>Whether a person who was switched to by a PIN is not enough: they must have come in by their own password.</summary>
    public bool OwnSignIn { get; init; }
}

/// <summary>The one requirement of every request: the rule of its endpoint.</summary>
public sealed class AllowRequirement : IAuthorizationRequirement;

/// <summary>Holds a request against the rule of its endpoint.</summary>
public sealed class AllowHandler : AuthorizationHandler<AllowRequirement>
{
    /// <inheritdoc/>
    protected override Task HandleRequirementAsync(AuthorizationHandlerContext context, AllowRequirement requirement)
    {
        if (context.Resource is HttpContext http && Signed.InRequest(http) is { } signed)
        {
            var endpoint = http.GetEndpoint();
            var rule = endpoint?.Metadata.GetMetadata<AllowAttribute>();
            var looks = HttpMethods.IsGet(http.Request.Method) || HttpMethods.IsHead(http.Request.Method);
            // An address that leads nowhere may be told so to whoever is in.
            if (endpoint is null || (rule is not null && signed.Role >= (looks ? rule.Read : rule.Write) && (signed.Own || !rule.OwnSignIn)))
            {
                context.Succeed(requirement);
            }
        }

        return Task.CompletedTask;
    }
}
