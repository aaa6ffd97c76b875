//! Functions of the project that give a type of another library with what their first argument tells in it:
//! `<T> Optional<T> maybe(T thing)`, `fun <T> T.weakly(): WeakReference<T>`, `List<T> Keys<T>(Dictionary<T, int> map)`.

#![allow(clippy::unwrap_used, clippy::expect_used, reason = "a test may fail loudly")]

mod common;

use common::used_by;

/// Whether the file `user`, with each body in place of `BODY`, follows what it is given through to `Row`, as it is said to.
fn follows(beside: &[(&str, &str)], user: (&str, &str), rows: &[(&str, bool)]) {
    for (body, expected) in rows {
        let text = user.1.replace("BODY", body);
        let files: Vec<(&str, &str)> = beside.iter().copied().chain([(user.0, &*text)]).collect();
        let leads = used_by(user.0, &files).iter().any(|file| file.starts_with("Row."));
        assert_eq!(leads, *expected, "{body}");
    }
}

#[test]
fn kotlin() {
    let given = "package moss\nimport java.lang.ref.*\n\
        fun <T> once(it: T): List<T> = listOf(it)\nfun <K> keys(it: Map<K, Int>): Set<K> = it.keys\n\
        fun <V> values(it: Map<Int, V>): List<V> = TODO()\n\
        fun <T> T.weakly(): WeakReference<T> = WeakReference(this)\nfun <T> List<T>.third(): T = this[2]\n\
        fun <T> List<T>.turned(): List<T> = this\nfun <T> other(it: Int, thing: T): List<T> = listOf(thing)\n";
    let user =
        "package moss\nfun f(bed: Bed, beds: List<Bed>, map: Map<Bed, Int>, odd: Map<Int, Bed>) { BODY }";
    let beside = [
        ("Row.kt", "package moss\nclass Row { fun dig() = 1 }\n"),
        ("Bed.kt", "package moss\nclass Bed { val row = Row() }\n"),
        ("Given.kt", given),
    ];
    let rows = [
        ("once(bed).first().row.dig()", true),
        ("val all = once(bed); for (one in all) one.row.dig()", true),
        ("keys(map).first().row.dig()", true),
        ("values(odd).first().row.dig()", true),
        ("keys(odd).first().row.dig()", false),
        ("values(map).first().row.dig()", false),
        ("bed.weakly().get()?.row?.dig()", true),
        ("beds.third().row.dig()", true),
        ("beds.turned().first().row.dig()", true),
        // What is given behind the first is not looked at.
        ("other(1, bed).first().row.dig()", false),
        ("once(1).first().row.dig()", false),
        ("once(once(bed)).first().row.dig()", true),
    ];
    follows(&beside, ("User.kt", user), &rows);
}

#[test]
fn java() {
    let given = "package moss; import java.util.*; class Given {\n\
        static <T> Optional<T> maybe(T thing) { return null; }\n\
        static <K> List<K> keys(Map<K, Integer> map) { return null; }\n\
        static <V> List<V> values(Map<Integer, V> map) { return null; }\n\
        <T extends Bed> List<T> atLeast(int count) { return null; }\n\
        static <T> List<T> other(int count, T thing) { return null; } }";
    let user = "package moss; import java.util.*; class User { void f(Bed bed, Map<Bed, Integer> map, Map<Integer, Bed> odd) { BODY } }";
    let beside = [
        ("Row.java", "package moss; class Row { void dig() {} }"),
        ("Bed.java", "package moss; class Bed { Row row() { return null; } }"),
        ("Given.java", given),
    ];
    let rows = [
        ("Given.maybe(bed).get().row().dig();", true),
        ("var all = Given.maybe(bed); all.get().row().dig();", true),
        ("for (var one : Given.keys(map)) one.row().dig();", true),
        ("Given.values(odd).get(0).row().dig();", true),
        ("Given.keys(odd).get(0).row().dig();", false),
        ("Given.other(1, bed).get(0).row().dig();", false),
        ("new Given().atLeast(1).get(0).row().dig();", true),
    ];
    follows(&beside, ("User.java", user), &rows);
}

#[test]
fn csharp() {
    let given = "using System.Collections.Generic; namespace Moss { static class Given {\n\
        public static List<T> Once<T>(T it) { return null; }\n\
        public static IEnumerable<K> Keys<K>(Dictionary<K, int> it) { return null; }\n\
        public static List<T> Twice<T>(this T it) { return null; }\n\
        public static T Third<T>(this IList<T> it) { return it[2]; }\n\
        public static List<T> Turned<T>(this IList<T> it) { return null; }\n\
        public static List<T> Other<T>(int count, T it) { return null; } } }";
    let user = "using System.Collections.Generic; namespace Moss { class User { \
             void F(Bed bed, List<Bed> beds, Dictionary<Bed, int> map, Dictionary<int, Bed> odd) { BODY } } }";
    let beside = [
        ("Row.cs", "namespace Moss { public class Row { public void Dig() { } } }"),
        ("Bed.cs", "namespace Moss { public class Bed { public Row Row; } }"),
        ("Given.cs", given),
    ];
    let rows = [
        ("Given.Once(bed)[0].Row.Dig();", true),
        ("foreach (var one in Given.Once(bed)) one.Row.Dig();", true),
        ("foreach (var one in Given.Keys(map)) { one.Row.Dig(); }", true),
        ("foreach (var one in Given.Keys(odd)) { one.Row.Dig(); }", false),
        ("bed.Twice()[0].Row.Dig();", true),
        ("Given.Twice(bed)[0].Row.Dig();", true),
        ("beds.Third().Row.Dig();", true),
        ("Given.Third(beds).Row.Dig();", true),
        ("var all = beds.Turned(); all[1].Row.Dig();", true),
        ("Given.Other(1, bed)[0].Row.Dig();", false),
    ];
    follows(&beside, ("User.cs", user), &rows);
}

#[test]
fn types_that_hand_on_what_they_are_given_to_a_library() {
    let beside = [
        ("Row.java", "class Row { int length; }"),
        ("Bed.java", "class Bed { Row row() { return null; } }"),
        ("Pairs.java", "class Pairs<K, V> extends java.util.TreeMap<K, V> {}"),
        ("Turned.java", "class Turned<K, V> extends java.util.TreeMap<V, K> {}"),
        ("Named.java", "class Named<T> extends Pairs<String, T> {}"),
        ("Beds.java", "class Beds extends java.util.ArrayList<Bed> {}"),
        ("Few.java", "class Few extends Beds {}"),
        (
            "Shed.java",
            "import java.util.*; class Shed<A, B> { List<A> first; List<B> last() { return null; } Map<B, A> turned; }",
        ),
        ("Own.java", "class Own extends Shed<Bed, String> {}"),
        ("Odd.java", "class Odd extends Shed<String, Bed> {}"),
    ];
    let user = "class User { int f(Own own, Odd odder, Pairs<String, Bed> pairs, Turned<Bed, String> turned, Named<Bed> named, Beds beds, Few few, Pairs<Bed, String> odd) { BODY } }";
    let rows = [
        ("return pairs.get(1).row().length;", true),
        ("for (var bed : pairs.values()) bed.row().length++;", true),
        ("pairs.forEach((name, bed) -> bed.row().length++);", true),
        ("return turned.get(1).row().length;", true),
        ("return named.get(1).row().length;", true),
        ("return beds.get(1).row().length;", true),
        ("for (var bed : few) bed.row().length++;", true),
        ("for (var bed : odd.keySet()) bed.row().length++;", true),
        ("return pairs.size();", false),
        // What holds a type parameter is told by the base that gives it.
        ("return own.first.get(0).row().length;", true),
        ("for (var bed : odder.last()) bed.row().length++;", true),
        ("return own.turned.get(1).row().length;", true),
        ("for (var name : own.last()) name.row().length++;", false),
        ("return odder.first.get(0).row().length;", false),
    ];
    follows(&beside, ("User.java", user), &rows);
}

#[test]
fn calls_of_one_function_with_different_arguments() {
    let beside = [
        ("Row.java", "class Row { int length; }"),
        ("Bed.java", "class Bed { Row row() { return null; } }"),
        ("Tour.java", "class Tour { Tour row() { return this; } int length; }"),
        ("Same.java", "class Same { static <T> T same(T it) { return it; } }"),
    ];
    let user = "class User { void f(Bed bed, Tour tour) { BODY } }";
    let rows = [
        ("var a = Same.same(tour); var b = Same.same(bed); b.row().length++;", true),
        ("var a = Same.same(bed); var b = Same.same(tour); a.row().length++;", true),
        ("var a = Same.same(bed); var b = Same.same(tour); b.row().length++;", false),
        ("Same.same(tour); Same.same(bed).row().length++;", true),
        ("Same.same(bed); Same.same(tour).row().length++;", false),
    ];
    follows(&beside, ("User.java", user), &rows);
}

#[test]
fn functions_that_are_returned_or_cast() {
    let java = [
        ("Row.java", "class Row { int length; }"),
        ("Bed.java", "class Bed { Row row() { return null; } }"),
        ("Take.java", "interface Take<T> { Object take(T it); }"),
        ("TakeBed.java", "interface TakeBed extends Take<Bed> {}"),
    ];
    let user = "class User { BODY }";
    let rows = [
        ("TakeBed f() { return bed -> bed.row().length; }", true),
        ("Take<Bed> f() { return (bed) -> { return bed.row().length; }; }", true),
        ("Object f = (TakeBed) bed -> bed.row().length;", true),
        ("void f() { g((Take<Bed>) (bed) -> bed.row().length); }", true),
        // What a function inside returns is not what the method gives.
        ("TakeBed f() { return own -> { return bed -> bed.row().length; }; }", false),
        ("Object f() { return bed -> bed.row().length; }", false),
        (
            "TakeBed f() { new Object() { Object g() { return it -> it.row().length; } }; return null; }",
            false,
        ),
        ("TakeBed f() { new Object() { void g() {} }; return it -> it.row().length; }", true),
        ("Runnable f(Object o) { return () -> ((Bed) o).row().length++; }", true),
    ];
    follows(&java, ("User.java", user), &rows);
    let csharp = [
        ("Row.cs", "class Row { public int Length; }"),
        ("Bed.cs", "class Bed { public Row Row() => null; }"),
        ("Take.cs", "delegate int Take(Bed it);"),
    ];
    let rows = [
        ("Take F() { return bed => bed.Row().Length; }", true),
        ("Take F() { return (bed) => { return bed.Row().Length; }; }", true),
        ("object F() { return bed => bed.Row().Length; }", false),
    ];
    follows(&csharp, ("User.cs", "class User { BODY }"), &rows);
}

#[test]
fn functions_that_are_handed_the_first_argument() {
    let beside = [
        ("Row.java", "class Row { int length; }"),
        ("Bed.java", "class Bed { Row row() { return null; } }"),
        ("Tour.java", "class Tour { Tour row() { return this; } int length; }"),
        ("Take.java", "interface Take<T> { Object take(T it); }"),
        (
            "Hand.java",
            "import java.util.*; import java.util.function.*; class Hand { static <T> void own(T it, Take<T> act) {} \
             static <T> void theirs(T it, Consumer<? super T> act) {} static <T> void all(List<T> of, Take<T> act) {} \
             static <T> void other(int n, T it, Take<T> act) {} }",
        ),
    ];
    let user = "class User { Bed bed; Tour tour; java.util.List<Bed> beds; void f() { BODY } }";
    let rows = [
        ("Hand.own(bed, it -> it.row().length);", true),
        ("Hand.theirs(bed, it -> { int x = it.row().length; });", true),
        ("Hand.all(beds, it -> it.row().length);", true),
        ("Hand.own(tour, it -> it.row().length); Hand.own(bed, it -> it.row().length);", true),
        ("Hand.own(bed, it -> 1); Hand.own(tour, it -> it.row().length);", false),
        // What is given behind the first is not looked at.
        ("Hand.other(1, bed, it -> it.row().length);", false),
    ];
    follows(&beside, ("User.java", user), &rows);
    let beside = [
        ("Row.cs", "class Row { public int Length; }"),
        ("Bed.cs", "class Bed { public Row Row() => null; }"),
        ("Take.cs", "delegate int Take<T>(T it);"),
        (
            "Hand.cs",
            "using System; using System.Collections.Generic; static class Hand { public static void Own<T>(T it, Take<T> act) {} \
             public static void Theirs<T>(T it, Action<T> act) {} public static void All<T>(List<T> of, Action<T> act) {} }",
        ),
    ];
    let user = "using System.Collections.Generic; class User { Bed bed; List<Bed> beds; void F() { BODY } }";
    let rows = [
        ("Hand.Own(bed, it => it.Row().Length);", true),
        ("Hand.Theirs(bed, it => { var x = it.Row().Length; });", true),
        ("Hand.All(beds, it => { var x = it.Row().Length; });", true),
        ("Hand.Own(1, it => it.Row().Length);", false),
    ];
    follows(&beside, ("User.cs", user), &rows);
}

#[test]
fn functions_of_kotlin_whose_type_is_declared() {
    let beside = [
        ("Row.kt", "package moss\nclass Row { fun dig() = 1 }\n"),
        ("Bed.kt", "package moss\nclass Bed { fun row(): Row = TODO() }\n"),
        ("Hand.kt", "package moss\nfun <T> hand(it: T, act: (T) -> Unit) { }\n"),
    ];
    let rows = [
        ("fun f() { val act: (Bed) -> Int = { it.row().dig() } }", true),
        ("class User { val act: (Bed) -> Int = { bed -> bed.row().dig() } }", true),
        ("fun f(): (Bed) -> Int = { it.row().dig() }", true),
        ("val act: Bed.() -> Int = { row().dig() }", true),
        ("fun f(act: (Bed) -> Int = { it.row().dig() }) = act", true),
        ("fun f() { val act: (Int) -> Int = { it.row().dig() } }", false),
        ("val bed = Bed()\nfun f() { val act = { it.row().dig() } }", false),
        ("fun f(bed: Bed) = hand(bed) { it.row().dig() }", true),
        ("fun f(bed: Bed) { hand(1) { }\nhand(bed, { it.row().dig() }) }", true),
        ("fun f(bed: Bed) { hand(bed) { }\nhand(1) { it.row().dig() } }", false),
    ];
    follows(&beside, ("User.kt", "package moss\nBODY\n"), &rows);
}
