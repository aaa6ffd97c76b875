//! The built program on small projects: answers, exit status, and what happens when something is wrong.

#![allow(clippy::unwrap_used, clippy::expect_used, dead_code, reason = "a test may fail loudly")]

mod common;

use common::Project;

fn with_map(map: &str) -> Project {
    let project = Project::garden();
    project.write("ferngate.toml", map);
    project
}

const MODULES: &str = "[modules]\ncatalogue = \"src/Catalogue\"\nvisits = \"src/Visits\"\n";

#[test]
fn a_stranger_sees_what_is_here() {
    let answer = Project::garden().run(&["survey"]);
    assert_eq!(answer.status, 0, "{}", answer.all());
    assert_eq!(answer.first_line(), "garden: 2 files, 6 lines, 2 modules by default, no cycles");
    assert!(answer.out.contains("Visits  →  Catalogue"), "{}", answer.out);
    assert!(answer.out.trim_end().ends_with("write a map of these modules"), "{}", answer.out);
}

#[test]
fn the_first_map_fits_the_code() {
    let project = Project::garden();
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
      way out: move `Taxon` to a module that `visits` may use, or change the rule

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
    let project = Project::garden();
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
fn odd_files_are_survived_and_said_once() {
    let project = Project::garden();
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
    let answer = Project::garden().run(&["export", "--level", "file"]);
    assert_eq!(answer.out, "from,to,references\nsrc/Visits/Tour.cs,src/Catalogue/Taxon.cs,1\n");
    let answer = Project::garden().run(&["export", "--level", "namespace"]);
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
fn mentions_count_on_request_only() {
    let project = Project::demo();
    let plain = project.run(&["why", "letters-members", "letters"]);
    assert!(plain.first_line().ends_with("may not use letters, and does not"), "{}", plain.all());
    let weak = project.run(&["why", "letters-members", "letters", "--weak"]);
    assert!(weak.first_line().ends_with("but does: 1 reference"), "{}", weak.all());
    assert!(weak.out.contains("letters/src/Members/Register.php:10:28"), "{}", weak.all());
}

#[cfg(unix)]
#[test]
fn strange_trees_are_survived() {
    let project = Project::garden();
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
fn each_step_of_the_walk_fits_on_a_screen() {
    let walk = Project::new(&[]).run(&["demo"]);
    let steps: Vec<&str> = walk.out.split(&"─".repeat(78)).skip(1).collect();
    assert_eq!(steps.len(), 8, "{}", walk.all());
    for step in steps {
        assert!(step.trim().lines().count() <= 40, "{step}");
    }
}

#[test]
fn a_folder_is_looked_at_alone_whatever_map_lies_above_it() {
    let files = [
        ("ferngate.toml", "name = \"garden\"\n[modules]\nall = \".\"\n"),
        ("beds/bed.py", "import tours.tour\n"),
        ("tours/tour.py", "x = 1\n"),
    ];
    let project = Project::new(&files);
    assert!(project.run(&["survey"]).first_line().starts_with("garden: 2 files"));
    let alone = project.run(&["survey", "beds"]);
    assert!(alone.first_line().starts_with("beds: 1 file"), "{}", alone.all());
    assert!(alone.out.contains("next: ferngate survey"), "{}", alone.all());
}
