//! Moves of small projects: what is refused, what stays as it is, what is taken back.

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
            "namespace Moss.Gardens\n{\n    class Garden { Bed bed; }\n}\n"
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
    for before in [
        format!("{only_system}{conditional}"),
        conditional.to_owned(),
        format!("{conditional}{only_system}"),
        format!("\u{feff}{conditional}{only_system}"),
    ] {
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

#[test]
fn a_move_that_could_not_build_is_refused() {
    let project = Project::garden();
    let before = project.snapshot();
    // Tour uses Taxon, so Catalogue would need Visits, which needs Catalogue.
    let answer = project.run(&["move", "--apply", "src/Catalogue/Taxon.cs", "src/Visits/"]);
    assert_eq!(answer.status, 0, "nothing else uses it: {}", answer.all());
    assert_eq!(project.run(&["undo"]).status, 0);
    assert_eq!(project.snapshot(), before);
    project.write("src/Catalogue/Bed.cs", "namespace Catalogue;\npublic class Bed { public Taxon Taxon; }\n");
    project.write(
        "src/Visits/Stop.cs",
        "using Catalogue;\nnamespace Visits;\npublic class Stop { public Bed Bed; }\n",
    );
    let before = project.snapshot();
    let answer = project.run(&["move", "--apply", "src/Catalogue/Taxon.cs", "src/Visits/"]);
    assert_eq!(answer.status, 1, "{}", answer.all());
    assert!(answer.out.contains("projects would refer to each other"), "{}", answer.out);
    assert_eq!(project.snapshot(), before);
}

#[test]
fn internal_types_are_listed_and_widened_on_request() {
    let project = Project::garden();
    project.write("src/Visits/Fee.cs", "namespace Visits\n{\n    [System.Obsolete]\n    class Fee { }\n\n    public class Sale { Fee fee; }\n}\n");
    let answer = project.run(&["move", "name:Visits.Fee", "src/Catalogue/"]);
    assert_eq!(answer.status, 1, "{}", answer.all());
    assert!(answer.out.contains("--widen makes it public"), "{}", answer.out);
    let answer = project.run(&["move", "--apply", "--widen", "name:Visits.Fee", "src/Catalogue/"]);
    assert_eq!(answer.status, 0, "{}", answer.all());
    let expected = "namespace Catalogue\n{\n    [System.Obsolete]\n    public class Fee { }\n}\n";
    assert_eq!(project.read("src/Catalogue/Fee.cs"), expected);
    assert_eq!(
        project.read("src/Visits/Fee.cs"),
        "using Catalogue;\n\nnamespace Visits\n{\n    public class Sale { Fee fee; }\n}\n"
    );
}

#[test]
fn an_import_that_is_written_in_part_stays_where_it_still_leads() {
    let project = Project::new(&[
        ("Moss.csproj", "<Project Sdk=\"Microsoft.NET.Sdk\"></Project>\n"),
        (
            "House.cs",
            "namespace Moss\n{\n    using Vents;\n\n    class House { Vent vent; }\n}\n\nnamespace Moss.Vents\n{\n    class Vent { }\n}\n",
        ),
    ]);
    let answer = project.run(&["move", "--apply", "House.cs", "Glass/"]);
    assert_eq!(answer.status, 0, "{}", answer.all());
    let expected = "namespace Moss.Glass\n{\n    using Vents;\n\n    class House { Vent vent; }\n}\n\nnamespace Moss.Glass.Vents\n{\n    class Vent { }\n}\n";
    assert_eq!(project.read("Glass/House.cs"), expected);
}

#[test]
fn undo_refuses_to_lose_what_came_since() {
    let project = Project::garden();
    assert_eq!(project.run(&["move", "--apply", "src/Visits/Tour.cs", "src/Visits/Tours/"]).status, 0);
    project.write("src/Visits/Tours/Tour.cs", "changed by hand\n");
    let answer = project.run(&["undo"]);
    assert_eq!(answer.status, 2);
    assert!(answer.err.contains("has changed since the move"), "{}", answer.err);
    assert_eq!(project.read("src/Visits/Tours/Tour.cs"), "changed by hand\n");
    assert_eq!(project.run(&["undo", "--force"]).status, 0);
    assert!(project.exists("src/Visits/Tour.cs") && !project.exists("src/Visits/Tours"));
    assert_eq!(project.run(&["undo"]).out, "there is no move to take back\n");
}

#[test]
fn bytes_that_need_not_change_do_not() {
    let project = Project::garden();
    let text = "\u{feff}// caf\u{e9}\r\nusing Catalogue;\r\n\r\nnamespace Visits {\r\n\tpublic class Odd { Taxon t; }   // kept  \r\n}";
    let mut bytes = text.as_bytes().to_vec();
    bytes.extend(b"\r\n// \xff\xfe not UTF-8\r\n");
    std::fs::write(project.root().join("src/Visits/Odd.cs"), &bytes).unwrap();
    let answer = project.run(&["move", "--apply", "src/Catalogue/Taxon.cs", "src/Catalogue/Plants/"]);
    assert_eq!(answer.status, 0, "{}", answer.all());
    let new = std::fs::read(project.root().join("src/Visits/Odd.cs")).unwrap();
    let old_line = b"using Catalogue;\r\n".as_slice();
    let at = bytes.windows(old_line.len()).position(|window| window == old_line).unwrap();
    let mut expected = bytes[..at].to_vec();
    expected.extend(b"using Catalogue.Plants;\r\n");
    expected.extend(&bytes[at + old_line.len()..]);
    assert_eq!(new, expected);
}

#[test]
fn a_read_only_folder_leaves_everything_as_it_was() {
    use std::os::unix::fs::PermissionsExt;
    let project = Project::garden();
    let before = project.snapshot();
    let folder = project.root().join("src/Catalogue");
    std::fs::set_permissions(&folder, std::fs::Permissions::from_mode(0o555)).unwrap();
    // The superuser may write anywhere, so there is nothing to see for it.
    let writable = std::fs::write(folder.join("probe"), "").is_ok();
    let _ = std::fs::remove_file(folder.join("probe"));
    let answer = project.run(&["move", "--apply", "src/Visits/Tour.cs", "src/Catalogue/"]);
    std::fs::set_permissions(&folder, std::fs::Permissions::from_mode(0o755)).unwrap();
    if !writable {
        assert_eq!(answer.status, 3, "{}", answer.all());
        assert!(answer.err.contains("could not be"), "{}", answer.err);
        assert_eq!(project.snapshot(), before);
    }
}

#[test]
fn a_move_that_was_cut_short_is_taken_back_first() {
    let project = Project::garden();
    let before = project.snapshot();
    assert_eq!(
        project.run(&["move", "--apply", "src/Catalogue/Taxon.cs", "src/Catalogue/Plants/"]).status,
        0
    );
    // As if the machine had failed before the last step.
    let journal = project.read(".ferngate/moves/000001/journal.json").replace("\"done\"", "\"begun\"");
    project.write(".ferngate/moves/000001/journal.json", &journal);
    let answer = project.run(&["undo"]);
    assert_eq!(answer.status, 0, "{}", answer.all());
    assert_eq!(project.snapshot(), before);
}

#[test]
fn a_type_does_not_fall_apart() {
    let project = Project::demo();
    let before = project.snapshot();
    let answer = project.run(&["move", "--apply", "src/Mossgrove/Models/Batch.cs", "src/Mossgrove/Shop/"]);
    assert_eq!(answer.status, 1, "{}", answer.all());
    assert!(answer.out.contains("Mossgrove.Models.Batch would fall apart"), "{}", answer.out);
    assert_eq!(project.snapshot(), before);
}

#[test]
fn languages_that_are_only_read_are_not_moved() {
    let project = Project::demo();
    let before = project.snapshot();
    for source in ["letters", "irrigation/soil", "letters/src/Letter.php"] {
        let answer = project.run(&["move", "--apply", source, "elsewhere/"]);
        assert_eq!(answer.status, 2, "{}", answer.all());
        assert!(answer.err.contains("of which no move is known yet"), "{}", answer.err);
        assert_eq!(project.snapshot(), before);
    }
}

/// Of a namespace only what exists under a condition is left: the import would lead nowhere without it.
#[test]
fn an_import_goes_when_only_conditional_code_is_left_behind_it() {
    let project = Project::new(&[
        PROJECT,
        ("Beds/Bed.cs", "namespace Moss.Beds\n{\n    public class Bed { }\n}\n"),
        ("Old/Extra.cs", "#if OLD\nnamespace Moss.Beds\n{\n    public class Extra { }\n}\n#endif\n"),
        ("Gardens/Garden.cs", "using Moss.Beds;\n\nnamespace Moss.Gardens\n{\n    class Garden { }\n}\n"),
        (
            "Gardens/User.cs",
            "using Moss.Beds;\n\nnamespace Moss.Gardens\n{\n    class User { Extra extra; }\n}\n",
        ),
    ]);
    let answer = project.run(&["move", "--apply", "Beds/Bed.cs", "Desk/"]);
    assert_eq!(answer.status, 0, "{}", answer.all());
    assert_eq!(project.read("Gardens/Garden.cs"), "namespace Moss.Gardens\n{\n    class Garden { }\n}\n");
    // Where some of that code is named, which is there under its condition only, so is the import.
    let user = project.read("Gardens/User.cs");
    assert!(user.starts_with("#if OLD\nusing Moss.Beds;\n#endif\n\nnamespace"), "{user}");
}
