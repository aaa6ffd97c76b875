//! Members of values in Kotlin, whose types are not spelled where they are used.

#![allow(clippy::unwrap_used, clippy::expect_used, reason = "a test may fail loudly")]

mod common;

use common::used_by;

const FILES: &[(&str, &str)] = &[
    (
        "Bed.kt",
        "package moss\nclass Bed(val label: Label) { val made = newLabel(); val lazily by lazy { Label(Ink(1)) } }\n",
    ),
    (
        "Label.kt",
        "package moss\ndata class Label(val ink: Ink) { fun wet() = ink; companion object { fun of(): Label = Label(Ink(2)) } }\n",
    ),
    ("Ink.kt", "package moss\nopen class Ink(val shade: Int) { infix fun over(other: Ink) = other }\n"),
    (
        "Makers.kt",
        "package moss\nfun newLabel() = Label.of()\nval spare = newLabel()\nfun each(count: Int = 1, act: (Label) -> Unit) {}\n",
    ),
    (
        "Menu.kt",
        "package moss\nclass Menu { fun dish(name: String) = Ink(3) }\nfun menu(spice: Int = 0, fill: Menu.() -> Unit) {}\n",
    ),
    (
        "Extra.kt",
        "package moss\nfun Label.long() = ink\nfun Bed.wide() = label\nval Bed.tall: Label get() = label\n",
    ),
    (
        "Row.kt",
        "package moss\nclass Row(val beds: List<Label>) : Iterable<Label> by beds { val first get() = Ink(4) }\n",
    ),
];

/// The files that a function with this body uses, which takes a bed and something of unknown type.
fn used(body: &str) -> Vec<String> {
    let user = format!("package moss\nfun f(bed: Bed, any: Any?) {{\n{body}\n}}\n");
    let files: Vec<(&str, &str)> = FILES.iter().copied().chain([("User.kt", &*user)]).collect();
    let used = used_by("User.kt", &files).into_iter().map(|file| file.replace(".kt", ""));
    used.filter(|file| file != "Bed").collect()
}

#[test]
fn values_are_taken_apart() {
    assert_eq!(used("val (ink) = bed.label\nink.shade"), ["Ink", "Label"]);
    assert_eq!(used("val row = any as Row\nfor ((ink) in row) ink.shade"), ["Ink", "Label", "Row"]);
    assert_eq!(used("(any as Row).forEach { (ink) -> ink.shade }"), ["Ink", "Label", "Row"]);
    assert_eq!(used("(any as Row).map { label -> label.wet() }"), ["Label", "Row"]);
    assert_eq!(used("(any as Row).first.shade"), ["Ink", "Row"]);
    // Neither is more than the names say.
    assert_eq!(used("val (ink, more) = any\nink.shade\nmore.shade"), [""; 0]);
}

#[test]
fn what_follows_a_condition_is_no_operator() {
    assert_eq!(used("if (any == null) newLabel()"), ["Makers"]);
    assert_eq!(used("val label = if (any == null) newLabel() else spare"), ["Makers"]);
    assert_eq!(used("while (bed == any) each(2) { }"), ["Makers"]);
    assert_eq!(used("when { true -> (any as Row).first.shade }"), ["Ink", "Row"]);
    assert_eq!(used("for (x in any) menu(2) { }"), ["Menu"]);
}

#[test]
fn a_property_may_extend_a_type() {
    assert_eq!(used("bed.tall.wet()"), ["Extra", "Label"]);
    assert_eq!(used("bed.tall"), ["Extra"]);
}

#[test]
fn chains_lead_through_declared_types() {
    assert_eq!(used("bed.label.ink.shade"), ["Ink", "Label"]);
    assert_eq!(used("bed.label.wet().shade"), ["Ink", "Label"]);
    assert_eq!(used("val label = bed.label\nlabel.ink?.shade"), ["Ink", "Label"]);
    assert_eq!(used("println(\"${bed.label.ink}\")"), ["Label"]);
    assert_eq!(used("bed.label.copy().ink"), ["Label"]);
    assert_eq!(used("bed.label.ink over bed.label.ink"), ["Ink", "Label"]);
    // Of a value that nothing is known of, nothing is said.
    assert!(used("any.label.ink.shade").is_empty());
    assert!(used("val label = 1\nlabel.ink").is_empty());
}

#[test]
fn what_has_no_spelled_type_is_of_the_type_of_its_value() {
    assert_eq!(used("bed.made.ink.shade"), ["Ink", "Label"]);
    assert_eq!(used("bed.lazily.ink"), ["Label"]);
    assert_eq!(used("spare.ink.shade"), ["Ink", "Label", "Makers"]);
    assert_eq!(used("newLabel().ink"), ["Label", "Makers"]);
    // The value of a local ends with its line.
    assert_eq!(used("val label = bed.label\nany.ink\nlabel.ink"), ["Label"]);
    assert_eq!(used("val label = bed.label ?: return\nlabel.ink.shade"), ["Ink", "Label"]);
}

#[test]
fn lambdas_are_given_what_their_call_gives() {
    assert_eq!(used("each { it.ink.shade }"), ["Ink", "Label", "Makers"]);
    assert_eq!(used("each(2) { label -> label.ink }"), ["Label", "Makers"]);
    assert_eq!(used("bed.label.let { it.ink }"), ["Label"]);
    assert_eq!(used("bed.label.apply { wet().shade }"), ["Ink", "Label"]);
    assert_eq!(used("with(bed.label) { ink.shade }"), ["Ink", "Label"]);
    assert_eq!(used("bed.label.also { println(it) }.ink"), ["Label"]);
    assert_eq!(used("menu(1) { dish(\"soup\").shade }"), ["Menu"]);
    // A block of a statement is no lambda.
    assert!(used("if (bed == any) { it.ink }\nfor (x in listOf(1)) { it.ink }").is_empty());
}

#[test]
fn functions_that_extend_a_type_lead_on() {
    assert_eq!(used("bed.label.long().shade"), ["Extra", "Ink"]);
    assert_eq!(used("bed.wide().ink"), ["Extra", "Label"]);
    // The type that is extended is not that of the value.
    assert_eq!(used("bed.long()"), Vec::<String>::new());
}

#[test]
fn is_tells_of_what_type_a_name_is() {
    assert_eq!(used("if (any is Bed) any.label.ink"), ["Label"]);
    assert_eq!(used("when (any) {\nis Bed -> any.label.wet()\nelse -> 1 }"), ["Label"]);
    assert_eq!(used("if (any !is Bed) return\nany.label.ink"), ["Label"]);
}

/// The files that `User.kt` uses, which holds just this.
fn used_in(declarations: &str) -> Vec<String> {
    let user = format!("package moss\n{declarations}\n");
    let files: Vec<(&str, &str)> = FILES.iter().copied().chain([("User.kt", &*user)]).collect();
    let used = used_by("User.kt", &files).into_iter().map(|file| file.replace(".kt", ""));
    used.filter(|file| file != "Bed").collect()
}

#[test]
fn is_tells_of_what_type_this_is() {
    assert_eq!(used_in("fun Any.f() = when (this) { is Bed -> this.label.wet() else -> 1 }"), ["Label"]);
    assert_eq!(
        used_in("fun Any.f() = when (this) { is Bed -> label.ink is Ink -> shade else -> 1 }"),
        ["Ink", "Label"]
    );
    assert_eq!(used_in("fun Any.f() { if (this !is Bed) return; label.ink }"), ["Label"]);
    // Behind the branches it is what it was.
    assert!(used_in("fun Any.f() { run { if (this is Bed) 1 }; label.ink }").is_empty());
    assert!(used_in("fun Any.f() { when (this) { is Bed -> 1 } }\nfun Any.g() = label.ink").is_empty());
}

#[test]
fn an_object_without_a_name_is_of_its_first_type() {
    assert_eq!(used("val ink = object : Ink(2) { val more = 3 }\nink.shade"), ["Ink"]);
    assert_eq!(
        used("val ink = object : Ink(2), Runnable { override fun run() {} }\nink.over(ink).shade"),
        ["Ink"]
    );
    assert_eq!(used_in("val row = object { val label = newLabel() }\nfun f() = row.ink"), ["Makers"]);
    // What is declared inside of it decides nothing outside.
    assert_eq!(used("val text = run(object : Runnable { val label = bed.label })\ntext.ink"), [""; 0]);
}

#[test]
fn what_is_in_sight_without_a_name_comes_before_the_class() {
    assert_eq!(
        used_in("class User(val label: Menu) { fun f(bed: Bed) = bed.run { label.wet().shade } }"),
        ["Ink", "Label", "Menu"]
    );
    assert_eq!(used_in("class User(label: Menu) { val dish = label.dish(\"x\").shade }"), ["Ink", "Menu"]);
}

#[test]
fn what_extends_a_type_inside_of_a_class_is_inherited() {
    let base = "open class Base { val Bed.tag get() = label\nfun Bed.dye(n: Int) = label.ink }\n";
    let derived = "class User : Base() { fun Bed.f() = tag.wet() }";
    assert_eq!(used_in(&format!("{base}{derived}")), ["Label"]);
    let derived = "class User : Base() { fun Bed.f() = dye(2).shade }";
    assert_eq!(used_in(&format!("{base}{derived}")), ["Ink", "Label"]);
}

#[test]
fn of_several_bases_the_one_that_gives_most_is_meant() {
    let bases = "interface Plain { val thing: Any }\ninterface Rich { val thing: Bed }\ninterface Both : Plain, Rich\n";
    assert_eq!(used_in(&format!("{bases}fun f(both: Both) = both.thing.label.ink")), ["Label"]);
}

/// What `User.kt` uses that holds `text`, beside two functions `deep` and two properties `wet` that extend different types,
/// and a class.
fn used_of_several(text: &str) -> Vec<String> {
    let files = [
        ("Sort.kt", "package moss\nclass Sort { fun deep(more: Int) = more }\n"),
        ("Bed.kt", "package moss\nopen class Bed { fun own() = 1 }\nclass Row : Bed()\n"),
        ("OfBed.kt", "package moss\nfun Bed.deep() = 1\nval Bed.wet get() = true\nfun own() = 2\n"),
        ("OfSort.kt", "package moss\nfun Sort.deep() = 2\nval Sort.wet get() = false\n"),
        ("Try.kt", "package moss\nclass Try\n"),
        ("User.kt", &*format!("package moss\n{text}\n")),
    ];
    let used = used_by("User.kt", &files).into_iter().map(|file| file.replace(".kt", ""));
    used.filter(|file| !matches!(&**file, "Bed" | "Sort")).collect()
}

#[test]
fn what_needs_no_name_tells_which_function_is_meant() {
    for name in ["deep()", "wet"] {
        assert_eq!(used_of_several(&format!("fun Bed.f() = {name}")), ["OfBed"], "{name}");
        assert_eq!(used_of_several(&format!("fun Row.f() = {name}")), ["OfBed"], "{name}");
        assert_eq!(used_of_several(&format!("fun f(sort: Sort) = sort.apply {{ {name} }}")), ["OfSort"]);
        // Nothing is known of what the function is given.
        assert_eq!(used_of_several(&format!("fun f() = unknown {{ {name} }}")), ["OfBed", "OfSort"]);
    }
    // A member comes before what stands outside of types.
    assert_eq!(used_of_several("fun Bed.f() = own()"), [""; 0]);
    assert_eq!(used_of_several("fun f() = own()"), ["OfBed"]);
    // It is another one that takes a number.
    assert_eq!(used_of_several("fun Sort.f() = deep()"), ["OfSort"]);
    assert_eq!(used_of_several("fun Sort.f() = deep(3)"), [""; 0]);
}

#[test]
fn a_method_hides_the_class_of_its_name() {
    let method = "private fun <T> Try(act: () -> T) = act()";
    assert_eq!(used_of_several(&format!("object User {{ {method}\nfun f() = Try {{ 3 }} }}")), [""; 0]);
    assert_eq!(used_of_several("object User { fun f() = Try() }"), ["Try"]);
}
