//! The built program on small projects: answers, exit status, and what happens when something is wrong.

#![allow(clippy::unwrap_used, clippy::expect_used, dead_code, reason = "a test may fail loudly")]

mod common;

use common::Project;

/// Two projects; `visits` uses `catalogue`, and one line of `catalogue` uses `visits`.
fn garden() -> Project {
    Project::new(&[
        ("src/Catalogue/Catalogue.csproj", "<Project Sdk=\"Microsoft.NET.Sdk\"></Project>\n"),
        ("src/Catalogue/Taxon.cs", "namespace Catalogue;\npublic class Taxon { }\n"),
        (
            "src/Visits/Visits.csproj",
            "<Project Sdk=\"Microsoft.NET.Sdk\">\n  <ItemGroup>\n    <ProjectReference Include=\"../Catalogue/Catalogue.csproj\" />\n  </ItemGroup>\n</Project>\n",
        ),
        (
            "src/Visits/Tour.cs",
            "using Catalogue;\n\nnamespace Visits;\npublic class Tour { public Taxon Seen; }\n",
        ),
    ])
}

fn with_map(map: &str) -> Project {
    let project = garden();
    project.write("ferngate.toml", map);
    project
}

const MODULES: &str = "[modules]\ncatalogue = \"src/Catalogue\"\nvisits = \"src/Visits\"\n";

#[test]
fn a_stranger_sees_what_is_here() {
    let answer = garden().run(&["survey"]);
    assert_eq!(answer.status, 0, "{}", answer.all());
    assert_eq!(answer.first_line(), "garden: 2 files, 6 lines, 2 modules by default, no cycles");
    assert!(answer.out.contains("Visits  →  Catalogue"), "{}", answer.out);
    assert!(answer.out.trim_end().ends_with("write a map of these modules"), "{}", answer.out);
}

#[test]
fn the_first_map_fits_the_code() {
    let project = garden();
    let answer = project.run(&["init"]);
    assert_eq!((answer.status, answer.first_line()), (0, "ferngate.toml written: 2 modules, no cycles"));
    let map = project.read("ferngate.toml");
    assert!(map.contains("layers = [\n  \"catalogue\",\n  \"visits\",\n]"), "{map}");
    let answer = project.run(&["check"]);
    assert_eq!(answer.status, 0, "{}", answer.all());
    let answer = project.run(&["init"]);
    assert_eq!(answer.status, 2);
    assert!(answer.err.contains("there is a map already"), "{}", answer.err);
}

#[test]
fn a_broken_rule_is_quoted_with_its_line() {
    let rule = "visits must not use catalogue because tickets know no plants";
    let project = with_map(&format!("rules = [\"{rule}\"]\n{MODULES}"));
    let answer = project.run(&["check"]);
    assert_eq!(answer.status, 1);
    let expected = "garden: 1 error (2 files, 6 lines in 2 modules)

not-permitted  1
  visits → catalogue  1 place
  src/Visits/Tour.cs:4:28  `visits` may not use `Taxon` of `catalogue`
      4 | public class Tour { public Taxon Seen; }
        |                            ^^^^^
      rule: \"visits must not use catalogue because tickets know no plants\"
      way out: move `Taxon` to a module that `visits` may use, or add \"visits may use catalogue because …\" to the rules

next: ferngate explain not-permitted  what it means, and ways out
";
    assert_eq!(answer.out, expected);
    let answer = project.run(&["why", "visits", "catalogue"]);
    assert_eq!(answer.status, 1);
    assert!(answer.out.contains("because: tickets know no plants"), "{}", answer.out);
    assert!(answer.out.contains("src/Visits/Tour.cs:4:28"), "{}", answer.out);
}

#[test]
fn the_demo_has_everything_that_its_readme_lists() {
    let project = Project::demo();
    let readme = project.read("README.md");
    let answer = project.run(&["check", "--json"]);
    assert_eq!(answer.status, 1);
    let found = answer.json();
    let count = |name: &str| {
        let findings = found["findings"].as_array().unwrap();
        findings.iter().filter(|finding| finding["finding"] == name).count()
    };
    let listed: Vec<&str> =
        readme.lines().filter(|line| line.starts_with("| ") && line.contains(" | `")).collect();
    assert!(listed.len() >= 10);
    for line in listed {
        let name = line.trim_end_matches(" |").rsplit(" | ").next().unwrap().trim_matches('`');
        let planted = readme.lines().filter(|other| other.ends_with(&format!("| `{name}` |"))).count();
        assert_eq!(count(name), planted, "{name}");
    }
    assert_eq!(found["errors"].as_u64().unwrap() + found["warnings"].as_u64().unwrap(), 26);
}

#[test]
fn a_wrong_map_is_answered_with_the_place_and_the_nearest_name() {
    for (map, place, message, hint) in [
        (
            "layer = []\n[modules]\na = \"src\"\n",
            ":1:1",
            "`layer` is no key of a map",
            "did you mean `layers`?",
        ),
        (
            "[modules]\na = { paths = \"src\" }\n",
            ":2:7",
            "`paths` is no key of a module",
            "did you mean `path`?",
        ),
        (
            "rules = [\"vists may use nothing\"]\n[modules]\nvisits = \"src\"\n",
            ":1:10",
            "no module `vists`",
            "did you mean `visits`?",
        ),
        ("layers = [\"core\"]\n[modules]\nvisits = \"src\"\n", ":1:11", "no module `core`", ""),
        ("[checks]\ncycles = \"off\"\n", ":2:1", "`cycles` is no finding", "did you mean `cycle`?"),
        ("[modules]\na = \"../x\"\n", ":2:5", "must be a path below the project's root", ""),
        ("[modules\n", ":1:", "the map is not TOML", ""),
    ] {
        let answer = with_map(map).run(&["check"]);
        assert_eq!(answer.status, 2, "{map}: {}", answer.all());
        assert!(answer.err.contains(&format!("ferngate.toml{place}")), "{map}: {}", answer.err);
        assert!(answer.err.contains(message) && answer.err.contains(hint), "{map}: {}", answer.err);
    }
}

#[test]
fn two_modules_cannot_claim_a_file_equally() {
    let answer = with_map("[modules]\na = \"src\"\nb = \"src\"\n").run(&["check"]);
    assert_eq!(answer.status, 2);
    assert!(answer.err.contains("belongs to both `a` and `b`"), "{}", answer.err);
}

#[test]
fn wrong_calls_change_nothing() {
    let project = garden();
    project.write(
        "src/Catalogue/Tour.cs",
        "namespace Catalogue;\ninternal class Bed { }\nclass Pot { class Rim { } }\n",
    );
    let before = project.snapshot();
    for (call, status, message) in [
        (
            &["move", "--apply", "src/Nothing.cs", "src/Catalogue/"][..],
            2,
            "there is nothing at src/Nothing.cs",
        ),
        (
            &["move", "--apply", "src/Visits/Tour.cs", "src/Catalogue/"],
            2,
            "src/Catalogue/Tour.cs exists already",
        ),
        (&["move", "--apply", "src/Visits/Tour.cs", "../elsewhere/"], 2, "is not a path inside the project"),
        (&["move", "--apply", "src/Visits", "src/Visits/Inner/"], 2, "cannot be moved into itself"),
        (&["move", "--apply", "name:Visits.Turn", "src/Catalogue/"], 2, "no type is declared"),
        (&["move", "--apply", "name:Catalogue.Pot.Rim", "src/Visits/"], 2, "stands inside another type"),
        (&["move", "--apply", "src/Visits/Tour.cs"], 2, "say what shall move"),
        (&["why", "visit", "catalogue"], 2, "there is no module"),
        (&["explain", "circle"], 2, "there is no finding"),
        (&["check", "-C", "nowhere"], 2, "is no folder to work in"),
        (&["check", "--map", "none.toml"], 2, "there is no map at"),
        (&["draw", "-o", "picture.bmp"], 2, "does not say in which format"),
    ] {
        let answer = project.run(call);
        assert_eq!(answer.status, status, "{call:?}: {}", answer.all());
        assert!(answer.err.contains(message), "{call:?}: {}", answer.err);
        assert_eq!(project.snapshot(), before, "{call:?}");
    }
}

#[test]
fn a_move_that_could_not_build_is_refused() {
    let project = garden();
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
    let project = garden();
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
    let project = garden();
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
    let project = garden();
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
fn odd_files_are_survived_and_said_once() {
    let project = garden();
    std::fs::write(project.root().join("src/Visits/Binary.cs"), b"class \0\0 {").unwrap();
    project
        .write("src/Visits/Long.cs", &format!("class Long {{ string s = \"{}\"; }}", "x".repeat(10_000_000)));
    project.write("src/Visits/Deep.cs", &"(".repeat(1_000_000));
    project.write("src/Visits/Deeper.cs", &"class A { B<".repeat(200_000));
    project.write("src/Lost.sln", "Project(\"{1}\") = \"Gone\", \"Gone\\Gone.csproj\", \"{2}\"\n");
    std::os::unix::fs::symlink(".", project.root().join("src/Loop")).unwrap();
    let answer = project.run(&["check"]);
    assert_eq!(answer.status, 1, "{}", answer.all());
    assert_eq!(answer.err.matches("src/Visits/Binary.cs is not text").count(), 1, "{}", answer.err);
    assert!(
        answer.out.contains("Lost.sln lists src/Gone/Gone.csproj, which does not exist"),
        "{}",
        answer.out
    );
}

#[test]
fn a_read_only_folder_leaves_everything_as_it_was() {
    use std::os::unix::fs::PermissionsExt;
    let project = garden();
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
    let project = garden();
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
fn every_command_answers_as_json() {
    let project = with_map(MODULES);
    for call in [
        &["survey"][..],
        &["check"],
        &["why", "visits", "catalogue"],
        &["cycles"],
        &["draw"],
        &["export", "--level", "file"],
        &["explain"],
        &["explain", "cycle"],
        &["move", "src/Visits/Tour.cs", "src/Visits/Tours/"],
        &["undo"],
        &["demo", "unpacked"],
    ] {
        let mut call = call.to_vec();
        call.push("--json");
        let answer = project.run(&call);
        assert_eq!(answer.status, 0, "{call:?}: {}", answer.all());
        assert!(answer.json()["schema"].as_str().unwrap().starts_with("ferngate/"), "{call:?}");
    }
    assert!(project.exists("unpacked/Mossgrove.sln"));
}

#[test]
fn the_graph_is_written_as_sorted_rows() {
    let answer = garden().run(&["export", "--level", "file"]);
    assert_eq!(answer.out, "from,to,references\nsrc/Visits/Tour.cs,src/Catalogue/Taxon.cs,1\n");
    let answer = garden().run(&["export", "--level", "namespace"]);
    assert_eq!(answer.out, "from,to,references\nVisits,Catalogue,1\n");
}

#[test]
fn the_answer_is_the_same_every_time() {
    let project = Project::demo();
    for call in [
        &["check", "--all"][..],
        &["survey", "--all"],
        &["draw", "--as", "svg"],
        &["export", "--level", "file"],
    ] {
        let first = project.run(call).out;
        for _ in 0..3 {
            assert_eq!(project.run(call).out, first);
        }
    }
}

#[test]
fn pictures_are_drawn_in_every_format() {
    let project = Project::demo();
    for format in ["svg", "png", "dot", "txt"] {
        let file = format!("graph.{format}");
        assert_eq!(project.run(&["draw", "-o", &file]).status, 0);
        let bytes = std::fs::read(project.root().join(&file)).unwrap();
        let start: &[u8] = match format {
            "svg" => b"<svg ",
            "png" => b"\x89PNG",
            "dot" => b"digraph",
            _ => b"Mossgrove: 35 modules",
        };
        assert!(bytes.starts_with(start), "{format}");
    }
}

#[test]
fn a_closed_pipe_is_no_failure() {
    let project = Project::demo();
    let call =
        format!("{} survey --all | head -n 1; echo \"${{PIPESTATUS[0]}}\"", env!("CARGO_BIN_EXE_ferngate"));
    let output =
        std::process::Command::new("bash").arg("-c").arg(call).current_dir(project.root()).output().unwrap();
    let text = String::from_utf8_lossy(&output.stdout).into_owned();
    assert!(text.ends_with("\n0\n"), "{text}{}", String::from_utf8_lossy(&output.stderr));
}

#[test]
fn the_documents_name_every_finding_and_every_command() {
    let root = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    let findings = std::fs::read_to_string(root.join("docs/findings.md")).unwrap();
    let project = Project::new(&[]);
    for finding in project.run(&["explain", "--json"]).json()["findings"].as_array().unwrap() {
        let name = finding["finding"].as_str().unwrap();
        let heading = format!("## {name}\n\n{}", finding["meaning"].as_str().unwrap());
        assert!(findings.contains(&heading), "docs/findings.md lacks: {heading}");
    }
    let readme = std::fs::read_to_string(root.join("README.md")).unwrap();
    for line in readme.lines().filter(|line| line.starts_with("![")) {
        let path = line.split(['(', ')']).nth(1).unwrap();
        assert!(root.join(path).is_file(), "{path}");
    }
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

#[test]
fn mentions_count_on_request_only() {
    let project = Project::demo();
    let plain = project.run(&["why", "letters-members", "letters"]);
    assert!(plain.first_line().ends_with("may not use letters, and does not"), "{}", plain.all());
    let weak = project.run(&["why", "letters-members", "letters", "--weak"]);
    assert!(weak.first_line().ends_with("but does: 1 reference"), "{}", weak.all());
    assert!(weak.out.contains("letters/src/Members/Register.php:10:28"), "{}", weak.all());
}

/// Modules by default: `name folder` each.
fn default_modules(files: &[(&str, &str)]) -> Vec<String> {
    let survey = Project::new(files).run(&["survey", "--json"]).json();
    let row = |module: &serde_json::Value| {
        format!("{} {}", module["module"].as_str().unwrap(), module["folder"].as_str().unwrap())
    };
    let mut found: Vec<String> = survey["modules"].as_array().unwrap().iter().map(row).collect();
    found.sort();
    found
}

#[test]
fn modules_are_what_people_would_say() {
    let class = "package x; class A { }";
    let found = default_modules(&[
        ("build.gradle", ""),
        ("src/main/java/org/garden/beds/A.java", class),
        ("src/main/java/org/garden/tools/A.java", class),
        ("src/main/java/org/garden/App.java", class),
        ("src/test/java/org/garden/beds/ATest.java", class),
    ]);
    assert_eq!(
        found,
        [
            "beds src/main/java/org/garden/beds",
            "garden src/main/java/org/garden",
            "test src/test",
            "tools src/main/java/org/garden/tools"
        ]
    );
    let found = default_modules(&[
        ("composer.json", "{ \"name\": \"garden/all\" }"),
        ("src/Garden/Beds/composer.json", "{ \"name\": \"garden/beds\" }"),
        ("src/Garden/Beds/Bed.php", "<?php class Bed { }"),
        ("src/Garden/Tools/composer.json", "{ \"name\": \"garden/tools\" }"),
        ("src/Garden/Tools/Tool.php", "<?php class Tool { }"),
        ("src/Garden/Core/Deep/Core.php", "<?php class Core { }"),
        ("tests/Beds/BedTest.php", "<?php class BedTest { }"),
    ]);
    assert_eq!(
        found,
        ["Core src/Garden/Core", "beds src/Garden/Beds", "tests tests", "tools src/Garden/Tools"]
    );
}

#[test]
fn families_of_languages_share_no_names() {
    let project = Project::new(&[
        ("a/Label.cs", "class Label { }"),
        ("b/Label.java", "class Label { }"),
        ("c/Label.php", "<?php class Label { }"),
        ("d/Use.cs", "class Use { Label label; }"),
        ("d/Use.java", "class Use { Label label; }"),
        ("d/Use.php", "<?php class Use_ { public Label $label; }"),
        ("d/Use.kt", "class Use2(val label: Label)"),
    ]);
    let out = project.run(&["export", "--level", "file", "--as", "csv"]).out;
    assert_eq!(
        out,
        "from,to,references\nd/Use.cs,a/Label.cs,1\nd/Use.java,b/Label.java,1\nd/Use.kt,b/Label.java,1\nd/Use.php,c/Label.php,1\n"
    );
}

#[test]
fn kotlin_and_java_see_each_other() {
    let project = Project::new(&[
        ("src/beds/Beds.kt", "package beds\nconst val LIMIT = 3\nfun plant(count: Int) = count\n"),
        ("src/beds/Near.kt", "package beds\nfun near() = plant(LIMIT)\n"),
        (
            "src/far/Far.kt",
            "package far\nimport beds.plant as put\nclass Far { fun plant(x: Int) = put(x) + plant(x) }\n",
        ),
        (
            "src/app/App.java",
            "package app;\nimport beds.BedsKt;\nclass App { int a = BedsKt.plant(far.Far.class.hashCode()); }\n",
        ),
        (
            "src/far/Own.kt",
            "package far\nimport app.*\nclass Own : Thread() { val a: App? = null; val plant = 3 }\n",
        ),
    ]);
    let out = project.run(&["export", "--level", "file", "--as", "csv"]).out;
    let ties: Vec<&str> = out.lines().skip(1).map(|line| line.rsplit_once(',').unwrap().0).collect();
    assert_eq!(
        ties,
        [
            "src/app/App.java,src/beds/Beds.kt",
            "src/app/App.java,src/far/Far.kt",
            "src/beds/Near.kt,src/beds/Beds.kt",
            "src/far/Far.kt,src/beds/Beds.kt",
            "src/far/Own.kt,src/app/App.java",
        ]
    );
}

#[cfg(unix)]
#[test]
fn strange_trees_are_survived() {
    let project = garden();
    let long = format!(
        "<?php class Long {{ {} }}",
        "public function a(){return [1,'x',B::c($d)];} ".repeat(1_100_000)
    );
    project.write("letters/long.php", &long);
    project.write("letters/deep.php", &format!("<?php {}", "foo(new A(function () { ".repeat(300_000)));
    project.write(
        "letters/Deep.java",
        &format!("class Deep {{ Object o = {}", "new A(() -> { new B() { ".repeat(300_000)),
    );
    project.write("letters/Deep.kt", &format!("val a = {}", "foo(object : A { val x = \"${".repeat(100_000)));
    project.write("letters/line\nbreak.php", "<?php class Broken { }");
    project.write("letters/en.php/readme.txt", "a folder that is named like a file");
    std::os::unix::fs::symlink("..", project.root().join("letters/loop")).unwrap();
    std::os::unix::fs::symlink("nowhere", project.root().join("letters/gone.php")).unwrap();
    let begin = std::time::Instant::now();
    let answer = project.run(&["survey"]);
    assert_eq!(answer.status, 0, "{}", answer.all());
    assert!(answer.out.contains("PHP"), "{}", answer.all());
    // Linear time: 50 MB in one line take seconds even in a build that is not optimized.
    assert!(begin.elapsed().as_secs() < 60, "{:?}", begin.elapsed());
    assert!(!answer.out.contains("line\nbreak"), "control characters are escaped: {}", answer.out);
}

#[test]
fn survey_counts_manifests_by_what_they_are() {
    let project = Project::new(&[
        ("settings.gradle", "include ':valves'\n"),
        ("valves/build.gradle", ""),
        ("valves/src/main/java/Valve.java", "class Valve {}\n"),
        ("Garden.sln", "Microsoft Visual Studio Solution File\n"),
    ]);
    let answer = project.run(&["survey"]);
    assert!(answer.out.contains("1 .sln · 1 build.gradle · 1 settings.gradle"), "{}", answer.all());
}

#[test]
fn what_holds_nearly_all_code_is_split_by_its_folders() {
    let mut files: Vec<(String, String)> = Vec::new();
    for part in ["beds", "paths", "ponds"] {
        files.push((format!("garden/{part}/__init__.py"), String::new()));
        files.extend((0..40).map(|at| (format!("garden/{part}/plot{at}.py"), format!("width = {at}\n"))));
    }
    files.push(("garden/__init__.py".into(), "name = 'Mossgrove'\n".into()));
    files.push(("tests/test_beds.py".into(), "import garden.beds.plot1\n".into()));
    files.push(("docs/conf.py".into(), "project = 'Mossgrove'\n".into()));
    files.push(("setup.py".into(), "from setuptools import setup\nsetup(name='mossgrove')\n".into()));
    let files: Vec<(&str, &str)> = files.iter().map(|(path, text)| (&**path, &**text)).collect();
    let survey = Project::new(&files).run(&["survey", "--json"]).json();
    let mut names: Vec<&str> =
        survey["modules"].as_array().unwrap().iter().map(|row| row["module"].as_str().unwrap()).collect();
    names.sort_unstable();
    assert_eq!(names, ["beds", "docs", "garden", "mossgrove", "paths", "ponds", "tests"]);
}

#[test]
fn many_packages_are_better_than_next_to_none() {
    let manifest = |name: &str| {
        format!(
            "{{\"name\": \"moss/{name}\", \"autoload\": {{\"psr-4\": {{\"Moss\\\\{name}\\\\\": \"\"}}}}}}"
        )
    };
    let mut files: Vec<(String, String)> = Vec::new();
    for at in 0..70 {
        let folder = format!("src/Moss/Part/Plot{at}");
        files.push((format!("{folder}/composer.json"), manifest(&format!("Plot{at}"))));
        files.push((
            format!("{folder}/Bed.php"),
            format!("<?php\nnamespace Moss\\Plot{at};\nclass Bed {{}}\n"),
        ));
        files.push((
            format!("{folder}/Deep/Bed.php"),
            format!("<?php\nnamespace Moss\\Plot{at}\\Deep;\nclass Bed {{}}\n"),
        ));
    }
    let files: Vec<(&str, &str)> = files.iter().map(|(path, text)| (&**path, &**text)).collect();
    let survey = Project::new(&files).run(&["survey", "--json"]).json();
    let modules = survey["modules"].as_array().unwrap();
    assert_eq!(modules.len(), 70);
    // A module is called after the namespace around nearly all that it declares.
    assert!(modules.iter().all(|row| {
        row["namespace"]
            .as_str()
            .is_some_and(|namespace| namespace.starts_with("Moss\\Plot") && !namespace.ends_with("Deep"))
    }));
}

#[test]
fn find_says_where_a_name_lives_and_who_uses_it() {
    let garden = Project::copy_of("demo/mossgrove");
    let answer = garden.run(&["find", "Ticket"]);
    assert_eq!(answer.status, 0, "{}", answer.all());
    assert_eq!(
        answer.first_line(),
        "Mossgrove.Models.Ticket lives in models: src/Mossgrove/Models/Ticket.cs:7:18"
    );
    for line in ["  beside it TicketFee, FeeKind", "used by 3 files, in 6 places", "names like it"] {
        assert!(answer.out.lines().any(|found| found == line), "{line}\n{}", answer.all());
    }
    // A part of a name, in any capitals, lists what it may be.
    let answer = garden.run(&["find", "ticket", "--json"]).json();
    let names: Vec<&str> =
        answer["names"].as_array().unwrap().iter().map(|found| found["name"].as_str().unwrap()).collect();
    assert_eq!(
        names,
        ["Mossgrove.Models.Ticket", "Mossgrove.Models.TicketFee", "Mossgrove.Web.Shared.TicketTable"]
    );
    assert!(garden.run(&["find", "icke"]).first_line().ends_with("names are like `icke`"));
    // Mentions are known, and are no uses.
    let taxon = garden.run(&["find", "Taxon"]);
    assert!(
        taxon.out.contains("mentioned in comments, strings and settings; no dependencies"),
        "{}",
        taxon.all()
    );
    assert!(taxon.out.contains("src/Catalogue/Specimen.cs:3:44"), "{}", taxon.all());
}

#[test]
fn find_knows_what_is_imported_by_path() {
    let project = Project::new(&[
        ("beds.ts", "export class Bed {}\nexport const width = 3;\n"),
        ("all.ts", "export { Bed } from \"./beds\";\n"),
        (
            "walk.ts",
            "import { Bed } from \"./all\";\nimport * as beds from \"./beds\";\nbeds.width;\nnew Bed();\n",
        ),
    ]);
    let answer = project.run(&["find", "Bed"]);
    assert!(answer.first_line().ends_with("beds.ts:1:14"), "{}", answer.all());
    assert!(answer.out.contains("walk.ts:1:"), "{}", answer.all());
    let width = project.run(&["find", "width"]);
    assert!(width.out.contains("files that take in the whole file in which it stands"), "{}", width.all());
}

#[test]
fn find_says_what_is_near_where_there_is_nothing() {
    let garden = Project::copy_of("demo/mossgrove");
    let answer = garden.run(&["find", "Mossgrove.Visits.Ticket"]);
    assert_eq!(answer.status, 2);
    assert!(answer.all().contains("its last part is like `Mossgrove.Models.Ticket`"), "{}", answer.all());
    assert!(garden.run(&["find", "Tikcet"]).all().contains("did you mean `Ticket`?"));
    assert_eq!(garden.run(&["find", " "]).status, 2);
}
