using System;
using System.Collections.Generic;
using System.IO;
using System.Linq;
using Microsoft.CodeAnalysis;
using Microsoft.CodeAnalysis.CSharp;
using Microsoft.CodeAnalysis.CSharp.Syntax;

/// Prints which file uses which name that another file declares, as the compiler understands it: the sort, the file that
/// uses, the file that declares, the name. Sorts: `name`, what a name in the code means; `several`, the same where more
/// than one file declares it; `maybe`, one of what the compiler hesitates between; `unspelled`, what operators, indexers,
/// loops and conversions call, and types that no name spells.
/// Arguments: the root of the sources, then folders of libraries. All sources are one program, which is read
/// several times, with other symbols of conditional lines defined.
static class NamesJudge
{
    static readonly SortedSet<string> found = new SortedSet<string>(StringComparer.Ordinal);
    static string root;

    static void Main(string[] arguments)
    {
        root = Path.GetFullPath(arguments[0]).TrimEnd('/') + "/";
        var sources = Directory.GetFiles(root, "*.cs", SearchOption.AllDirectories)
            .Where(path => !File.GetAttributes(path).HasFlag(FileAttributes.ReparsePoint))
            .ToDictionary(path => path, File.ReadAllText);
        var libraries = Libraries.In(arguments.Skip(1));
        foreach (var defined in Variants(sources.Values.SelectMany(Conditions))) {
            var options = new CSharpParseOptions(LanguageVersion.Latest, DocumentationMode.None, SourceCodeKind.Regular, defined);
            var trees = sources.Select(source => CSharpSyntaxTree.ParseText(source.Value, options, source.Key));
            var compilation = CSharpCompilation.Create("Mossgrove", trees, libraries,
                new CSharpCompilationOptions(OutputKind.ConsoleApplication, allowUnsafe: true));
            System.Threading.Tasks.Parallel.ForEach(compilation.SyntaxTrees, tree => Names(compilation.GetSemanticModel(tree), tree));
        }
        Console.Write(string.Concat(found.Select(line => line + "\n")));
    }

    /// Which symbols are defined: none; all; just one of the most frequent; all but one of them.
    static IEnumerable<string[]> Variants(IEnumerable<string> conditions)
    {
        var symbols = conditions.GroupBy(symbol => symbol).OrderByDescending(group => group.Count()).Select(group => group.Key).ToList();
        yield return new string[0];
        if (symbols.Count > 0) {
            yield return symbols.ToArray();
        }
        foreach (var symbol in symbols.Take(symbols.Count > 1 ? 4 : 0)) {
            yield return new[] { symbol };
            yield return symbols.Where(other => other != symbol).ToArray();
        }
    }

    static IEnumerable<string> Conditions(string text)
    {
        if (!text.Contains("#if") && !text.Contains("#elif")) {
            return new string[0];
        }
        return CSharpSyntaxTree.ParseText(text).GetRoot().DescendantNodes(null, true)
            .OfType<ConditionalDirectiveTriviaSyntax>()
            .SelectMany(line => line.DescendantNodes(null, true).OfType<IdentifierNameSyntax>())
            .Select(name => name.Identifier.ValueText);
    }

    static void Names(SemanticModel model, SyntaxTree tree)
    {
        foreach (var node in tree.GetRoot().DescendantNodes()) {
            if (node is SimpleNameSyntax name) {
                Named(model, tree, name);
            } else if (node is ForEachStatementSyntax loop) {
                var steps = model.GetForEachStatementInfo(loop);
                foreach (var step in new ISymbol[] { steps.GetEnumeratorMethod, steps.MoveNextMethod, steps.CurrentProperty, steps.DisposeMethod }) {
                    Uses(tree, step, "unspelled");
                }
            } else if (node is ExpressionSyntax || node is ConstructorInitializerSyntax) {
                Uses(tree, model.GetSymbolInfo(node).Symbol, "unspelled");
                Types(model, tree, node);
            }
        }
    }

    /// The types of an expression, before and after a conversion, and what converts.
    static void Types(SemanticModel model, SyntaxTree tree, SyntaxNode node)
    {
        Uses(tree, model.GetTypeInfo(node).Type, "unspelled");
        Uses(tree, model.GetTypeInfo(node).ConvertedType, "unspelled");
        if (node is ExpressionSyntax expression) {
            Uses(tree, model.GetConversion(expression).MethodSymbol, "unspelled");
        }
    }

    static void Named(SemanticModel model, SyntaxTree tree, SimpleNameSyntax name)
    {
        var meant = model.GetSymbolInfo(name);
        var sort = name.IsVar ? "unspelled" : "name";
        Uses(tree, meant.Symbol, sort);
        foreach (var candidate in meant.CandidateSymbols) {
            Uses(tree, candidate, "maybe");
        }
        Types(model, tree, name);
    }

    /// What a name means lies where it is declared; a constructor without text where its type is.
    static void Uses(SyntaxTree tree, ISymbol symbol, string sort)
    {
        if (symbol == null || symbol is INamespaceSymbol || IsOfItsOwn(symbol)) {
            return;
        }
        if (symbol is IArrayTypeSymbol array) {
            Uses(tree, array.ElementType, "unspelled");
            return;
        }
        if (symbol is INamedTypeSymbol type && sort == "unspelled") {
            foreach (var argument in type.TypeArguments.Where(argument => !ReferenceEquals(argument, type))) {
                Uses(tree, argument, "unspelled");
            }
        }
        if (symbol is IMethodSymbol method) {
            symbol = method.IsImplicitlyDeclared ? (ISymbol)method.ContainingType : method.ReducedFrom ?? method;
            // What is built in, an operator of numbers say, stands in no type.
            if (symbol == null) {
                return;
            }
        }
        var files = symbol.OriginalDefinition.DeclaringSyntaxReferences.Select(place => place.SyntaxTree.FilePath).Distinct().ToList();
        if (files.Count > 1 && sort == "name") {
            sort = "several";
        }
        foreach (var file in files.Where(file => file != tree.FilePath)) {
            var line = string.Join("\t", sort, tree.FilePath.Substring(root.Length), file.Substring(root.Length), symbol.Name);
            lock (found) {
                found.Add(line);
            }
        }
    }

    /// Whether nothing outside of a member can mean it.
    static bool IsOfItsOwn(ISymbol symbol)
    {
        return symbol is ILocalSymbol || symbol is IParameterSymbol || symbol is IRangeVariableSymbol || symbol is ILabelSymbol
            || symbol is ITypeParameterSymbol || symbol is IDynamicTypeSymbol
            || symbol is IMethodSymbol method && method.MethodKind == MethodKind.LocalFunction;
    }
}
