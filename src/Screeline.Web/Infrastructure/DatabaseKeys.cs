using System.Xml.Linq;
using Microsoft.AspNetCore.DataProtection.Repositories;
using Screeline.Data;

namespace Screeline.Web.Infrastructure;

/// <summary>Keeps the keys that sign forms and cookies in the database, so that a form outlives the process that made it.</summary>
public sealed class DatabaseKeys(KeyStore store) : IXmlRepository
{
    /// <inheritdoc/>
    public IReadOnlyCollection<XElement> GetAllElements() => [.. store.All().Select(xml => XElement.Parse(xml))];

    /// <inheritdoc/>
    public void StoreElement(XElement element, string friendlyName) => store.Add(friendlyName, element.ToString(SaveOptions.DisableFormatting));
}
