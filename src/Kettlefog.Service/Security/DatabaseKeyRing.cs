using System.Xml.Linq;
using Kettlefog.Database.Users;
using Microsoft.AspNetCore.DataProtection.Repositories;

namespace Kettlefog.Service.Security;

/// <summary>Stores the keys that protect cookies in the database, so that a restart signs nobody out.</summary>
internal sealed class DatabaseKeyRing(UserStore users) : IXmlRepository
{
    public IReadOnlyCollection<XElement> GetAllElements() =>
        [.. users.ReadKeyRingAsync(CancellationToken.None).GetAwaiter().GetResult().Select(xml => XElement.Parse(xml))];

    public void StoreElement(XElement element, string friendlyName) =>
        users
            .AddToKeyRingAsync(element.ToString(SaveOptions.DisableFormatting), CancellationToken.None)
            .GetAwaiter()
            .GetResult();
}
