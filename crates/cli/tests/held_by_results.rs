//! Functions of the project that give a type of another library with what their first argument tells in it:
//! `<T> Optional<T> maybe(T thing)`, `fun <T> T.weakly(): WeakReference<T>`, `List<T> Keys<T>(Dictionary<T, int> map)`.

#![allow(clippy::unwrap_used, clippy::expect_used, reason = "a test may fail loudly")]

mod common;

use common::used_by;

/// Whether the last of `files`, with this code, follows what it is given through to `Row`: beds have rows.
fn leads_to_row(files: &[(&str, String)]) -> bool {
    let files: Vec<(&str, &str)> = files.iter().map(|(name, text)| (*name, text.as_str())).collect();
    let user = files.last().unwrap().0;
    used_by(user, &files).iter().any(|file| file.starts_with("Row."))
}

#[test]
fn kotlin() {
    let given = "package moss\nimport java.lang.ref.*\n\
        fun <T> once(it: T): List<T> = listOf(it)\nfun <K> keys(it: Map<K, Int>): Set<K> = it.keys\n\
        fun <V> values(it: Map<Int, V>): List<V> = TODO()\n\
        fun <T> T.weakly(): WeakReference<T> = WeakReference(this)\nfun <T> List<T>.third(): T = this[2]\n\
        fun <T> List<T>.turned(): List<T> = this\nfun <T> other(it: Int, thing: T): List<T> = listOf(thing)\n";
    for (body, expected) in [
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
    ] {
        let user = format!(
            "package moss\nfun f(bed: Bed, beds: List<Bed>, map: Map<Bed, Int>, odd: Map<Int, Bed>) {{ {body} }}"
        );
        let files = [
            ("Row.kt", "package moss\nclass Row { fun dig() = 1 }\n".to_owned()),
            ("Bed.kt", "package moss\nclass Bed { val row = Row() }\n".to_owned()),
            ("Given.kt", given.to_owned()),
            ("User.kt", user),
        ];
        assert_eq!(leads_to_row(&files), expected, "{body}");
    }
}

#[test]
fn java() {
    let given = "package moss; import java.util.*; class Given {\n\
        static <T> Optional<T> maybe(T thing) { return null; }\n\
        static <K> List<K> keys(Map<K, Integer> map) { return null; }\n\
        static <V> List<V> values(Map<Integer, V> map) { return null; }\n\
        <T extends Bed> List<T> atLeast(int count) { return null; }\n\
        static <T> List<T> other(int count, T thing) { return null; } }";
    for (body, expected) in [
        ("Given.maybe(bed).get().row().dig();", true),
        ("var all = Given.maybe(bed); all.get().row().dig();", true),
        ("for (var one : Given.keys(map)) one.row().dig();", true),
        ("Given.values(odd).get(0).row().dig();", true),
        ("Given.keys(odd).get(0).row().dig();", false),
        ("Given.other(1, bed).get(0).row().dig();", false),
        ("new Given().atLeast(1).get(0).row().dig();", true),
    ] {
        let user = format!(
            "package moss; import java.util.*; class User {{ void f(Bed bed, Map<Bed, Integer> map, Map<Integer, Bed> odd) {{ {body} }} }}"
        );
        let files = [
            ("Row.java", "package moss; class Row { void dig() {} }".to_owned()),
            ("Bed.java", "package moss; class Bed { Row row() { return null; } }".to_owned()),
            ("Given.java", given.to_owned()),
            ("User.java", user),
        ];
        assert_eq!(leads_to_row(&files), expected, "{body}");
    }
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
    for (body, expected) in [
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
    ] {
        let user = format!(
            "using System.Collections.Generic; namespace Moss {{ class User {{ \
             void F(Bed bed, List<Bed> beds, Dictionary<Bed, int> map, Dictionary<int, Bed> odd) {{ {body} }} }} }}"
        );
        let files = [
            ("Row.cs", "namespace Moss { public class Row { public void Dig() { } } }".to_owned()),
            ("Bed.cs", "namespace Moss { public class Bed { public Row Row; } }".to_owned()),
            ("Given.cs", given.to_owned()),
            ("User.cs", user),
        ];
        assert_eq!(leads_to_row(&files), expected, "{body}");
    }
}
