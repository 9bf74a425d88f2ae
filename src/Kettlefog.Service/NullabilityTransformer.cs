using System.Reflection;
using Microsoft.AspNetCore.OpenApi;
using Microsoft.OpenApi;

namespace Kettlefog.Service;

/// <summary>Marks nullable members of lists and dictionaries, which the framework does not.</summary>
internal sealed class NullabilityTransformer : IOpenApiSchemaTransformer
{
    public Task TransformAsync(
        OpenApiSchema schema,
        OpenApiSchemaTransformerContext context,
        CancellationToken cancellationToken
    )
    {
        if (context.JsonPropertyInfo?.AttributeProvider is PropertyInfo property)
            Mark(schema, new NullabilityInfoContext().Create(property));
        return Task.CompletedTask;
    }

    private static void Mark(OpenApiSchema schema, NullabilityInfo nullability)
    {
        if (
            nullability.GenericTypeArguments.LastOrDefault() is not { } member
            || (schema.Items ?? schema.AdditionalProperties) is not OpenApiSchema inner
        )
        {
            return;
        }

        if (member.ReadState == NullabilityState.Nullable)
            inner.Type |= JsonSchemaType.Null;
        Mark(inner, member);
    }
}
