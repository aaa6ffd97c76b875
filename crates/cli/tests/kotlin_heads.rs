//! Kotlin: what heads of classes and functions bring into sight, and what stands for a name without being one.

#![allow(clippy::unwrap_used, clippy::expect_used, reason = "a test may fail loudly")]

mod common;

use common::used_by;

const FILES: &[(&str, &str)] = &[
    ("Ground.kt", "package moss\nopen class Ground { val wet: Boolean = true; fun soil() = Soil() }\n"),
    ("Soil.kt", "package moss\nclass Soil { fun depth() = 1 }\n"),
    ("Bed.kt", "package moss\nopen class Bed(val number: Int) : Ground() { open fun rows() = 2 }\n"),
    ("Outside.kt", "package moss\nval held: Bed = Bed(1)\nfun rows(count: Int) = count\n"),
    (
        "Holder.kt",
        "package moss\nclass Holder { suspend fun <T> within(act: suspend (Bed) -> T): T = TODO() }\n\
         fun <T> same(thing: T): T = thing\nfun <T, R> use(thing: T, also: Int, act: (T) -> R): R = act(thing)\n\
         fun <T> T.twice(act: (T) -> Unit) = act(this)\n",
    ),
    (
        "Grid.kt",
        "package moss\nclass Grid { operator fun get(at: Int): Soil = Soil(); operator fun invoke(): Soil = Soil() }\n",
    ),
    ("Beds.kt", "package moss\ntypealias Beds = List<Bed>\ntypealias Digging = (Bed) -> Soil\n"),
    ("Sort.kt", "package moss\nenum class Sort { ROOT, LEAF; fun soil() = Soil() }\n"),
];

/// The files that `user` uses.
fn used(user: &str) -> Vec<String> {
    let user = format!("package moss\n{user}\n");
    let files: Vec<(&str, &str)> = FILES.iter().copied().chain([("User.kt", &*user)]).collect();
    used_by("User.kt", &files).into_iter().map(|file| file.replace(".kt", "")).collect()
}

#[test]
fn names_in_strings_are_read_with_braces_and_without() {
    for text in ["$wet", "${wet}", "so $wet.", "$$wet", "${if (wet) \"$wet\" else \"\"}"] {
        assert_eq!(
            used(&format!("class Leek : Bed(1) {{ fun f() = \"{text}\" }}")),
            ["Bed", "Ground"],
            "{text}"
        );
    }
    for text in ["wet", "\\$wet", "$1wet", "$ wet"] {
        assert_eq!(used(&format!("class Leek : Bed(1) {{ fun f() = \"{text}\" }}")), ["Bed"], "{text}");
    }
    assert_eq!(used("class Leek : Bed(1) { fun f() = \"\"\"a\n  $wet\"\"\" }"), ["Bed", "Ground"]);
}

#[test]
fn what_makes_an_object_is_seen_where_it_is_made_only() {
    // In a function the inherited value is meant, which is not the parameter.
    assert_eq!(
        used("class Leek(wet: Soil) : Bed(1) { fun f() = wet.hashCode() }"),
        ["Bed", "Ground", "Soil"]
    );
    assert_eq!(
        used("class Leek(wet: Soil) : Bed(1) { val d get() = wet.hashCode() }"),
        ["Bed", "Ground", "Soil"]
    );
    assert_eq!(used("class Leek(thing: Ground) { val d = thing.soil().depth() }"), ["Ground", "Soil"]);
    assert_eq!(used("class Leek(thing: Ground) { init { thing.soil().depth() } }"), ["Ground", "Soil"]);
    assert_eq!(
        used("class Leek(thing: Ground) { fun f() = 1\n val g get() = 2\n init { thing.soil().depth() } }"),
        ["Ground", "Soil"]
    );
    assert_eq!(used("class Leek(thing: Ground) : Bed(thing.soil().depth())"), ["Bed", "Ground", "Soil"]);
    assert_eq!(used("class Leek(val thing: Ground) { fun f() = thing.soil().depth() }"), ["Ground", "Soil"]);
    // What a class hands to its base is seen there, too, behind functions and getters of the class around.
    for before in ["fun f() { }", "fun f() = 1", "val v get() = 2", ""] {
        let inner = "class In(wet: Soil) : Bed(wet.depth())\nclass On(wet: Soil) : Bed(wet.depth()) { init { wet.depth() } }";
        assert_eq!(used(&format!("class Leek {{ {before}\n{inner} }}")), ["Bed", "Soil"], "{before}");
    }
}

#[test]
fn parameters_of_further_constructors_are_values() {
    let user = "class Leek(val n: Int) { constructor(bed: Bed, other: Int) : this(bed.soil().depth()) { bed.rows() } }";
    assert_eq!(used(user), ["Bed", "Ground", "Soil"]);
    assert_eq!(
        used("class Leek : Bed { constructor(g: Ground) : super(g.soil().depth()) }"),
        ["Bed", "Ground", "Soil"]
    );
}

#[test]
fn members_hide_what_stands_outside_of_classes() {
    assert_eq!(used("class Leek { val held = Soil(); fun f() = held.depth() }"), ["Soil"]);
    assert_eq!(used("class Leek { fun f() = held.rows() }"), ["Bed", "Outside"]);
    assert_eq!(
        used("open class Base { val held = Soil() }\nclass Leek : Base() { fun f() = held.depth() }"),
        ["Soil"]
    );
}

#[test]
fn labels_and_soft_words_are_no_functions_between_values() {
    assert_eq!(used("fun f(l: List<Int>) = l.map { return@map Bed(it) }"), ["Bed"]);
    assert_eq!(used("fun f(l: List<Int>) { l.forEach here@{ return@here } }"), [""; 0]);
    assert_eq!(used("fun f(): Int { val data = Bed(1)\nval open = data\nreturn open.rows() }"), ["Bed"]);
    assert_eq!(used("fun f(constructor: Ground) { val inner = constructor\ninner.soil() }"), ["Ground"]);
}

#[test]
fn functions_are_values() {
    assert_eq!(used("fun f(make: () -> Bed) = make().rows()"), ["Bed"]);
    assert_eq!(used("fun f(make: ((Int) -> Ground)?) = make!!(1)"), ["Ground"]);
    assert_eq!(
        used("class Leek(val make: (Int) -> Ground) { fun f() = make(1).soil().depth() }"),
        ["Ground", "Soil"]
    );
    assert_eq!(used("fun f(dig: Ground.(Int) -> Soil, g: Ground) = g.dig(2).depth()"), ["Ground", "Soil"]);
    assert_eq!(used("fun f(dig: Digging, b: Bed) = dig(b).depth()"), ["Bed", "Beds", "Soil"]);
    assert_eq!(used("suspend fun f(h: Holder) = h.within { it.rows() }"), ["Bed", "Holder"]);
    assert_eq!(used("fun f(g: Ground) { fun own(n: Int) = g.soil()\nown(1).depth() }"), ["Ground", "Soil"]);
    assert_eq!(used("fun f(g: Ground) { fun own(): Bed = TODO()\nown().rows() }"), ["Bed", "Ground"]);
    // A function inside of another one is not that of its name outside.
    assert_eq!(used("fun f(g: Ground) { fun rows(n: Int) = g\nrows(1).wet }"), ["Ground"]);
}

#[test]
fn operators_and_other_names_lead_on() {
    assert_eq!(used("fun f(g: Grid) = g[1].depth() + g().depth()"), ["Grid", "Soil"]);
    assert_eq!(used("fun f(l: Beds) = l.first().rows()"), ["Bed", "Beds"]);
    assert_eq!(used("fun f(l: List<Bed>, b: Ground) = (l - b).first().rows()"), ["Bed", "Ground"]);
    assert_eq!(used("fun f(b: Bed) = (b to 1).first.rows()"), ["Bed"]);
    assert_eq!(used("fun f(b: Bed) = mapOf(\"a\" to b)[\"a\"]!!.rows()"), ["Bed"]);
    assert_eq!(
        used("fun f(l: List<Bed>) = l.groupBy { it.soil() }.keys.first().depth()"),
        ["Bed", "Ground", "Soil"]
    );
    assert_eq!(
        used("fun f(n: Int) = Sort.values()[n].soil().depth() + Sort.valueOf(\"x\").hashCode()"),
        ["Soil", "Sort"]
    );
    // What nothing is known of leads nowhere.
    assert_eq!(used("fun f(a: Any, b: Any) = ((a to b).first as Any).rows() + (a + b).depth()"), [""; 0]);
}

#[test]
fn generic_functions_hand_on_what_they_are_given_first() {
    assert_eq!(used("fun f(b: Bed) = same(b).rows()"), ["Bed", "Holder"]);
    assert_eq!(used("fun f() = same(Bed(1)).soil().depth()"), ["Bed", "Ground", "Holder", "Soil"]);
    assert_eq!(used("fun f() { val b = moss.Bed(1)\n same(b).soil() }"), ["Bed", "Ground", "Holder"]);
    assert_eq!(used("fun f(b: Bed) = use(b, 1) { it.rows() }"), ["Bed", "Holder"]);
    assert_eq!(used("fun f(b: Bed) = b.twice { it.rows() }"), ["Bed", "Holder"]);
    assert_eq!(used("fun f(b: Any) = same(b).rows()"), ["Holder"]);
}

#[test]
fn a_brace_behind_what_a_class_is_delegated_to_opens_the_class() {
    let own = "{ fun f() = rows(1); val d: Int get() = held.number }";
    let (others, given) =
        (["Bed", "Outside"], "class Leek(val a: List<Int>, val f: (Int) -> List<Int>) : List<Int> by");
    for delegate in [
        "a",
        "f(1)",
        "f.invoke(1)",
        "(a)",
        "a ?: f(2)",
        "f(1)!!",
        "object : ArrayList<Int>() { val x = 1 }",
        "a, Runnable by f",
    ] {
        assert_eq!(used(&format!("{given} {delegate} {own}")), others, "{delegate}");
        assert_eq!(used(&format!("{given} {delegate}\nval x = held.number\n")), others, "{delegate}");
        // Members of the class are no names outside of it.
        assert_eq!(
            used(&format!("{given} {delegate} {{ fun rows(a: Int) = a; fun f() = rows(1) }}")),
            [""; 0],
            "{delegate}"
        );
    }
    assert_eq!(
        used("class Leek : Bed(held.number), List<Int> by listOf(wet) { fun f() = wet }"),
        ["Bed", "Ground", "Outside"]
    );
}

#[test]
fn accessors_call_nothing_and_know_what_the_property_is() {
    let files = [
        (
            "Get.kt",
            "package moss\noperator fun Int.get(a: Int) = a\nfun get() = 1\nfun set(a: Int) = a\nval value = 1\nval field = 1\n",
        ),
        ("Soil.kt", "package moss\nclass Soil { var depth = 1 }\n"),
    ];
    let uses = |member: &str| {
        let user = format!("package moss\nclass Bed {{\n{member}\n}}\n");
        used_by("User.kt", &[files[0], files[1], ("User.kt", &user)]).join(" ")
    };
    for (member, expected) in [
        ("val a: Int get() = 1", ""),
        ("val a: List<List<Int>>\n  get() = listOf()", ""),
        ("val a: Int? get() { return 1 }", ""),
        ("var a = 1\n  get() = field\n  set(value) { field = value }", ""),
        ("var a = 1\n  private set(value) { field = value }", ""),
        ("var a = 1; get() = 2; set(@Some value: Int,) { }", ""),
        ("var a: Int by lazy { 1 }\n  get", ""),
        ("val a = 1\n  inline get() = 2\n  fun f() = value", "Get.kt"),
        ("var s: Soil = make()\n  set(new) { new.depth = 1 }", "Soil.kt"),
        ("var s: Soil = make()\n  get() = field.also { field.depth }", "Soil.kt"),
        ("val s: Soil get() { return make() }\n  fun f() = s.depth", "Soil.kt"),
        ("val a =\n  get()", "Get.kt"),
        ("val a = 1 +\n  get()", "Get.kt"),
        ("fun f() { get(); set(1) }", "Get.kt"),
        ("fun f() = field + value", "Get.kt"),
    ] {
        assert_eq!(uses(member), expected, "{member}");
    }
}
