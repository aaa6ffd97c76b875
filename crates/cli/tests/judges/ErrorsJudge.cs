using System;
using System.IO;
using System.Linq;
using Microsoft.CodeAnalysis;
using Microsoft.CodeAnalysis.CSharp;

/// Prints the errors of all sources below a folder as one program, a line each: the file, the number, the words.
/// Arguments: the root of the sources, then folders of libraries.
static class ErrorsJudge
{
    static void Main(string[] arguments)
    {
        var root = Path.GetFullPath(arguments[0]).TrimEnd('/') + "/";
        var options = new CSharpParseOptions(LanguageVersion.Latest, DocumentationMode.None);
        var trees = Directory.GetFiles(root, "*.cs", SearchOption.AllDirectories)
            .Select(path => CSharpSyntaxTree.ParseText(File.ReadAllText(path), options, path));
        var compilation = CSharpCompilation.Create("Mossgrove", trees, Libraries.In(arguments.Skip(1)),
            new CSharpCompilationOptions(OutputKind.DynamicallyLinkedLibrary, allowUnsafe: true));
        var errors = compilation.GetDiagnostics().Where(said => said.Severity == DiagnosticSeverity.Error);
        foreach (var error in errors) {
            var path = error.Location.SourceTree?.FilePath ?? root;
            Console.WriteLine(string.Join("\t", path.Substring(root.Length), error.Id, error.GetMessage().Replace('\n', ' ')));
        }
    }
}
