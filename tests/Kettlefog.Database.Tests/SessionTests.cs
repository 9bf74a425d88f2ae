using System.Reflection;
using System.Reflection.Emit;
using System.Runtime.CompilerServices;
using Kettlefog.Core.Matching;
using Kettlefog.Testing;

namespace Kettlefog.Database.Tests;

/// <summary>
/// No session is held while duplicates are computed, which may take minutes: in SQLite it would keep other programs
/// from writing. Read from the compiled code: a method that has a session calls nothing that computes, however far.
/// </summary>
public class SessionTests
{
    private const BindingFlags All =
        BindingFlags.Public
        | BindingFlags.NonPublic
        | BindingFlags.Instance
        | BindingFlags.Static
        | BindingFlags.DeclaredOnly;

    private static readonly Assembly Database = typeof(OperationalDatabase).Assembly;
    private static readonly Type Session = Database.GetType("Kettlefog.Database.Engines.Session", throwOnError: true)!;

    private static readonly string[] Computing =
    [
        nameof(DuplicateFinder.Prepare),
        nameof(DuplicateFinder.Score),
        nameof(DuplicateFinder.Cluster),
    ];

    [Fact]
    public void A_method_that_has_a_session_computes_no_duplicates()
    {
        var methods = Database
            .GetTypes()
            .SelectMany(type => type.GetMethods(All))
            .Where(method => method.GetMethodBody() is not null && method.Name != "MoveNext")
            .ToList();
        var calls = methods.ToDictionary(method => (MethodBase)method, method => CallsOf(method).ToList());
        var computing = methods
            .Where(method =>
                calls[method]
                    .Any(called => called.DeclaringType == typeof(DuplicateFinder) && Computing.Contains(called.Name))
            )
            .ToHashSet<MethodBase>();
        computing.Count.ShouldBeGreaterThan(4, "the calls are found");
        for (var before = 0; before != computing.Count; )
        {
            before = computing.Count;
            computing.UnionWith(methods.Where(method => calls[method].Any(computing.Contains)));
        }

        computing.Where(HasSession).Select(method => $"{method.DeclaringType!.FullName}.{method.Name}").ShouldBeEmpty();
    }

    /// <summary>The methods that a method calls; those of an asynchronous one are in its state machine.</summary>
    private static IEnumerable<MethodBase> CallsOf(MethodInfo method) =>
        BodiesOf(method)
            .SelectMany(CompiledCode.MembersOf)
            .Where(each => each.Code == OpCodes.Call || each.Code == OpCodes.Callvirt || each.Code == OpCodes.Newobj)
            .Select(each => each.Member)
            .OfType<MethodBase>();

    private static IEnumerable<MethodBase> BodiesOf(MethodInfo method) =>
        MachineOf(method) is { } machine
            ? machine.GetMethods(All).Where(each => each.Name.EndsWith("MoveNext", StringComparison.Ordinal))
            : [method];

    private static Type? MachineOf(MethodInfo method) =>
        method.GetCustomAttribute<StateMachineAttribute>()?.StateMachineType;

    private static bool HasSession(MethodBase method) =>
        method.GetParameters().Any(parameter => parameter.ParameterType == Session)
        || method.DeclaringType!.GetFields(All).Any(field => field.FieldType == Session)
        || method.GetMethodBody()!.LocalVariables.Any(local => local.LocalType == Session)
        || (
            MachineOf((MethodInfo)method) is { } machine
            && machine.GetFields(All).Any(field => field.FieldType == Session)
        );
}
