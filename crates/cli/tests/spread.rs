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

/// The files of `Tools` that `user`, a file in the folder `Desk`, leads to, where the parts lie in two folders.
fn parts_around(desk_part: &str, root_part: &str, user: &str) -> Vec<String> {
    let part = |body: &str| format!("namespace Moss {{ public static partial class Tools {{ {body} }} }}");
    let (desk, root) = (part(desk_part), part(root_part));
    let user = format!("namespace Moss {{ class User {{ {user} }} }}");
    let files = [("Desk/Near.cs", &*desk), ("Far.cs", &*root), ("Desk/User.cs", &*user)];
    used_by("Desk/User.cs", &files)
}

#[test]
fn parts_that_overload_each_other_belong_together() {
    let (near, far) = ("public static void Water(int litres) {}", "public static void Water(string bed) {}");
    let far = format!("{far} public static int Most;");
    assert_eq!(parts_around(near, &far, "int F() { return Tools.Most; }"), ["Far.cs"]);
}

#[test]
fn parts_that_share_little_belong_together() {
    let near = "public static int A, B, C, D, E, F, Dry;";
    let far = "public static int Most, G, H, I, J, K, Dry;";
    assert_eq!(parts_around(near, far, "int F() { return Tools.Most; }"), ["Far.cs"]);
}

#[test]
fn both_halves_of_a_partial_method_belong_together() {
    let (near, far) =
        ("static partial void Rain();", "static partial void Rain() {} public static int Most;");
    assert_eq!(parts_around(near, far, "int F() { return Tools.Most; }"), ["Far.cs"]);
}

#[test]
fn of_parts_for_several_platforms_the_nearest_is_meant_with_what_they_share() {
    let part = |body: &str| format!("namespace Moss {{ public static partial class Tools {{ {body} }} }}");
    let platform = part("public static int Litres() { return 1; } public static int Dry;");
    let shared = part("public static int Most;");
    let user = "namespace Moss { class User { int F() { return Tools.Most + Tools.Litres(); } } }";
    let files = [
        ("Tools.cs", &*shared),
        ("Wet/Tools.cs", &*platform),
        ("Dry/Tools.cs", &*platform),
        ("Wet/User.cs", user),
    ];
    assert_eq!(used_by("Wet/User.cs", &files), ["Tools.cs", "Wet/Tools.cs"]);
    // A copy of the whole type is no part of it.
    let copies = [
        ("Old/Tools.cs", &*platform),
        ("Old/More.cs", &*shared),
        ("New/Tools.cs", &*platform),
        ("New/User.cs", user),
    ];
    assert_eq!(used_by("New/User.cs", &copies), ["New/Tools.cs"]);
}
