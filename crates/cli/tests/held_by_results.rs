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
