//! What names of C# mean where text alone misleads: type parameters, members that only a cast reaches, methods that extend
//! what has such a method itself, parts of types, lines that a condition leaves out. Each case is what the compiler binds.

#![allow(clippy::unwrap_used, clippy::expect_used, reason = "a test may fail loudly")]

mod common;

use common::used_by;

/// A bed with a label, and what neither the bed nor a plain value names.
const GARDEN: &[(&str, &str)] = &[
    (
        "Bed.cs",
        "namespace Moss { public class Bed : Ground { public Label Label; } public interface IBed { } }",
    ),
    ("Ground.cs", "namespace Moss { public class Ground { public int Depth() { return 1; } } }"),
    ("Label.cs", "namespace Moss { public class Label { public int Ink; } }"),
    ("Taxon.cs", "namespace Moss { public class Taxon { } public class Crop { } public class plan { } }"),
];

/// The files that `user` uses, without what they end with.
fn used(user: &str) -> Vec<String> {
    used_beside(user, &[])
}

fn used_beside(user: &str, beside: &[(&str, &str)]) -> Vec<String> {
    let user = format!("using System; using System.Collections.Generic; namespace Moss {{ {user} }}");
    let files: Vec<(&str, &str)> =
        GARDEN.iter().chain(beside).copied().chain([("User.cs", &*user)]).collect();
    used_by("User.cs", &files).iter().map(|file| file.trim_end_matches(".cs").to_owned()).collect()
}

const NOTHING: [&str; 0] = [];

#[test]
fn a_type_parameter_hides_a_type_of_its_name() {
    assert_eq!(
        used("class User<Taxon> : List<Taxon>, IComparable<Taxon> where Taxon : new() { Taxon held; }"),
        NOTHING
    );
    assert_eq!(
        used(
            "class User { Taxon Last<Taxon>(Taxon one, List<Taxon> all) { Taxon last = one; return last; } }"
        ),
        NOTHING
    );
    assert_eq!(used("delegate Taxon User<Taxon>(Taxon taxon, Crop crop);"), ["Taxon"]);
    assert_eq!(
        used("class User { bool Is<Taxon>(object o) { return o is Taxon || o is Taxon found; } }"),
        NOTHING
    );
    assert_eq!(
        used("class User { T Last<T>() { return default(T); } Taxon After() { return null; } }"),
        ["Taxon"]
    );
    // What the parameter is given is another name.
    assert_eq!(used("class User<Crop> : List<Taxon> { }"), ["Taxon"]);
    assert_eq!(used("class User { List<Taxon> Of<Crop>(Crop crop) { return null; } }"), ["Taxon"]);
}

#[test]
fn a_value_of_a_type_parameter_has_what_that_is_bound_to() {
    let body = "{ return bed.Depth(); } }";
    for head in [
        "int Of<T>(T bed) where T : Bed",
        "int Of<TBed>(int n, TBed bed) where TBed : class, Bed",
        "int Of<T, U>(T bed, U other) where U : Label where T : Bed",
    ] {
        assert_eq!(used(&format!("class User {{ {head} {body}")).first().unwrap(), "Bed", "{head}");
        assert!(used(&format!("class User {{ {head} {body}")).contains(&"Ground".to_owned()), "{head}");
    }
    let all = "class User { int Of<T>(List<T> beds) where T : Bed { foreach (var bed in beds) return bed.Depth(); return 0; } }";
    assert_eq!(used(all), ["Bed", "Ground"]);
    let cast = "class User { int Of<T>(object o) where T : Bed { return ((T) o).Depth(); } }";
    assert_eq!(used(cast), ["Bed", "Ground"]);
    assert_eq!(used("class User { int Of<T>(T bed) { return bed.Depth(); } }"), NOTHING);
    // The bound ends with its method.
    let two = "class User { void A<T>(T bed) where T : Bed { } int B<T>(T bed) { return bed.Depth(); } }";
    assert_eq!(used(two), ["Bed"]);
}

#[test]
fn locals_of_words_of_the_language_are_locals() {
    assert_eq!(
        used("class User { int F(object o) { object [] plan = (object []) o; return plan.Length; } }"),
        NOTHING
    );
    assert_eq!(
        used(
            "class User { int F() { string plan = null; int? Crop = 1; return plan.Length + Crop.Value; } }"
        ),
        NOTHING
    );
    assert_eq!(
        used("class User { bool F(object o) { return o is string plan && plan.Length > 0; } }"),
        NOTHING
    );
    assert_eq!(
        used("class User { object F(bool wet) { return wet is bool ? plan.None : null; } }"),
        ["Taxon"]
    );
    assert_eq!(used("class User { int F() { var n = int.Parse(Crop.One); return n; } }"), ["Taxon"]);
}

#[test]
fn one_declaration_may_name_several_locals() {
    assert_eq!(
        used("class User { int F() { Bed first, second = null; return second.Depth(); } }"),
        ["Bed", "Ground"]
    );
    assert_eq!(
        used(
            "class User { int F() { Bed a = G(1, 2), b = a; return b.Depth(); } Bed G(int x, int y) { return null; } }"
        ),
        ["Bed", "Ground"]
    );
    // A name behind a comma of a call is an argument.
    assert_eq!(
        used(
            "class User { object plan; void F() { G(out Bed bed, plan); } void G(out Bed b, object o) { b = null; } }"
        ),
        ["Bed"]
    );
}

#[test]
fn what_implements_a_member_under_an_interface_is_reached_through_that_only() {
    let shelf = "public interface IShelf { Taxon Held { get; } }";
    let both = "public class Shelf : IShelf { Taxon IShelf.Held { get { return null; } } public Bed Held; }";
    let beside = [
        ("IShelf.cs", &*format!("namespace Moss {{ {shelf} }}")),
        ("Shelf.cs", &*format!("namespace Moss {{ {both} }}")),
    ];
    assert_eq!(
        used_beside("class User { int F(Shelf shelf) { return shelf.Held.Depth(); } }", &beside),
        ["Ground", "Shelf"]
    );
    // A class has no members of its interfaces but those that it declares or inherits from classes.
    let beside = [
        ("IShelf.cs", "namespace Moss { interface IShelf { int Code { get; } } }"),
        (
            "Shelf.cs",
            "namespace Moss { class Shelf : Outside, IShelf { int IShelf.Code { get { return 1; } } } }",
        ),
    ];
    assert_eq!(used_beside("class User { int F(Shelf shelf) { return shelf.Code; } }", &beside), ["Shelf"]);
    assert_eq!(used_beside("class User { int F(IShelf shelf) { return shelf.Code; } }", &beside), ["IShelf"]);
}

#[test]
fn a_method_extends_what_can_call_it_only() {
    let beside = [(
        "Extending.cs",
        "namespace Moss { static class Extending { public static bool Starts(this string text, char with) { return true; } public static string ToString(this List<Bed> beds) { return null; } public static void Add(this Bed bed, Label label) { } public static void All(this object o) { } } }",
    )];
    let uses = |body: &str| {
        let user = format!(
            "class User {{ object F(string text, System.Text.StringBuilder builder, Bed bed, List<Bed> beds) {{ {body} }} }}"
        );
        used_beside(&user, &beside).contains(&"Extending".to_owned())
    };
    assert!(uses("return text.Starts('a');"));
    assert!(uses("return Extending.Starts(text, 'a');"));
    // With as many arguments as the method has parameters it is another one.
    assert!(!uses("return text.Starts(\"a\", StringComparison.Ordinal);"));
    // Every object has such a method itself.
    assert!(!uses("return builder.ToString();"));
    assert!(!uses("return beds.ToString();"));
    // What another type extends.
    assert!(uses("bed.Add(null); return null;"));
    assert!(!uses("builder.Add(null); return null;"));
    assert!(!uses("text.Add(null); return null;"));
    // What takes an object takes all.
    assert!(uses("bed.All(); return null;") && uses("text.All(); return null;"));
}

#[test]
fn what_a_type_of_the_framework_has_itself_comes_before_what_extends_more() {
    let beside = [(
        "Extending.cs",
        "namespace Moss { static class Extending { public static int IndexOf<T>(this IEnumerable<T> all, T one) { return 0; } public static bool Contains<T>(this T all, string key) { return true; } public static bool Remove<T>(this T all, string key) { return true; } public static void AddRange<T>(this ICollection<T> all, T[] more) { } public static void Add(this Headers headers, string name) { } public static bool StartsWith(this string text, char first) { return true; } } }",
    )];
    let uses = |body: &str| {
        let user = format!(
            "class User {{ object F(string text, List<Bed> beds, IList<string> names, Dictionary<string, Bed> named, IEnumerable<Bed> all) {{ {body} }} }}"
        );
        used_beside(&user, &beside).contains(&"Extending".to_owned())
    };
    assert!(!uses("return text.IndexOf('a');"));
    assert!(!uses("beds.AddRange(null); return null;"));
    assert!(!uses("var held = new List<int>(); held.Add(1); return held.IndexOf(1);"));
    assert!(!uses("return ((IList<string>)names).Contains(\"a\");"));
    assert!(!uses("return named.Remove(\"a\");"));
    // What the type lacks.
    assert!(uses("return named.Contains(\"a\");"));
    assert!(uses("return all.IndexOf(null);"));
    assert!(uses("names.AddRange(null); return null;"));
    assert!(uses("return text.Contains(\"a\");"));
    // What extends just this type fills a gap in it.
    assert!(uses("return text.StartsWith('a');"));
}

#[test]
fn what_a_type_of_another_library_gives_may_be_extended() {
    let beside = [(
        "Extending.cs",
        "namespace Moss { static class Extending { public static Label Find(this System.Reflection.MemberInfo member) { return null; } } }",
    )];
    let user = "class User { int F(System.Reflection.ParameterInfo parameter) { return parameter.Member.Find().Ink; } }";
    assert_eq!(used_beside(user, &beside), ["Extending", "Label"]);
    let each = "class User { int F(Foreign all) { foreach (var member in all.Members) return member.Find().Ink; return 0; } }";
    assert_eq!(used_beside(each, &beside), ["Extending", "Label"]);
    // The own method comes first.
    let own = "class User : System.Reflection.MemberInfo { int F() { return this.Find(); } int Find() { return 1; } }";
    assert_eq!(used_beside(own, &beside), NOTHING);
}

#[test]
fn a_field_that_is_a_function_gives_what_the_function_gives() {
    assert_eq!(used("class User { Func<Bed> make; int F() { return make().Depth(); } }"), ["Bed", "Ground"]);
    assert_eq!(
        used("class User { Func<Label, Bed> make; int F() { return make(null).Depth(); } }"),
        ["Bed", "Ground", "Label"]
    );
}

#[test]
fn parts_of_a_type_may_lie_in_any_folder() {
    let parts = [
        (
            "all/Tools.cs",
            "namespace Moss { static partial class Tools { public static int Cut() { return 1; } } }",
        ),
        (
            "all/near/Tools.Made.cs",
            "namespace Moss { static partial class Tools { public static int Dig() { return 1; } } }",
        ),
        ("all/near/User.cs", "namespace Moss { class User { int F() { return Tools.Cut(); } } }"),
    ];
    assert_eq!(used_by("all/near/User.cs", &parts), ["all/Tools.cs"]);
    // Two that declare the same are two types of one name, of which the nearer is meant.
    let copies = [
        (
            "all/far/Tools.cs",
            "namespace Moss { static partial class Tools { public static int Cut() { return 1; } } }",
        ),
        (
            "all/near/Tools.cs",
            "namespace Moss { static partial class Tools { public static int Cut() { return 1; } } }",
        ),
        ("all/near/User.cs", "namespace Moss { class User { int F() { return Tools.Cut(); } } }"),
    ];
    assert_eq!(used_by("all/near/User.cs", &copies), ["all/near/Tools.cs"]);
}

#[test]
fn what_a_condition_leaves_out_leaves_names_as_they_were() {
    let user = "\n#if SAFE\nusing Bed = Moss.Taxon;\n#endif\nclass User { Bed bed; }";
    assert_eq!(used(user), ["Bed", "Taxon"]);
    // Where nothing else is called so, the alias tells.
    let user =
        "\n#if SAFE\nusing Sign = Moss.Label;\n#endif\nclass User { int F(Sign sign) { return sign.Ink; } }";
    assert_eq!(used(user), ["Label"]);
    // Of two lists of bases each counts, and the members behind them belong to the class.
    let beside = [(
        "Shelf.cs",
        "namespace Moss {\nclass Shelf\n#if SMALL\n    : Taxon\n#else\n    : Ground, IBed\n#endif\n{ public Label Label; }\n}",
    )];
    let user = "class User { int F(Shelf shelf) { shelf.Depth(); return shelf.Label.Ink; } }";
    assert_eq!(used_beside(user, &beside), ["Ground", "Label", "Shelf"]);
}

#[test]
fn bases_in_both_branches_of_a_condition_are_bases_and_the_members_behind_them_too() {
    let row = "public class Row : \n#if WET\n Bed\n#else\n IBed\n#endif\n { public Crop Crop; }";
    let (row, user) =
        (format!("namespace Moss {{ {row} }}"), "class User { object F(Row row) { return row.Crop; } }");
    let beside = [("Row.cs", &*row)];
    assert_eq!(used_beside(user, &beside), ["Row"]);
    let files: Vec<(&str, &str)> = GARDEN.iter().chain(&beside).copied().collect();
    assert_eq!(used_by("Row.cs", &files), ["Bed.cs", "Taxon.cs"]);
    assert_eq!(
        used_beside("class User { int F(Row row) { return row.Depth(); } }", &beside),
        ["Ground", "Row"]
    );
}

#[test]
fn what_a_class_is_made_of_can_be_used_in_all_of_it() {
    let user = "class User(Bed bed, int wide) : Ground { int F() { return bed.Depth() + wide; } }";
    assert_eq!(used(user), ["Bed", "Ground"]);
    assert_eq!(
        used("struct User(Bed bed) { Label label = bed.Label; int Ink() => label.Ink; }"),
        ["Bed", "Label"]
    );
}
