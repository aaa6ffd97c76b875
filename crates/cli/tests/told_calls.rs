//! Two methods of one name that give different types are told apart by the numbers of arguments, wherever a file calls both.

#![allow(clippy::unwrap_used, clippy::expect_used, dead_code, reason = "a test may fail loudly")]

mod common;

use common::{Project, used_by};

/// `Plan` has `led()`, which gives an `A`, `led` with a number, which gives a `B`, and `led` with a function that takes a
/// `B`, which gives an `A`.
struct Tongue {
    files: &'static [(&'static str, &'static str)],
    path: &'static str,
    around: &'static str,
    /// Statements, with the letters of the classes whose members they use.
    rows: &'static [(&'static str, &'static str)],
}

const JAVA: Tongue = Tongue {
    files: &[
        ("A.java", "class A { int low; A self() { return this; } }"),
        ("B.java", "class B { int low; B self() { return this; } }"),
        (
            "Plan.java",
            "class Plan { A led() { return null; } B led(int n) { return null; } A led(int n, Take take) { return null; } }",
        ),
        ("Take.java", "interface Take { void take(B it); }"),
    ],
    path: "X.java",
    around: "class X extends Plan { void go(Plan plan) { STATEMENTS } }",
    rows: &[
        ("int x = plan.led().low;", "A"),
        ("int x = plan.led(1).low;", "B"),
        ("plan.led(); int x = plan.led(1).low;", "B"),
        ("plan.led(1); int x = plan.led().low;", "A"),
        ("int x = plan.led(1).low + plan.led().low;", "AB"),
        ("int x = led().low; led(1);", "A"),
        ("int x = this.led(1).low; this.led();", "B"),
        ("var a = plan.led(); var b = plan.led(1); a.self();", "A"),
        ("var a = plan.led(); var b = plan.led(1); b.self();", "B"),
        ("plan.led(1); plan.led(2, it -> it.self());", "B"),
        ("plan.led(); plan.led(2, it -> { }).self();", "A"),
        ("plan.led(plan.led(1).low); plan.led();", "B"),
    ],
};

const CSHARP: Tongue = Tongue {
    files: &[
        ("A.cs", "class A { public int Low; public A Self() { return this; } }"),
        ("B.cs", "class B { public int Low; public B Self() { return this; } }"),
        (
            "Plan.cs",
            "class Plan { public A Led() => null; public B Led(int n) => null; public A Led(int n, System.Action<B> take) => null; }",
        ),
    ],
    path: "X.cs",
    around: "class X : Plan { void Go(Plan plan) { STATEMENTS } }",
    rows: &[
        ("int x = plan.Led().Low;", "A"),
        ("int x = plan.Led(1).Low;", "B"),
        ("plan.Led(); int x = plan.Led(1).Low;", "B"),
        ("plan.Led(1); int x = plan.Led().Low;", "A"),
        ("int x = plan.Led(1).Low + plan.Led().Low;", "AB"),
        ("int x = Led().Low; Led(1);", "A"),
        ("int x = base.Led(1).Low; base.Led();", "B"),
        ("var a = plan.Led(); var b = plan.Led(1); a.Self();", "A"),
        ("var a = plan?.Led(); var b = plan?.Led(1); b?.Self();", "B"),
        ("plan.Led(1); plan.Led(2, it => it.Self());", "B"),
        ("plan.Led(); plan.Led(2, it => { }).Self();", "A"),
    ],
};

const KOTLIN: Tongue = Tongue {
    files: &[
        ("A.kt", "class A { val low = 1; fun self() = this }"),
        ("B.kt", "class B { val low = 1; fun self() = this }"),
        (
            "Plan.kt",
            "open class Plan {\n  fun led(): A = A()\n  fun led(n: Int, more: Int = 2): B = B()\n  fun led(n: Int, more: Int, act: (B) -> Unit): A = A()\n\
             \x20 fun row(): A = A()\n  fun row(act: (A) -> Unit): B = B()\n}",
        ),
    ],
    path: "X.kt",
    around: "class X : Plan() { fun go(plan: Plan) { STATEMENTS } }",
    rows: &[
        ("val x = plan.led().low", "A"),
        ("val x = plan.led(1).low", "B"),
        ("plan.led()\nval x = plan.led(1, 2).low", "B"),
        ("plan.led(1)\nval x = plan.led().low", "A"),
        ("val x = plan.led(1).low + plan.led().low", "AB"),
        ("val x = led().low\nled(1)", "A"),
        ("val x = this.led(1).low\nthis.led()", "B"),
        ("val a = plan.led()\nval b = plan.led(1)\na.self()", "A"),
        ("val a = plan?.led()\nval b = plan?.led(1,)\nb?.self()", "B"),
        ("plan.led()\nplan.led(1, 2) { it.self() }", "B"),
        ("plan.led()\nplan.led(1, 2) { }.self()", "A"),
        ("plan.row()\nplan.row { }.self()", "B"),
        ("plan.row { }\nplan.row().self()", "A"),
        ("plan.row()\nplan.row({ }).self()", "B"),
    ],
};

fn holds(tongue: &Tongue) {
    for (statements, expected) in tongue.rows {
        let text = tongue.around.replace("STATEMENTS", statements);
        let mut files = tongue.files.to_vec();
        files.push((tongue.path, &text));
        let used = used_by(tongue.path, &files);
        let classes = used.iter().filter_map(|path| path.split('.').next()).filter(|name| name.len() == 1);
        assert_eq!(classes.collect::<String>(), *expected, "{statements}: {used:?}");
    }
}

#[test]
fn calls_of_java_are_told_by_their_numbers_of_arguments() {
    holds(&JAVA);
}

#[test]
fn calls_of_csharp_are_told_by_their_numbers_of_arguments() {
    holds(&CSHARP);
}

#[test]
fn calls_of_kotlin_are_told_by_their_numbers_of_arguments() {
    holds(&KOTLIN);
}

#[test]
fn functions_of_kotlin_that_extend_a_type_are_told_too() {
    let used = |statement: &str| {
        let text = format!("fun go(any: Any) {{ {statement} }}");
        let files = [
            ("Plain.kt", "fun Any.grow() {}"),
            ("Counted.kt", "fun Any.grow(n: Int, more: Int = 1) {}"),
            ("Acting.kt", "fun Any.grow(n: Int, more: Int, act: () -> Unit) {}"),
            ("X.kt", &text),
        ];
        used_by("X.kt", &files)
    };
    assert_eq!(used("any.grow()"), ["Plain.kt"]);
    assert_eq!(used("any.grow(1)"), ["Counted.kt"]);
    assert_eq!(used("any.grow(1, more = 2)"), ["Counted.kt"]);
    assert_eq!(used("any.grow(1, 2) { }"), ["Acting.kt"]);
    assert_eq!(used("any.grow(); any.grow(1)"), ["Counted.kt", "Plain.kt"]);
}

#[test]
fn functions_of_kotlin_outside_of_types_are_told_too() {
    let used = |statement: &str| {
        let text = format!("fun go() {{ {statement} }}");
        let files = [
            ("A.kt", "class A { val low = 1 }"),
            ("B.kt", "class B { val low = 1 }"),
            ("Plain.kt", "fun led(): A = A()"),
            ("Counted.kt", "fun led(n: Int): B = B()"),
            ("X.kt", &text),
        ];
        used_by("X.kt", &files)
    };
    assert_eq!(used("led()"), ["Plain.kt"]);
    assert_eq!(used("led().low"), ["A.kt", "Plain.kt"]);
    assert_eq!(used("led(1).low"), ["B.kt", "Counted.kt"]);
    assert_eq!(used("led(1)\nled().low"), ["A.kt", "Counted.kt", "Plain.kt"]);
    assert_eq!(used("val b = led(1)\nb.low"), ["B.kt", "Counted.kt"]);
    assert_eq!(used("val a = led()\nval b = led(1)\nval c = a.low"), ["A.kt", "Counted.kt", "Plain.kt"]);
}

#[test]
fn a_call_in_a_call_of_its_name_keeps_its_own_place() {
    let files = [
        ("One.kt", "fun led(n: Int): Int = n"),
        ("Two.kt", "fun led(n: Int, m: Int): Int = n"),
        ("X.kt", "fun go() {\n  led(\n    led(1),\n    2)\n}\n"),
    ];
    let project = Project::new(&files);
    let place = |used: &str| project.run(&["why", "X.kt", used]).out;
    assert!(place("One.kt").contains("X.kt:3:5"), "{}", place("One.kt"));
    assert!(place("Two.kt").contains("X.kt:2:3"), "{}", place("Two.kt"));
}

#[test]
fn calls_in_calls_are_read_in_linear_time() {
    let nested = format!("{}led(){}", "led(".repeat(60_000), ", 2)".repeat(60_000));
    let files = [
        ("Plan.java", "class Plan { int led() { return 0; } int led(int a, int b) { return a; } }"),
        ("X.java", &*format!("class X extends Plan {{ int x = {nested}; }}")),
    ];
    let start = std::time::Instant::now();
    let answer = Project::new(&files).run(&["why", "X.java", "Plan.java"]);
    assert!(answer.out.contains("X.java uses Plan.java"), "{}", answer.first_line());
    assert!(start.elapsed().as_secs() < 20, "{:?}", start.elapsed());
}
