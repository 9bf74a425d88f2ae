using Microsoft.AspNetCore.Http.Features;

namespace Kettlefog.Service.Endpoints;

/// <summary>The key in the address of a record.</summary>
internal static class AddressKey
{
    /// <summary>Its position in <c>/api/records/{type}/{key}</c>.</summary>
    private const int Segment = 4;

    /// <summary>
    /// Reads it from the raw address: the framework leaves <c>%2F</c> as it is in a route value, so a
    /// slash in a key could not be distinguished from the text <c>%2F</c>.
    /// </summary>
    public static string Read(HttpContext http)
    {
        var target = http.Features.GetRequiredFeature<IHttpRequestFeature>().RawTarget.Split('?')[0];
        return Uri.UnescapeDataString(target.Split('/')[Segment]);
    }
}
