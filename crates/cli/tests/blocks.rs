//! Locals are in sight to the end of the block, or of the statement, that declares them: behind it their names mean what
//! the class has again.

#![allow(clippy::unwrap_used, clippy::expect_used, dead_code, reason = "a test may fail loudly")]

mod common;

use common::used_by;

/// A class `Base` with a member `led` of type `A`, one `B`, and the path and text around statements.
struct Tongue {
    files: &'static [(&'static str, &'static str)],
    path: &'static str,
    around: &'static str,
    /// Statements after which `led.self()` is asked of the member.
    gone: &'static [&'static str],
    /// Statements after which it is asked of the local.
    kept: &'static [&'static str],
}

const JAVA: Tongue = Tongue {
    files: &[
        ("A.java", "class A { A self() { return this; } }"),
        ("B.java", "class B { int wide; B self() { return this; } }"),
        ("Base.java", "class Base { A led; }"),
    ],
    path: "X.java",
    around: "import java.util.*;\nclass X extends Base { void go(Object o, List<B> all, B other) { STATEMENTS led.self(); } }",
    gone: &[
        "if (o != null) { B led = null; }",
        "{ B led = null; led.self(); }",
        "for (B led : all) { }",
        "for (B led : all) led.self();",
        "for (B led = null; ; ) { }",
        "while (true) { B led = null; }",
        "if (o instanceof B led) { led.self(); }",
        "if (o instanceof B led && led.self() != null) { }",
        "if (o == null) { } else if (o instanceof B led) { }",
        "all.forEach(led -> { led.self(); });",
        "all.forEach(led -> led.self());",
        "all.forEach(x -> { for (B led : all) { } });",
        "Runnable run = () -> { B led = null; };",
        "try (B led = null) { } finally { }",
        "try { } catch (B led) { }",
        "switch (1) { case 1: B led = null; }",
        "synchronized (o) { B led = null; }",
    ],
    kept: &[
        "B led = null;",
        "if (!(o instanceof B led)) return;",
        "if (!(o instanceof B led)) { return; }",
        "B led = null; if (o != null) { led.self(); }",
        "B led = switch (1) { case 1 -> { B x = null; yield x; } default -> null; };",
        "B led = all.stream().map(x -> { return x; }).findFirst().get();",
        "B led = new B() { void x() { } };",
        "B led; if (o != null) { led = null; } else led = other;",
        "B led = null; do { led.self(); } while (o != null);",
        "B led = null; for (int i = 0; i < 1; i++) { led.self(); }",
    ],
};

const CSHARP: Tongue = Tongue {
    files: &[
        ("A.cs", "namespace G { public class A { public A self() { return this; } } }"),
        ("B.cs", "namespace G { public class B { public int wide; public B self() { return this; } } }"),
        ("Base.cs", "namespace G { public class Base { public A led; } }"),
        (
            "C.cs",
            "namespace G { public class C { public B Held; public void Do(System.Func<B, B> f, out B b) { b = null; } } }",
        ),
    ],
    path: "X.cs",
    around: "using System; using System.Collections.Generic;\nnamespace G { class X : Base { void Go(object o, List<B> all) { STATEMENTS led.self(); } } }",
    gone: &[
        "if (o != null) { B led = null; }",
        "{ B led = null; led.self(); }",
        "foreach (B led in all) { }",
        "foreach (var led in all) { led.self(); }",
        "foreach (var led in all) led.self();",
        "for (B led = null; ; ) { }",
        "all.ForEach(led => { led.self(); });",
        "all.ForEach(led => led.self());",
        "all.ForEach(x => { foreach (B led in all) { } });",
        "using (B led = null) { }",
        "try { } catch (B led) { }",
        "do { B led = null; } while (o != null);",
    ],
    kept: &[
        "B led = null;",
        "if (o is B led) { led.self(); }",
        "if (!(o is B led)) { return; }",
        "if (o is B { wide: 1 } led) { }",
        "if (o is C { Held: var led }) { }",
        "var led = new B() { wide = 1 };",
        "B led = null; if (o != null) { led.self(); } else { }",
        "Func<B> give = () => { return null; }; var led = give(); { led.self(); }",
        "B led = null; foreach (var x in all) { x.self(); }",
        "B led = all.Find(x => { return true; });",
        "new C().Do(x => { return x; }, out var led);",
    ],
};

const KOTLIN: Tongue = Tongue {
    files: &[
        ("A.kt", "class A { fun self(): A = this }"),
        ("B.kt", "class B { fun self(): B = this }"),
        ("Base.kt", "open class Base { val led: A = A() }"),
    ],
    path: "X.kt",
    around: "class X : Base() { fun go(o: Any, all: List<B>) {\nSTATEMENTS\nled.self()\n} }",
    gone: &[
        "if (o != null) { val led = B() }",
        "run { val led = B(); led.self() }",
        "for (led in all) { led.self() }",
        "all.forEach { led -> led.self() }",
        "when (o) { is B -> { val led = B(); led.self() } }",
        "try { val led = B() } catch (e: Exception) { }",
        "while (true) { val led: B? = null }",
    ],
    kept: &[
        "val led = B()",
        "val led = B(); for (x in all) { x.self() }",
        "val led = all.map { x -> x }.first()",
    ],
};

/// Whether the member `led` is asked behind these statements: it alone is an `A`.
fn is_member(tongue: &Tongue, statements: &str) -> bool {
    let text = tongue.around.replace("STATEMENTS", statements);
    let files: Vec<(&str, &str)> = tongue.files.iter().copied().chain([(tongue.path, &*text)]).collect();
    used_by(tongue.path, &files).iter().any(|used| used.starts_with("A."))
}

fn holds(tongue: &Tongue) {
    for statements in tongue.gone {
        assert!(is_member(tongue, statements), "{statements}: the local is still in sight");
    }
    for statements in tongue.kept {
        assert!(!is_member(tongue, statements), "{statements}: the local is out of sight");
    }
}

#[test]
fn locals_of_java_end_with_their_blocks() {
    holds(&JAVA);
}

#[test]
fn locals_of_csharp_end_with_their_blocks() {
    holds(&CSHARP);
}

#[test]
fn locals_of_kotlin_end_with_their_blocks() {
    holds(&KOTLIN);
}
