//! What a call gives by what it is given: a type between `<` and `>`, a class as a value, a function. And what of another
//! language is seen as a value or as a method.

#![allow(clippy::unwrap_used, clippy::expect_used, reason = "a test may fail loudly")]

mod common;

use common::used_by;

const KOTLIN: &[(&str, &str)] = &[
    ("Bed.kt", "package moss\nclass Bed(val label: Label) { inner class Edge }\n"),
    ("Label.kt", "package moss\nclass Label(val ink: Ink) { var isDry = false }\n"),
    ("Ink.kt", "package moss\nclass Ink(val shade: Int)\n"),
    (
        "Finders.kt",
        "package moss\nfun <T> find(): T = TODO()\nfun <T : Any> findAll(): List<T> = TODO()\nfun count(): Bed = TODO()\n",
    ),
    ("Spade.java", "package moss; public class Spade { public Label getLabel() { return null; } }"),
    ("Fork.kt", "package moss\nopen class Fork : Spade() { override fun getLabel() = Label(Ink(1)) }\n"),
    (
        "Chained.kt",
        "package moss\nprivate fun Bed.own() = Label(Ink(1))\nfun Bed.once() = own()\nfun Bed.twice() = once()\nfun Bed.thrice() = twice()\n",
    ),
    ("Other.kt", "package moss\nprivate fun Bed.shut() = label\n"),
];

/// The files that the function with this body uses in Kotlin, beside those with `Bed` and `User`.
fn kotlin(body: &str) -> Vec<String> {
    let user = format!("package moss\nfun f(bed: Bed, beds: List<Bed>, any: Tray) {{\n{body}\n}}\n");
    used("User.kt", &user, KOTLIN)
}

/// The files that `user` uses beside `Bed`, without what they end with.
fn used(name: &str, user: &str, beside: &[(&str, &str)]) -> Vec<String> {
    let files: Vec<(&str, &str)> = beside.iter().copied().chain([(name, user)]).collect();
    let plain = |file: String| file.rsplit_once('.').map_or(file.clone(), |(name, _)| name.to_owned());
    used_by(name, &files).into_iter().map(plain).filter(|file| file != "Bed").collect()
}

#[test]
fn kotlin_calls_give_what_they_are_given_as_a_type() {
    assert_eq!(kotlin("find<Bed>().label.ink"), ["Finders", "Label"]);
    assert_eq!(kotlin("findAll<Bed>().first().label.ink"), ["Finders", "Label"]);
    assert_eq!(kotlin("any.all().filterIsInstance<Bed>().first().label.ink"), ["Label"]);
    assert_eq!(kotlin("any.find(Bed::class).label.ink"), ["Label"]);
    assert_eq!(kotlin("any.find(Bed::class.java)?.label?.ink"), ["Label"]);
    assert_eq!(kotlin("val found by inject<Bed>()\nfound.label.ink"), ["Label"]);
    // What the function says itself counts first.
    assert_eq!(kotlin("count().label.ink"), ["Finders", "Label"]);
    // A class that is looked at is not given to a call.
    assert!(kotlin("Bed::class.label\n(any).label").is_empty());
}

#[test]
fn kotlin_collections_hold_what_the_function_gives() {
    assert_eq!(kotlin("beds.map { it.label }.forEach { it.ink.shade }"), ["Ink", "Label"]);
    assert_eq!(kotlin("beds.mapNotNull { bed -> bed.label }.first().ink.shade"), ["Ink", "Label"]);
    assert_eq!(kotlin("for (label in beds.map { it.label }) label.ink"), ["Label"]);
    // What is only sorted or chosen by something is still what it was.
    assert_eq!(kotlin("beds.sortedBy { it.label }.first().label"), [""; 0]);
    assert_eq!(kotlin("beds.filter { it.label.ink == any }.first().ink"), ["Label"]);
}

#[test]
fn a_local_is_not_in_sight_of_its_own_value() {
    assert_eq!(kotlin("with(bed) { val label = label\nlabel.ink.shade }"), ["Ink", "Label"]);
    assert_eq!(kotlin("val bed = bed.label\nbed.ink.shade"), ["Ink", "Label"]);
}

#[test]
fn a_label_tells_which_this_is_meant() {
    let user = "package moss\nclass User(val bed: Bed) {\ninner class Inner { fun f() = this@User.bed.label.ink }\n}\n";
    assert_eq!(used("User.kt", user, KOTLIN), ["Label"]);
}

#[test]
fn functions_without_a_spelled_type_lead_on_through_each_other() {
    assert_eq!(kotlin("bed.thrice().ink.shade"), ["Chained", "Ink", "Label"]);
    // What is private to another file is not meant.
    assert!(kotlin("bed.shut().ink").is_empty());
}

#[test]
fn kotlin_sees_getters_of_java_as_values() {
    assert_eq!(kotlin("val spade = any as Spade\nspade.label.ink"), ["Label", "Spade"]);
    assert_eq!(kotlin("val fork = any as Fork\nfork.label.ink"), ["Fork", "Label"]);
    assert!(!kotlin("val spade = any as Spade\nspade.ink").contains(&"Label".to_owned()));
}

/// The files that the method with this body uses in Java.
fn java(body: &str) -> Vec<String> {
    let user = format!(
        "package moss; import java.util.*; class User {{ void f(Bed bed, List<Bed> beds, Tray any) {{ {body} }} }}"
    );
    let beside = [
        ("Bed.java", "package moss; class Bed { Label label() { return null; } Bed() {} }"),
        ("Label.java", "package moss; class Label { Ink ink() { return null; } }"),
        ("Ink.java", "package moss; class Ink { int shade() { return 1; } }"),
        (
            "Sign.kt",
            "package moss\nclass Sign(val label: Label) { var isDry = false\nval lit get() = label }\n",
        ),
    ];
    used("User.java", &user, &beside)
}

#[test]
fn java_calls_give_what_they_are_given_as_a_class() {
    assert_eq!(java("any.find(Bed.class).label().ink();"), ["Label"]);
    assert_eq!(java("Tray.of(\"beds\", Bed.class).label().ink();"), ["Label"]);
    assert!(java("any.find(Bed.class.getName()).shade();").is_empty());
    assert!(java("bed.find(1).label();").is_empty());
}

#[test]
fn java_streams_hold_what_the_function_gives() {
    assert_eq!(java("beds.stream().map(b -> b.label()).forEach(l -> l.ink().shade());"), ["Ink", "Label"]);
    assert_eq!(java("beds.stream().map(Bed::label).findFirst().get().ink();"), ["Label"]);
    assert_eq!(java("any.names().map(Bed::new).findFirst().get().label().ink();"), ["Label"]);
    // A block may give anything.
    assert_eq!(java("beds.stream().map(b -> { b.label(); return 1; }).first().ink();"), [""; 0]);
    assert_eq!(java("beds.stream().filter(b -> b.label()).first().label().ink();"), ["Label"]);
}

#[test]
fn java_sees_values_of_kotlin_as_methods() {
    assert_eq!(java("Sign sign = any.sign(); sign.getLabel().ink().shade();"), ["Ink", "Label", "Sign"]);
    assert_eq!(java("Sign sign = any.sign(); sign.getLit().ink();"), ["Label", "Sign"]);
    assert_eq!(java("Sign sign = any.sign(); sign.isDry(); sign.setDry(true);"), ["Sign"]);
}

/// The files that the method with this body uses in C#.
fn csharp(body: &str) -> Vec<String> {
    let user = format!(
        "using System.Linq; using System.Collections.Generic;\n\
         namespace Moss {{ class User {{ void F(Bed bed, List<Bed> beds, Tray any) {{ {body} }} }} }}"
    );
    let beside = [
        (
            "Bed.cs",
            "namespace Moss { public class Bed { public Label Label; public T Find<T>() { return default; } } }",
        ),
        ("Label.cs", "namespace Moss { public class Label { public Ink Ink; public void Print() {} } }"),
        ("Ink.cs", "namespace Moss { public class Ink { public int Shade; } }"),
    ];
    used("User.cs", &user, &beside)
}

#[test]
fn csharp_calls_give_what_they_are_given_as_a_type() {
    assert_eq!(csharp("any.Find<Bed>().Label.Print();"), ["Label"]);
    assert_eq!(csharp("any.All().OfType<Bed>().First().Label.Print();"), ["Label"]);
    assert_eq!(csharp("bed.Find<Label>().Ink.Shade = 1;"), ["Ink", "Label"]);
    assert_eq!(csharp("var found = any.Find<Bed>(); found.Label.Ink.Shade = 1;"), ["Ink", "Label"]);
}

#[test]
fn csharp_queries_hold_what_the_function_gives() {
    assert_eq!(csharp("beds.Select(b => b.Label).First().Ink.Shade = 1;"), ["Ink", "Label"]);
    assert_eq!(csharp("foreach (var label in beds.Select(b => b.Label)) label.Print();"), ["Label"]);
    assert_eq!(csharp("beds.Select(b => b.Label).Where(l => l.Ink.Shade > 1);"), ["Ink", "Label"]);
    assert_eq!(csharp("beds.Where(b => b.Label != null).First().Label.Print();"), ["Label"]);
    // A block may give anything.
    assert_eq!(csharp("beds.Select(b => { b.Label.ToString(); return 1; }).First().Shade = 1;"), [""; 0]);
}
