using System.Reflection;
using System.Reflection.Emit;

namespace Kettlefog.Testing;

/// <summary>Reads the bodies of compiled methods.</summary>
public static class CompiledCode
{
    private static readonly Dictionary<short, OpCode> Codes = typeof(OpCodes)
        .GetFields(BindingFlags.Public | BindingFlags.Static)
        .Select(field => (OpCode)field.GetValue(null)!)
        .ToDictionary(code => code.Value);

    /// <summary>The members that the body of a method names, with the instruction that does so.</summary>
    public static IEnumerable<(OpCode Code, MemberInfo Member)> MembersOf(MethodBase method)
    {
        ArgumentNullException.ThrowIfNull(method);
        if (method.GetMethodBody()?.GetILAsByteArray() is not { } il)
            yield break;
        var typeArguments = method.DeclaringType is { IsGenericType: true } type ? type.GetGenericArguments() : null;
        var methodArguments = method.IsGenericMethod ? method.GetGenericArguments() : null;
        for (var place = 0; place < il.Length; )
        {
            var code = il[place] == 0xFE ? Codes[unchecked((short)(0xFE00 | il[place + 1]))] : Codes[il[place]];
            place += code.Size;
            if (
                code.OperandType
                    is OperandType.InlineMethod
                        or OperandType.InlineField
                        or OperandType.InlineType
                        or OperandType.InlineTok
                && method.Module.ResolveMember(BitConverter.ToInt32(il, place), typeArguments, methodArguments)
                    is { } member
            )
                yield return (code, member);
            place += code.OperandType switch
            {
                OperandType.InlineNone => 0,
                OperandType.ShortInlineBrTarget or OperandType.ShortInlineI or OperandType.ShortInlineVar => 1,
                OperandType.InlineVar => 2,
                OperandType.InlineI8 or OperandType.InlineR => 8,
                OperandType.InlineSwitch => 4 + (4 * BitConverter.ToInt32(il, place)),
                _ => 4,
            };
        }
    }
}
