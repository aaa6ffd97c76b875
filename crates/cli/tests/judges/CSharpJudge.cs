using System;
using System.Collections.Generic;
using System.IO;
using System.Linq;
using System.Text.RegularExpressions;
using Mono.Cecil;
using Mono.Cecil.Cil;

/// Prints which file uses which type of which other file, by what the compiler wrote into an assembly: how, the file
/// that uses, the file that declares, the type. Constants are not in an assembly any more, so nothing is said of them.
/// Arguments: the assembly, the root of the sources, a file with the path of each source on a line.
static class CSharpJudge
{
    static readonly Dictionary<string, HashSet<string>> declared = new Dictionary<string, HashSet<string>>();
    static readonly SortedSet<string> found = new SortedSet<string>();
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

    static string FileOf(MethodDefinition method)
    {
        var first = method.HasBody ? method.Body.Instructions.FirstOrDefault(i => i.SequencePoint != null) : null;
        return first == null ? null : Path.GetFullPath(first.SequencePoint.Document.Url);
    }

    static void Type(TypeDefinition type)
    {
        var own = declared[type.FullName];
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
        foreach (var operand in method.Body.Instructions.Select(instruction => instruction.Operand)) {
            var member = operand as MemberReference;
            Use(file, operand as TypeReference ?? (member == null ? null : member.DeclaringType), "code");
            var generic = operand as GenericInstanceMethod;
            if (generic != null) {
                foreach (var argument in generic.GenericArguments) {
                    Use(file, argument, "argument");
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
                Use(file, argument, how);
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
