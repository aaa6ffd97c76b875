import com.intellij.openapi.util.Disposer;
import com.intellij.psi.PsiElement;
import com.intellij.psi.util.PsiTreeUtil;
import java.io.File;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.TreeSet;
import java.util.stream.Collectors;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import org.jetbrains.kotlin.cli.common.CLIConfigurationKeys;
import org.jetbrains.kotlin.cli.common.config.ContentRootsKt;
import org.jetbrains.kotlin.cli.common.messages.MessageCollector;
import org.jetbrains.kotlin.cli.jvm.compiler.CliBindingTrace;
import org.jetbrains.kotlin.cli.jvm.compiler.EnvironmentConfigFiles;
import org.jetbrains.kotlin.cli.jvm.compiler.KotlinCoreEnvironment;
import org.jetbrains.kotlin.cli.jvm.compiler.TopDownAnalyzerFacadeForJVM;
import org.jetbrains.kotlin.cli.jvm.config.JvmContentRootsKt;
import org.jetbrains.kotlin.config.CommonConfigurationKeys;
import org.jetbrains.kotlin.config.CompilerConfiguration;
import org.jetbrains.kotlin.config.JVMConfigurationKeys;
import org.jetbrains.kotlin.descriptors.ClassDescriptor;
import org.jetbrains.kotlin.descriptors.DeclarationDescriptor;
import org.jetbrains.kotlin.psi.KtFile;
import org.jetbrains.kotlin.psi.KtSimpleNameExpression;
import org.jetbrains.kotlin.resolve.BindingContext;
import org.jetbrains.kotlin.resolve.DescriptorToSourceUtils;

/**
 * Prints which Kotlin file names what of which other file, as the compiler understands it: {@code type|member}, the file
 * that names, the file that declares, the name, with tabs between. Errors (a library that is not there) do not stop it.
 */
public final class KotlinJudge {
    private static final Pattern SPELLED = Pattern.compile("`?[\\p{L}_][^`]*`?");

    public static void main(String[] arguments) throws IOException {
        Path root = Path.of(arguments[0]).toRealPath();
        List<String> files;
        try (var all = Files.walk(root)) {
            files = all.map(Path::toString).filter(path -> path.endsWith(".kt")).collect(Collectors.toList());
        }
        var configuration = new CompilerConfiguration();
        configuration.put(CLIConfigurationKeys.MESSAGE_COLLECTOR_KEY, MessageCollector.Companion.getNONE());
        configuration.put(CommonConfigurationKeys.MODULE_NAME, "judged");
        configuration.put(JVMConfigurationKeys.JDK_HOME, new File(System.getProperty("java.home")));
        var libraries = Stream.of(arguments).skip(1).map(File::new).collect(Collectors.toList());
        JvmContentRootsKt.addJvmClasspathRoots(configuration, libraries);
        ContentRootsKt.addKotlinSourceRoots(configuration, files);
        for (File folder : javaRoots(root)) {
            JvmContentRootsKt.addJavaSourceRoot(configuration, folder, null);
        }
        var environment = KotlinCoreEnvironment.createForProduction(
                Disposer.newDisposable(), configuration, EnvironmentConfigFiles.JVM_CONFIG_FILES);
        var result = TopDownAnalyzerFacadeForJVM.analyzeFilesWithJavaIntegration(
                environment.getProject(), environment.getSourceFiles(), new CliBindingTrace(), configuration,
                environment::createPackagePartProvider);
        var context = result.getBindingContext();
        var found = new TreeSet<String>();
        for (KtFile file : environment.getSourceFiles()) {
            String from = place(root, file);
            for (var name : PsiTreeUtil.collectElementsOfType(file, KtSimpleNameExpression.class)) {
                DeclarationDescriptor target = context.get(BindingContext.REFERENCE_TARGET, name);
                String spelled = name.getReferencedName();
                if (!SPELLED.matcher(name.getText()).matches()) {
                    continue;
                }
                String sort = target instanceof ClassDescriptor ? "type" : "member";
                // What a class inherits from several others, the compiler does not say of which one it is.
                var declared = new ArrayList<DeclarationDescriptor>();
                if (target != null) {
                    declared.addAll(DescriptorToSourceUtils.getEffectiveReferencedDescriptors(target));
                } else {
                    // An import of a name that several functions have.
                    var several = context.get(BindingContext.AMBIGUOUS_REFERENCE_TARGET, name);
                    declared.addAll(several == null ? List.of() : several);
                }
                for (var one : declared) {
                    PsiElement element = DescriptorToSourceUtils.descriptorToDeclaration(one);
                    String to = element == null ? null : place(root, element);
                    if (to != null && !to.equals(from)) {
                        found.add((declared.size() > 1 ? "several" : sort) + "\t" + from + "\t" + to + "\t" + spelled);
                    }
                }
            }
        }
        found.forEach(System.out::println);
    }

    /** The folders above those that the packages of Java files name. */
    private static TreeSet<File> javaRoots(Path root) throws IOException {
        var roots = new TreeSet<File>();
        var stated = Pattern.compile("(?m)^package\\s+([\\w.]+)\\s*;");
        try (var all = Files.walk(root)) {
            for (Path path : all.filter(path -> path.toString().endsWith(".java")).collect(Collectors.toList())) {
                var matcher = stated.matcher(Files.readString(path, StandardCharsets.ISO_8859_1));
                Path folder = path.getParent();
                if (matcher.find() && folder.endsWith(matcher.group(1).replace('.', '/'))) {
                    for (int up = matcher.group(1).split("\\.").length; up > 0; up--) {
                        folder = folder.getParent();
                    }
                    roots.add(folder.toFile());
                }
            }
        }
        return roots;
    }

    private static String place(Path root, PsiElement element) {
        var file = element.getContainingFile();
        if (file == null || file.getVirtualFile() == null) {
            return null;
        }
        Path path = Path.of(file.getVirtualFile().getPath());
        return path.startsWith(root) ? root.relativize(path).toString().replace('\\', '/') : null;
    }
}
