//! Moves of small projects, each found wrong once on real code.

#![allow(clippy::unwrap_used, clippy::expect_used, reason = "a test may fail loudly")]

mod common;

use common::Project;

const PROJECT: (&str, &str) = (
    "Moss.csproj",
    "<Project Sdk=\"Microsoft.NET.Sdk\"><PropertyGroup><RootNamespace>Moss</RootNamespace></PropertyGroup></Project>",
);

#[test]
fn a_file_goes_to_the_root_of_the_project() {
    let project = Project::new(&[
        PROJECT,
        ("Beds/Bed.cs", "namespace Moss.Beds\n{\n    public class Bed { }\n}\n"),
        (
            "Gardens/Garden.cs",
            "using Moss.Beds;\n\nnamespace Moss.Gardens\n{\n    class Garden { Bed bed; }\n}\n",
        ),
    ]);
    let before = project.snapshot();
    for root in ["./", "."] {
        let answer = project.run(&["move", "--apply", "Beds/Bed.cs", root]);
        assert_eq!(answer.status, 0, "{}", answer.all());
        assert_eq!(project.read("Bed.cs"), "namespace Moss\n{\n    public class Bed { }\n}\n");
        assert_eq!(
            project.read("Gardens/Garden.cs"),
            "\nnamespace Moss.Gardens\n{\n    class Garden { Bed bed; }\n}\n"
        );
        assert_eq!(project.run(&["undo"]).status, 0);
        assert_eq!(project.snapshot(), before);
    }
}

/// Usings under a condition are no neighbours for one that always counts.
#[test]
fn an_import_that_always_counts_stands_outside_of_conditions() {
    let bed = ("Beds/Bed.cs", "namespace Moss.Beds\n{\n    public class Bed { }\n}\n");
    let row = |usings: &str| format!("{usings}\nnamespace Moss.Beds\n{{\n    class Row {{ Bed bed; }}\n}}\n");
    let only_system = "using System;\n";
    let conditional = "#if OLD\nusing Moss.Old;\n#else\nusing Moss.Young;\n#endif\n";
    for before in
        [format!("{only_system}{conditional}"), conditional.to_owned(), format!("{conditional}{only_system}")]
    {
        let project = Project::new(&[PROJECT, bed, ("Beds/Row.cs", &row(&before))]);
        assert_eq!(project.run(&["move", "--apply", "Beds/Bed.cs", "Desk/"]).status, 0);
        let text = project.read("Beds/Row.cs");
        let (usings, _) = text.split_once("namespace").unwrap();
        let at = usings.find("using Moss.Desk;").unwrap_or_else(|| panic!("{text}"));
        let (start, end) = (usings.find("#if").unwrap(), usings.find("#endif").unwrap());
        assert!(at < start || at > end, "{text}");
    }
}

/// What exists under a condition only must be imported under it only.
#[test]
fn an_import_stands_under_the_condition_of_what_it_imports() {
    let project = Project::new(&[
        PROJECT,
        (
            "Beds/Printer.cs",
            "// for desks\n#if DESK\nnamespace Moss.Beds\n{\n    public class Printer { }\n}\n#endif\n",
        ),
        (
            "Beds/Bed.cs",
            "using System;\n\nnamespace Moss.Beds\n{\n    class Bed\n    {\n#if DESK\n        Printer printer;\n#endif\n    }\n}\n",
        ),
        (
            "Beds/Row.cs",
            "#if DESK\nusing System;\n\nnamespace Moss.Beds\n{\n    class Row { Printer printer; }\n}\n#endif\n",
        ),
    ]);
    let answer = project.run(&["move", "--apply", "Beds/Printer.cs", "Desk/"]);
    assert_eq!(answer.status, 0, "{}", answer.all());
    assert!(
        project.read("Beds/Bed.cs").starts_with("#if DESK\nusing Moss.Desk;\n#endif\nusing System;\n\n")
            || project
                .read("Beds/Bed.cs")
                .starts_with("using System;\n#if DESK\nusing Moss.Desk;\n#endif\n\n"),
        "{}",
        project.read("Beds/Bed.cs")
    );
    // Here all stands under it anyway.
    assert!(
        project.read("Beds/Row.cs").starts_with("#if DESK\nusing System;\nusing Moss.Desk;\n\n"),
        "{}",
        project.read("Beds/Row.cs")
    );
    // Where something else of the namespace is always there, so is the import.
    let other = "namespace Moss.Desk\n{\n    public class Lamp { }\n}\n";
    let project = Project::new(&[
        PROJECT,
        ("Beds/Printer.cs", "#if DESK\nnamespace Moss.Beds\n{\n    public class Printer { }\n}\n#endif\n"),
        ("Beds/Bed.cs", "namespace Moss.Beds\n{\n    class Bed { Printer printer; }\n}\n"),
        ("Desk/Lamp.cs", other),
    ]);
    assert_eq!(project.run(&["move", "--apply", "Beds/Printer.cs", "Desk/"]).status, 0);
    assert!(
        project.read("Beds/Bed.cs").starts_with("using Moss.Desk;\n\n"),
        "{}",
        project.read("Beds/Bed.cs")
    );
}
