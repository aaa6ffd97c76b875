//! Members used of values whose types are not spelled: the tie runs to the file that declares the member, and only
//! where the types on the way are spelled somewhere.

#![allow(clippy::unwrap_used, clippy::expect_used, reason = "a test may fail loudly")]

mod common;

use common::{Project, used_by};

/// A class `User` in Java, beside what the tests use.
fn java(body: &str) -> Vec<String> {
    let user = format!("package moss; import java.util.*; class User extends Bed {{ {body} }}");
    let used = used_by(
        "User.java",
        &[
            ("User.java", &user),
            (
                "Bed.java",
                "package moss; class Bed extends Plot { Label label; Label label() { return label; } }",
            ),
            ("Plot.java", "package moss; class Plot implements Measured { int width; void dig() {} }"),
            (
                "Measured.java",
                "package moss; interface Measured { default int area() { return 1; } default void dig() {} }",
            ),
            (
                "Label.java",
                "package moss; class Label { Ink ink; Ink ink() { return ink; } List<Ink> inks() { return null; } Mood mood; }",
            ),
            (
                "Ink.java",
                "package moss; class Ink { String colour; String colour() { return colour; } Ink[] mixed; }",
            ),
            ("Mood.java", "package moss; enum Mood { WET, DRY; void say() {} }"),
            ("Box.java", "package moss; class Box<T> { T first() { return null; } }"),
        ],
    );
    used.into_iter().filter(|file| file != "Bed.java").map(|file| file.replace(".java", "")).collect()
}

#[test]
fn java_chains_lead_through_declared_types() {
    assert_eq!(java("void f(Bed bed) { bed.label().ink().colour(); }"), ["Ink", "Label"]);
    assert_eq!(java("void f() { label.ink.mixed[0].colour = null; }"), ["Ink", "Label"]);
    assert_eq!(java("void f(Bed bed) { ((Label) bed.thing()).ink(); }"), ["Label"]);
    assert_eq!(java("void f() { new Bed().label().mood.say(); }"), ["Label", "Mood"]);
    assert_eq!(java("Runnable r = super.label()::ink;"), ["Label"]);
    // A method of the same name is another member than the field.
    assert_eq!(java("void label(int n) {} void f() { label(2); label.ink.colour(); }"), ["Ink", "Label"]);
    // Of a value that nothing is known of, nothing is said.
    assert!(java("void f() { unknown().colour(); other.colour(); \"x\".colour(); }").is_empty());
    assert!(java("void f(Bed bed) { bed.label(); String colour; colour.ink(); }").is_empty());
}

#[test]
fn java_members_are_inherited_classes_first() {
    assert_eq!(java("void f() { width = 2; }"), ["Plot"]);
    assert_eq!(java("void f() { dig(); }"), ["Plot"]);
    assert_eq!(java("void f() { this.area(); }"), ["Measured"]);
    assert_eq!(java("void dig() { super.dig(); }"), ["Plot"]);
    // An own member hides the inherited one, a local hides a field.
    assert!(java("int width; void f() { width = 2; this.width = 3; }").is_empty());
    assert!(java("void f(int width) { width = 2; }").is_empty());
}

#[test]
fn java_objects_around_are_called_by_their_class() {
    let inside = |code: &str| java(&format!("class Own {{ Object label; void f() {{ {code} }} }}"));
    assert_eq!(inside("User.this.label.ink();"), ["Label"]);
    assert_eq!(inside("User.this.label().ink.colour();"), ["Ink", "Label"]);
    assert_eq!(inside("User.super.label().ink();"), ["Label"]);
    assert_eq!(inside("User.this.dig();"), ["Plot"]);
    assert_eq!(inside("this.label.ink(); label.ink();"), [""; 0]);
    assert_eq!(
        java("Object o = new Object() { int dig() { return 1; } void f() { User.this.dig(); } };"),
        ["Plot"]
    );
}

#[test]
fn java_classes_may_begin_as_values_do() {
    let used = |body: &str| {
        let user = format!("package moss; class User extends Plot {{ {body} }}");
        let files = [
            ("User.java", &*user),
            ("tool.java", "package moss; class tool { static int dig; static tool take() { return null; } }"),
            ("Plot.java", "package moss; class Plot { Plot tool; Plot take() { return this; } }"),
            ("Path.java", "package moss; class Path { static int moss; }"),
        ];
        used_by("User.java", &files)
    };
    let other = |body: &str| used(body).contains(&"tool.java".to_owned());
    // What derives from a class with such a field means that.
    assert!(!other("void f() { tool.take(); }"));
    assert!(!other("void f(Plot tool) { tool.take(); }"));
    assert!(other("void f() { moss.tool.take(); int deep = moss.tool.dig; }"));
    let free = |body: &str| {
        let user = format!("package moss; class User {{ {body} }}");
        let tool =
            ("tool.java", "package moss; class tool { static int dig; static tool take() { return null; } }");
        used_by("User.java", &[("User.java", &*user), tool]) == ["tool.java"]
    };
    assert!(free("int f() { return tool.take().dig; }") && free("int f() { return tool.dig + 1; }"));
    assert!(!free("int tool; int f() { return tool.dig; }"));
    assert!(!free("int f(String tool) { return tool.length(); }"));
    assert!(!free(
        "void f() { for (String tool : all()) tool.length(); tools.forEach(tool -> tool.trim()); }"
    ));
}

#[test]
fn java_locals_take_the_type_of_their_first_value() {
    assert_eq!(java("void f() { var own = label(); own.ink(); }"), ["Label"]);
    assert_eq!(java("void f() { for (var ink : label().inks()) ink.colour(); }"), ["Ink", "Label"]);
    assert_eq!(java("void f() { label().inks().get(0).colour(); }"), ["Ink", "Label"]);
    assert_eq!(java("void f() { label().inks().forEach(ink -> ink.colour()); }"), ["Ink", "Label"]);
    assert_eq!(java("void f(Box<Label> box) { box.first().ink(); }"), ["Box", "Label"]);
    assert_eq!(
        java("void f() { switch (label.mood) { case WET, DRY -> dig(); } }"),
        ["Label", "Mood", "Plot"]
    );
    // What is seen around an anonymous class is seen behind it too.
    assert_eq!(
        java("void f(Bed bed) { new Runnable() { public void run() { int bed; } }; bed.label().ink(); }"),
        ["Label"]
    );
}

/// A class `User` in C#, beside what the tests use.
fn csharp(body: &str) -> Vec<String> {
    let user = format!(
        "using System.Collections.Generic; using System.Linq; using System.Threading.Tasks;\n\
         namespace Moss {{ class User : Bed {{ {body} }} }}"
    );
    let used = used_by(
        "User.cs",
        &[
            ("User.cs", &user),
            (
                "Bed.cs",
                "namespace Moss { class Bed : Plot { public Label Label { get; set; } public List<Label> Labels; public Task<Label> Find(int id) { return null; } public Dictionary<int, Label> ById; } }",
            ),
            (
                "Plot.cs",
                "namespace Moss { abstract class Plot { public int Width; protected virtual void Dig() {} } }",
            ),
            ("Label.cs", "namespace Moss { class Label { public Ink Ink; public Ink Fresh() => Ink; } }"),
            ("Ink.cs", "namespace Moss { class Ink { public string Colour; } }"),
        ],
    );
    used.into_iter().filter(|file| file != "Bed.cs").map(|file| file.replace(".cs", "")).collect()
}

#[test]
fn csharp_chains_lead_through_declared_types() {
    assert_eq!(csharp("void F(Bed bed) { bed.Label.Ink.Colour = null; }"), ["Ink", "Label"]);
    assert_eq!(csharp("void F(Bed bed) { bed?.Label?.Fresh()!.Colour.Trim(); }"), ["Ink", "Label"]);
    assert_eq!(csharp("void F(object bed) { (bed as Bed).Label.Fresh(); }"), ["Label"]);
    assert_eq!(csharp("void F(object any) { if (any is Bed bed) bed.Label.Fresh(); }"), ["Label"]);
    assert_eq!(csharp("string F() => $\"{Label.Fresh()}\";"), ["Label"]);
    assert!(csharp("void F(dynamic any) { any.Colour = Make().Ink; }").is_empty());
}

#[test]
fn csharp_members_are_inherited() {
    assert_eq!(csharp("int F() { return Width; }"), ["Plot"]);
    assert_eq!(csharp("protected override void Dig() { base.Dig(); }"), ["Plot"]);
    assert_eq!(csharp("void F() { this.Dig(); }"), ["Plot"]);
    assert!(csharp("new int Width; int F() { return Width; }").is_empty());
}

#[test]
fn csharp_locals_take_the_type_of_their_first_value() {
    assert_eq!(csharp("void F() { var own = Label; own.Fresh(); }"), ["Label"]);
    assert_eq!(csharp("void F() { foreach (var own in Labels) own.Fresh(); }"), ["Label"]);
    assert_eq!(csharp("void F() { Labels[0].Fresh(); ById[1].Ink.Colour = null; }"), ["Ink", "Label"]);
    assert_eq!(csharp("void F() { Labels.Where(own => own.Fresh() != null); }"), ["Label"]);
    assert_eq!(csharp("async Task F() { var own = await Find(1); own.Fresh(); }"), ["Label"]);
    assert_eq!(csharp("async Task F() { (await Find(1)).Fresh(); }"), ["Label"]);
}

#[test]
fn why_names_the_member() {
    let project = Project::new(&[
        ("ferngate.toml", "[modules]\nbeds = \"beds\"\nlabels = \"labels\"\n"),
        ("labels/Label.java", "package labels; public class Label { public Ink ink; }"),
        ("labels/Ink.java", "package labels; public class Ink { public String colour; }"),
        (
            "beds/Bed.java",
            "package beds; class Bed { labels.Label label; void f() { label.ink.colour.trim(); } }",
        ),
    ]);
    let answer = project.run(&["why", "beds", "labels"]);
    assert!(answer.out.contains("labels.Ink.colour"), "{}", answer.all());
    assert!(answer.out.contains("beds/Bed.java:1:68"), "{}", answer.all());
}

#[test]
fn overloads_are_told_apart_by_their_arguments() {
    let plot = (
        "Plot.java",
        "package moss; class Plot { Ink dig(int depth) { return null; } void dig(int... all) {} }",
    );
    let bed = ("Bed.java", "package moss; class Bed extends Plot { Label dig() { return null; } }");
    let label = ("Label.java", "package moss; class Label { void print() {} }");
    let ink = ("Ink.java", "package moss; class Ink { void print() {} }");
    let uses = |body: &str| {
        let user = format!("package moss; class User {{ void f(Bed bed) {{ {body} }} }}");
        used_by("User.java", &[("User.java", &user), plot, bed, label, ink])
    };
    assert_eq!(uses("bed.dig().print();"), ["Bed.java", "Label.java"]);
    assert_eq!(uses("bed.dig(1).print();"), ["Bed.java", "Ink.java", "Plot.java"]);
    assert_eq!(uses("bed.dig(g(1, 2)).print();"), ["Bed.java", "Ink.java", "Plot.java"]);
    assert_eq!(uses("bed.dig(new int[] { 1, 2 }).print();"), ["Bed.java", "Ink.java", "Plot.java"]);
    assert_eq!(uses("bed.dig(1, 2, 3);"), ["Bed.java", "Plot.java"]);
    // One that no overload takes is the nearest all the same.
    assert_eq!(uses("Ink ink = null; ink.print(1);"), ["Bed.java", "Ink.java"]);

    let plot =
        ("Plot.cs", "namespace Moss { class Plot { public Ink Dig(int depth, int width = 1) => null; } }");
    let bed = ("Bed.cs", "namespace Moss { class Bed : Plot { public Label Dig() => null; } }");
    let label = ("Label.cs", "namespace Moss { class Label { public void Print() {} } }");
    let ink = ("Ink.cs", "namespace Moss { class Ink { public void Print() {} } }");
    let uses = |body: &str| {
        let user = format!("namespace Moss {{ class User {{ void F(Bed bed) {{ {body} }} }} }}");
        used_by("User.cs", &[("User.cs", &user), plot, bed, label, ink])
    };
    assert_eq!(uses("bed.Dig().Print();"), ["Bed.cs", "Label.cs"]);
    assert_eq!(uses("bed.Dig(1).Print();"), ["Bed.cs", "Ink.cs", "Plot.cs"]);
    assert_eq!(uses("bed.Dig(1, width: 2).Print();"), ["Bed.cs", "Ink.cs", "Plot.cs"]);
}

#[test]
fn overloads_are_told_apart_by_their_first_argument() {
    let beside = [
        ("Mode.java", "package moss; enum Mode { WET, DRY }"),
        ("Part.java", "package moss; enum Part { LEFT }"),
        (
            "Config.java",
            "package moss; class Config { boolean isOn(Mode mode) { return true; } void say(Class<?> of, int count) {} }",
        ),
        (
            "Bed.java",
            "package moss; class Bed extends Config { boolean isOn(Part part) { return true; } void say(Part of, int count) {} }",
        ),
    ];
    let used = |body: &str| {
        let user = format!("package moss; class User {{ void f(Bed bed, Class<?> type) {{ {body} }} }}");
        let files: Vec<(&str, &str)> = beside.iter().copied().chain([("User.java", &*user)]).collect();
        let used = used_by("User.java", &files).into_iter().map(|file| file.replace(".java", ""));
        used.filter(|file| file != "Bed").collect::<Vec<_>>()
    };
    assert_eq!(used("bed.isOn(Mode.DRY);"), ["Config", "Mode"]);
    assert_eq!(used("bed.isOn(Part.LEFT);"), ["Part"]);
    assert_eq!(used("bed.isOn(Part.LEFT); bed.isOn(Mode.WET);"), ["Config", "Mode", "Part"]);
    assert_eq!(used("bed.say(type, 3);"), ["Config"]);
    assert_eq!(used("bed.say(Part.LEFT, 3);"), ["Part"]);
    // Of what is not known the nearest is meant.
    assert_eq!(used("bed.isOn(any());"), [""; 0]);
}

#[test]
fn type_parameters_are_at_least_what_they_extend() {
    let ink = ("Ink.java", "package moss; class Ink extends Fluid {}");
    let fluid = ("Fluid.java", "package moss; class Fluid { void pour() {} }");
    let uses = |user: &str| used_by("User.java", &[("User.java", user), ink, fluid]);
    let both = ["Fluid.java", "Ink.java"];
    assert_eq!(uses("package moss; class User<I extends Ink> { I ink; void f() { ink.pour(); } }"), both);
    assert_eq!(uses("package moss; class User { <I extends Ink> void f(I ink) { ink.pour(); } }"), both);
    assert_eq!(
        uses(
            "package moss; class User<I extends Ink & Runnable> { I ink() { return null; } void f() { ink().pour(); } }"
        ),
        both
    );
    assert_eq!(
        uses("package moss; class User<I> { I ink; void f(Ink other) { ink.pour(); } }"),
        ["Ink.java"]
    );

    let ink = ("Ink.cs", "namespace Moss { class Ink : Fluid {} }");
    let fluid = ("Fluid.cs", "namespace Moss { class Fluid { public void Pour() {} } }");
    let user = "namespace Moss { class User<I> where I : Ink, new() { I ink; void F() { ink.Pour(); } } }";
    assert_eq!(used_by("User.cs", &[("User.cs", user), ink, fluid]), ["Fluid.cs", "Ink.cs"]);
}

#[test]
fn what_makes_an_object_step_by_step_gives_itself() {
    let maker = (
        "Maker.java",
        "package moss; abstract class Maker<M extends Maker<M>> { M wide(int cm) { return null; } }",
    );
    let beds = (
        "BedMaker.java",
        "package moss; class BedMaker extends Maker<BedMaker> { Bed make() { return null; } }",
    );
    let bed = ("Bed.java", "package moss; class Bed { void plant() {} }");
    let user = "package moss; class User { void f() { new BedMaker().wide(3).make().plant(); } }";
    let used = used_by("User.java", &[("User.java", user), maker, beds, bed]);
    assert_eq!(used, ["Bed.java", "BedMaker.java", "Maker.java"]);
}

#[test]
fn functions_of_kotlin_that_extend_a_type_are_used_behind_a_dot() {
    let shades = (
        "Shades.kt",
        "package moss\nfun String.shaded() = this\nprivate fun String.dimmed() = this\nfun lit() = 1\n",
    );
    let bed = ("Bed.kt", "package moss\nclass Bed { fun watered() = 1 }\nfun Int.watered() = 2\n");
    let uses = |package: &str, body: &str| {
        let user = format!("package {package}\nfun f(any: String, bed: Any?) {{ {body} }}\n");
        used_by("User.kt", &[("User.kt", &user), shades, bed])
    };
    assert_eq!(uses("moss", "any.shaded()"), ["Shades.kt"]);
    assert_eq!(uses("moss", "g(1)?.shaded()"), ["Shades.kt"]);
    assert_eq!(uses("moss", "lit()"), ["Shades.kt"]);
    // A private function, one that extends nothing, a property, a name that a method has too, another package.
    assert!(uses("moss", "any.dimmed(); any.lit(); any.shaded; bed.watered()").is_empty());
    assert!(uses("fern", "any.shaded()").is_empty());
    assert_eq!(uses("fern\nimport moss.*", "any.shaded()"), ["Shades.kt"]);
}

#[test]
fn properties_of_kotlin_that_extend_a_type_are_used_behind_a_dot() {
    let shades = (
        "Shades.kt",
        "package moss\nval String.shade: Int get() = 1\nprivate val String.dim: Int get() = 1\nval lit = 1\n",
    );
    let bed = ("Bed.kt", "package moss\nclass Bed(val width: Int)\nval String.width: Int get() = 2\n");
    let uses = |body: &str| {
        let user = format!("package moss\nfun f(any: String, bed: Any?) {{ {body} }}\n");
        used_by("User.kt", &[("User.kt", &user), shades, bed])
    };
    assert_eq!(uses("g(any.shade)"), ["Shades.kt"]);
    assert_eq!(uses("any.shade.toString()"), ["Shades.kt"]);
    assert_eq!(uses("g(1)?.shade"), ["Shades.kt"]);
    // A private property, one that extends nothing, a name that a property of a class has too.
    assert!(uses("any.dim; any.lit; bed.width").is_empty());
}
