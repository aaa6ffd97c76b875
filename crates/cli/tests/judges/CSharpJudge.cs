using System;
using System.Collections.Generic;
using System.IO;
using System.Linq;
using System.Text.RegularExpressions;
using Mono.Cecil;
using Mono.Cecil.Cil;

/// Prints which file uses which type of which other file, by what the compiler wrote into an assembly: how, the file
/// that uses, the file that declares, the type. Constants are not in an assembly any more, so nothing is said of them.
/// Types that the compiler only inferred, and those that declare what another overrides, are told apart by their sort:
/// no name in the file need mean them.
/// Arguments: the assembly, the root of the sources, a file with the path of each source on a line.
static class CSharpJudge
{
    static readonly Dictionary<string, HashSet<string>> declared = new Dictionary<string, HashSet<string>>();
    static readonly SortedSet<string> found = new SortedSet<string>();
    static readonly HashSet<string> overridden = new HashSet<string>();
    static string root;

    static void Main(string[] arguments)
    {
        root = arguments[1].TrimEnd('/') + "/";
        var sources = File.ReadAllLines(arguments[2]).ToDictionary(Path.GetFullPath, File.ReadAllText);
        var parameters = new ReaderParameters {
            ReadSymbols = true, SymbolReaderProvider = new Mono.Cecil.Mdb.MdbReaderProvider()
        };
        var types = Nested(AssemblyDefinition.ReadAssembly(arguments[0], parameters).MainModule.Types).ToList();
        foreach (var type in types) {
            declared[type.FullName] = Files(type, sources);
        }
        overridden.UnionWith(types.SelectMany(type => type.Methods).SelectMany(Overrides));
        foreach (var type in types) {
            Type(type);
        }
        foreach (var line in found) {
            Console.WriteLine(line);
        }
    }

    static IEnumerable<TypeDefinition> Nested(IEnumerable<TypeDefinition> types)
    {
        return types.SelectMany(type => new[] { type }.Concat(Nested(type.NestedTypes)));
    }

    /// The files of a type's methods; for one without code the files in which its name is declared.
    static HashSet<string> Files(TypeDefinition type, Dictionary<string, string> sources)
    {
        var files = new HashSet<string>(type.Methods.Select(FileOf).Where(file => file != null));
        if (files.Count == 0) {
            var name = Regex.Escape(type.Name.Split('`')[0]);
            var head = new Regex(@"\b(class|struct|interface|enum|delegate\s[^;(]*?)\s+" + name + @"\b");
            files.UnionWith(sources.Where(source => head.IsMatch(source.Value)).Select(source => source.Key));
        }
        return files;
    }

    /// The methods above that a method overrides. A call of it names the topmost of them, whatever the type it is called on.
    static IEnumerable<string> Overrides(MethodDefinition method)
    {
        if (!method.IsVirtual || method.IsNewSlot) {
            yield break;
        }
        for (var above = Above(method.DeclaringType); above != null; above = Above(above)) {
            foreach (var other in above.Methods.Where(other => other.IsVirtual && other.Name == method.Name
                && other.Parameters.Count == method.Parameters.Count)) {
                yield return other.FullName;
            }
        }
    }

    static TypeDefinition Above(TypeDefinition type)
    {
        return type.BaseType == null ? null : type.BaseType.GetElementType() as TypeDefinition;
    }

    static string FileOf(MethodDefinition method)
    {
        var first = method.HasBody ? method.Body.Instructions.FirstOrDefault(i => i.SequencePoint != null) : null;
        var file = first == null ? null : Path.GetFullPath(first.SequencePoint.Document.Url);
        return file == null ? null : MadeFrom(method, file);
    }

    /// Of what the compiler makes of a function inside a method of a partial type it writes down some file of that type;
    /// the file of the method itself is meant.
    static string MadeFrom(MethodDefinition method, string file)
    {
        var type = method.DeclaringType;
        var made = Inner(method.Name);
        for (; type.Name.Contains("<") && type.DeclaringType != null; type = type.DeclaringType) {
            made = Inner(type.Name) ?? made;
        }
        if (made == null || !declared.ContainsKey(type.FullName) || declared[type.FullName].Count < 2) {
            return file;
        }
        var around = type.Methods.Where(other => other.Name == made).Select(FileOf).Distinct().ToList();
        return around.Count == 1 ? around[0] : null;
    }

    static string Inner(string name)
    {
        var match = Regex.Match(name, "^<([^>]+)>");
        return match.Success ? match.Groups[1].Value : null;
    }

    static void Type(TypeDefinition type)
    {
        var own = declared[type.FullName];
        // What the compiler makes of a function has fields for its locals, which no name need mean.
        if (type.Name.Contains("<")) {
            type.Methods.ToList().ForEach(method => Method(FileOf(method), method));
            return;
        }
        var file = own.Count == 1 ? own.First() : null;
        Use(file, type.BaseType, "base");
        Attributes(file, type);
        foreach (var field in type.Fields.Where(field => !field.Name.Contains("<"))) {
            Use(file, field.FieldType, "field");
            Attributes(file, field);
        }
        foreach (var method in type.Methods) {
            Method(FileOf(method) ?? file, method);
        }
    }

    static void Method(string file, MethodDefinition method)
    {
        if (!method.Name.Contains("<")) {
            Use(file, method.ReturnType, "returns");
            foreach (var parameter in method.Parameters) {
                Use(file, parameter.ParameterType, "parameter");
            }
            Attributes(file, method);
        }
        if (!method.HasBody) {
            return;
        }
        foreach (var handler in method.Body.ExceptionHandlers) {
            Use(file, handler.CatchType, "catch");
        }
        foreach (var instruction in method.Body.Instructions) {
            var operand = instruction.Operand;
            // The first values of fields stand in several files of a partial type.
            if (instruction.SequencePoint != null && method.IsConstructor) {
                file = Path.GetFullPath(instruction.SequencePoint.Document.Url);
            }
            var member = operand as MemberReference;
            var called = operand as MethodReference;
            var how = called != null && overridden.Contains(called.GetElementMethod().FullName) ? "overridden" : "code";
            Use(file, operand as TypeReference ?? (member == null ? null : member.DeclaringType), how);
            var generic = operand as GenericInstanceMethod;
            if (generic != null) {
                foreach (var argument in generic.GenericArguments) {
                    Use(file, argument, "inferred");
                }
            }
        }
    }

    static void Attributes(string file, ICustomAttributeProvider of)
    {
        foreach (var attribute in of.CustomAttributes) {
            Use(file, attribute.AttributeType, "attribute");
        }
    }

    static void Use(string file, TypeReference type, string how)
    {
        if (file == null || type == null) {
            return;
        }
        var generic = type as GenericInstanceType;
        if (generic != null) {
            foreach (var argument in generic.GenericArguments) {
                Use(file, argument, how == "code" || how == "overridden" ? "inferred" : how);
            }
        }
        var meant = type.GetElementType() as TypeDefinition;
        HashSet<string> files;
        if (meant == null || meant.Name.Contains("<") || !declared.TryGetValue(meant.FullName, out files)) {
            return;
        }
        // A partial type in several files: the assembly does not tell which of them is meant.
        if (files.Count == 1 && !files.Contains(file)) {
            var to = files.First().Replace(root, "");
            found.Add(string.Join("\t", how, file.Replace(root, ""), to, meant.Name.Split('`')[0]));
        }
    }
}
