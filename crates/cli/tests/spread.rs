//! Types that several files declare together: a use that only leads to a member leads to the file with that member.

#![allow(clippy::unwrap_used, clippy::expect_used, reason = "a test may fail loudly")]

mod common;

use common::{Project, used_by};

const PARTS: &[(&str, &str)] = &[
    (
        "Names.cs",
        "namespace Moss { static partial class Tools { public static void Check(string name) {} public static int Most; } }",
    ),
    (
        "Beds.cs",
        "namespace Moss { static partial class Tools { public static int Wide(this Bed bed) => 1; public enum Sort { Wet } } }",
    ),
    (
        "Plants.cs",
        "namespace Moss { static partial class Tools { public static int Wide(this Plant plant) => 2; } }",
    ),
    ("Bed.cs", "namespace Moss { public class Bed { public Plant Plant; } public class Plant {} }"),
];

/// The parts of `Tools` that code with this body leads to.
fn parts(body: &str) -> Vec<String> {
    let user = format!("namespace Moss {{ class User {{ {body} }} }}");
    let files: Vec<(&str, &str)> = PARTS.iter().copied().chain([("User.cs", &*user)]).collect();
    let used = used_by("User.cs", &files).into_iter().map(|file| file.replace(".cs", ""));
    used.filter(|file| file != "Bed").collect()
}

#[test]
fn a_static_member_leads_to_its_part() {
    assert_eq!(parts("void F() { Tools.Check(\"x\"); }"), ["Names"]);
    assert_eq!(parts("int F() { return Tools.Most; }"), ["Names"]);
    assert_eq!(parts("void F() { Tools.Check(\"x\"); Tools.Check(\"y\"); }"), ["Names"]);
}

#[test]
fn a_nested_type_leads_to_its_part() {
    assert_eq!(parts("object F() { return Tools.Sort.Wet; }"), ["Beds"]);
    assert_eq!(parts("object F() { Tools.Check(\"x\"); return Tools.Sort.Wet; }"), ["Beds", "Names"]);
}

#[test]
fn a_method_that_extends_a_type_leads_to_the_part_that_extends_it() {
    assert_eq!(parts("int F(Bed bed) { return bed.Wide(); }"), ["Beds"]);
    assert_eq!(parts("int F(Bed bed) { return bed.Plant.Wide(); }"), ["Plants"]);
    // Where nothing is known of the value, both may be meant.
    assert_eq!(parts("int F() { return Unknown().Wide(); }"), ["Beds", "Plants"]);
}

#[test]
fn the_type_itself_is_all_of_its_parts() {
    assert_eq!(parts("object F() { return typeof(Tools); }"), ["Beds", "Names", "Plants"]);
    assert_eq!(
        parts("object F() { Tools.Check(\"x\"); return typeof(Tools); }"),
        ["Beds", "Names", "Plants"]
    );
    // A member that no part declares is in one that was not understood.
    assert_eq!(parts("void F() { Tools.Lost(); }"), ["Beds", "Names", "Plants"]);
}

#[test]
fn a_member_counts_once() {
    let user = "namespace Moss { class User { void F() { Tools.Check(\"x\"); Tools.Check(\"y\"); } } }";
    let files: Vec<(&str, &str)> = PARTS.iter().copied().chain([("User.cs", user)]).collect();
    let answer = Project::new(&files).run(&["export", "--level", "file"]);
    assert!(answer.out.lines().any(|line| line == "User.cs,Names.cs,2"), "{}", answer.out);
}
