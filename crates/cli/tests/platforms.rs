//! One name that several files declare for several platforms or versions: which of them a use means.

#![allow(clippy::unwrap_used, clippy::expect_used, reason = "a test may fail loudly")]

mod common;

use common::used_by;

/// The common code, two platforms' answers, and something that is the same for all.
const KOTLIN: &[(&str, &str)] = &[
    (
        "shared/moss/Clock.kt",
        "package moss\nexpect class Clock { fun now(): Int }\nexpect fun tick(): Int\nfun tick(more: Int) = more\nexpect val Clock.late: Boolean\n",
    ),
    (
        "site/moss/Clock.kt",
        "package moss\nactual class Clock { actual fun now() = 1; fun zone() = 2 }\ninternal actual fun tick() = 1\nactual val Clock.late get() = false\n",
    ),
    (
        "desk/moss/Clock.kt",
        "package moss\nactual typealias Clock = java.time.Clock\nactual fun tick() = 2\nactual val Clock.late: Boolean\n  get() = true\n",
    ),
];

/// What the file `path` uses whose body is `body`.
fn kotlin(path: &str, body: &str) -> Vec<String> {
    let user = format!("package moss\nfun use(clock: Clock) {{ {body} }}\n");
    let files: Vec<(&str, &str)> = KOTLIN.iter().copied().chain([(path, &*user)]).collect();
    used_by(path, &files)
}

#[test]
fn common_code_and_other_modules_mean_what_is_expected() {
    for path in ["shared/moss/Plan.kt", "shared/rows/Plan.kt", "app/Plan.kt", "Plan.kt"] {
        for body in ["clock.now()", "tick()", "clock.late", "clock.now() + tick(3)"] {
            assert_eq!(kotlin(path, body), ["shared/moss/Clock.kt"], "{path}: {body}");
        }
    }
}

#[test]
fn code_of_a_platform_means_its_own() {
    for body in ["clock.now()", "tick()", "clock.zone()", "if (clock.late) tick()"] {
        assert_eq!(kotlin("site/moss/Plan.kt", body), ["site/moss/Clock.kt"], "{body}");
    }
    assert_eq!(kotlin("desk/rows/Plan.kt", "tick()"), ["desk/moss/Clock.kt"]);
}

#[test]
fn an_answer_means_itself() {
    let own = "package moss\nactual class Gate { fun open() = Gate() }\n";
    let files = [("shared/moss/Gate.kt", "package moss\nexpect class Gate\n"), ("site/moss/Gate.kt", own)];
    assert!(used_by("site/moss/Gate.kt", &files).is_empty());
}

#[test]
fn sources_for_all_versions_mean_each_other() {
    let bed = "package moss; public class Bed { public static int wide() { return 1; } }";
    let user = "package moss; class Plan { int wide = Bed.wide(); }";
    let used = |path: &str| {
        let files =
            [("src/main/java/moss/Bed.java", bed), ("src/main/java17/moss/Bed.java", bed), (path, user)];
        used_by(path, &files)
    };
    for path in ["src/main/java/moss/Plan.java", "src/test/java/moss/Plan.java", "app/Plan.java"] {
        assert_eq!(used(path), ["src/main/java/moss/Bed.java"], "{path}");
    }
    assert_eq!(used("src/main/java17/moss/Plan.java"), ["src/main/java17/moss/Bed.java"]);
    // Two folders of other names tell nothing.
    let files = [("one/Bed.java", bed), ("two/Bed.java", bed), ("app/Plan.java", user)];
    assert_eq!(used_by("app/Plan.java", &files), ["one/Bed.java", "two/Bed.java"]);
    // Nor does a number elsewhere, or in a language without such sources.
    let files = [("lib/Bed.java", bed), ("lib2/Bed.java", bed), ("app/Plan.java", user)];
    assert_eq!(used_by("app/Plan.java", &files), ["lib/Bed.java", "lib2/Bed.java"]);
    let (bed, user) = ("class Bed { public int Wide; }", "class Plan { Bed bed; }");
    let files = [("java/Bed.cs", bed), ("java9/Bed.cs", bed), ("app/Plan.cs", user)];
    assert_eq!(used_by("app/Plan.cs", &files), ["java/Bed.cs", "java9/Bed.cs"]);
}
