using System.Reflection;

namespace Kettlefog.Testing;

/// <summary>
/// Checks the namespaces of an assembly against an order: each may use those before it and none after it. What a
/// namespace uses is read from the compiled code, signatures and bodies alike, so that nothing depends on the style of
/// the source.
/// </summary>
public static class NamespaceOrder
{
    private const BindingFlags All =
        BindingFlags.Public
        | BindingFlags.NonPublic
        | BindingFlags.Instance
        | BindingFlags.Static
        | BindingFlags.DeclaredOnly;

    /// <summary>Uses that violate the order, and namespaces that the order does not name.</summary>
    /// <param name="assembly">The assembly.</param>
    /// <param name="order">The namespaces, without the assembly's own name; the empty text is its root.</param>
    public static IReadOnlyList<string> Violations(Assembly assembly, IReadOnlyList<string> order)
    {
        var root = assembly.GetName().Name!;
        var rank = order
            .Select((name, index) => (Name: name.Length == 0 ? root : $"{root}.{name}", index))
            .ToDictionary(each => each.Name, each => each.index);
        var found = new SortedSet<string>(StringComparer.Ordinal);
        foreach (
            var type in assembly
                .GetTypes()
                .Where(type => type.Namespace?.StartsWith(root, StringComparison.Ordinal) == true)
        )
        {
            if (!rank.TryGetValue(type.Namespace!, out var own))
            {
                found.Add($"{type.Namespace} is not in the order");
                continue;
            }

            foreach (var used in UsedBy(type).Where(used => used.Assembly == assembly && used.Namespace is not null))
            {
                if (rank.TryGetValue(used.Namespace!, out var other) && other > own)
                    found.Add($"{Outer(type)} uses {Outer(used)}");
            }
        }

        return [.. found];
    }

    private static string Outer(Type type)
    {
        while (type.DeclaringType is { } outer)
            type = outer;
        return $"{type.Namespace}.{type.Name}";
    }

    private static HashSet<Type> UsedBy(Type type)
    {
        var used = new HashSet<Type>();
        Add(type.BaseType, used);
        foreach (var implemented in type.GetInterfaces())
            Add(implemented, used);
        foreach (var field in type.GetFields(All))
            Add(field.FieldType, used);
        foreach (var method in type.GetMethods(All).Concat<MethodBase>(type.GetConstructors(All)))
        {
            foreach (var parameter in method.GetParameters())
                Add(parameter.ParameterType, used);
            if (method is MethodInfo { ReturnType: var returned })
                Add(returned, used);
            AddBody(type, method, used);
        }

        return used;
    }

    private static void AddBody(Type type, MethodBase method, HashSet<Type> used)
    {
        if (method.GetMethodBody() is not { } body)
            return;
        foreach (var local in body.LocalVariables)
            Add(local.LocalType, used);
        foreach (var (_, member) in CompiledCode.MembersOf(method))
        {
            Add(member as Type ?? member.DeclaringType, used);
            if (member is MethodInfo { IsGenericMethod: true } generic)
            {
                foreach (var argument in generic.GetGenericArguments())
                    Add(argument, used);
            }
        }
    }

    private static void Add(Type? type, HashSet<Type> used)
    {
        if (type is null || type.IsGenericParameter)
            return;
        if (type.HasElementType)
        {
            Add(type.GetElementType(), used);
            return;
        }

        if (!used.Add(type) || !type.IsGenericType)
            return;
        foreach (var argument in type.GetGenericArguments())
            Add(argument, used);
    }
}
