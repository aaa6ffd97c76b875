import com.sun.source.tree.ClassTree;
import com.sun.source.tree.CompilationUnitTree;
import com.sun.source.tree.IdentifierTree;
import com.sun.source.tree.MemberReferenceTree;
import com.sun.source.tree.MemberSelectTree;
import com.sun.source.tree.Tree;
import com.sun.source.util.JavacTask;
import com.sun.source.util.TreePathScanner;
import com.sun.source.util.Trees;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeSet;
import javax.lang.model.element.Element;
import javax.lang.model.element.ElementKind;
import javax.lang.model.type.TypeKind;
import javax.tools.ToolProvider;

/**
 * Prints which file names what of which other file, as the compiler understands it: {@code type|member}, the file that
 * names, the file that declares, the name, with tabs between. Errors (a library that is not there) do not stop it.
 */
public final class JavaJudge {
    private final Path root;
    private final Trees trees;
    private final Map<Element, String> declared = new HashMap<>();
    private final TreeSet<String> found = new TreeSet<>();

    private JavaJudge(Path root, Trees trees) {
        this.root = root;
        this.trees = trees;
    }

    public static void main(String[] arguments) throws IOException {
        Path root = Path.of(arguments[0]).toRealPath();
        List<Path> files;
        try (var all = Files.walk(root)) {
            files = all.filter(path -> path.toString().endsWith(".java"))
                    .filter(path -> !path.endsWith("module-info.java"))
                    .toList();
        }
        var compiler = ToolProvider.getSystemJavaCompiler();
        var manager = compiler.getStandardFileManager(null, null, null);
        var options = List.of("-proc:none", "-implicit:none", "-XDshould-stop.ifError=FLOW", "-Xmaxerrs", "1000000");
        var task = (JavacTask) compiler.getTask(
                null, manager, problem -> { }, options, null, manager.getJavaFileObjectsFromPaths(files));
        var units = task.parse();
        task.analyze();
        var judge = new JavaJudge(root, Trees.instance(task));
        for (var unit : units) {
            judge.declarations(unit);
        }
        for (var unit : units) {
            judge.uses(unit);
        }
        judge.found.forEach(System.out::println);
    }

    private String file(CompilationUnitTree unit) {
        try {
            return root.relativize(Path.of(unit.getSourceFile().toUri()).toRealPath()).toString().replace('\\', '/');
        } catch (IOException gone) {
            return unit.getSourceFile().getName();
        }
    }

    private void declarations(CompilationUnitTree unit) {
        String file = file(unit);
        new TreePathScanner<Void, Void>() {
            @Override
            public Void visitClass(ClassTree tree, Void nothing) {
                Element element = trees.getElement(getCurrentPath());
                if (element != null) {
                    declared.put(element, file);
                }
                return super.visitClass(tree, nothing);
            }
        }.scan(unit, null);
    }

    private void uses(CompilationUnitTree unit) {
        String file = file(unit);
        CharSequence text;
        try {
            text = unit.getSourceFile().getCharContent(true);
        } catch (IOException gone) {
            return;
        }
        new TreePathScanner<Void, Void>() {
            private void note(Tree tree) {
                Element element;
                try {
                    element = trees.getElement(getCurrentPath());
                } catch (RuntimeException unresolved) {
                    return;
                }
                // A name that the compiler could not find, because a library is missing, belongs to nobody.
                if (element == null || element.asType().getKind() == TypeKind.ERROR) {
                    return;
                }
                Element around = element;
                while (around != null && !declared.containsKey(around) && around.getKind() != ElementKind.PACKAGE) {
                    around = around.getEnclosingElement();
                }
                String to = around == null ? null : declared.get(around);
                if (to == null || to.equals(file)) {
                    return;
                }
                boolean type = element.getKind().isClass() || element.getKind().isInterface();
                found.add((type ? "type" : "member") + "\t" + file + "\t" + to + "\t" + element.getSimpleName());
            }

            @Override
            public Void visitIdentifier(IdentifierTree tree, Void nothing) {
                // The compiler makes up trees for the types of `x -> …`: only what is spelled counts.
                long at = trees.getSourcePositions().getStartPosition(unit, tree);
                String name = tree.getName().toString();
                if (at >= 0 && text.subSequence((int) at, Math.min(text.length(), (int) at + name.length())).toString().equals(name)) {
                    note(tree);
                }
                return super.visitIdentifier(tree, nothing);
            }

            @Override
            public Void visitMemberSelect(MemberSelectTree tree, Void nothing) {
                long end = trees.getSourcePositions().getEndPosition(unit, tree);
                String name = tree.getIdentifier().toString();
                if (end >= name.length() && text.subSequence((int) end - name.length(), (int) end).toString().equals(name)) {
                    note(tree);
                }
                return super.visitMemberSelect(tree, nothing);
            }

            @Override
            public Void visitMemberReference(MemberReferenceTree tree, Void nothing) {
                note(tree);
                return super.visitMemberReference(tree, nothing);
            }
        }.scan(unit, null);
    }
}
