//! Every option of every command does what its help says, on the demo and on a project that makes every list long.

#![allow(clippy::unwrap_used, clippy::expect_used, reason = "a test may fail loudly")]

mod common;

use common::{Answer, Project};
use std::collections::{BTreeMap, BTreeSet};

/// How many beds the wide garden has; every list that an answer shortens is longer there.
const BEDS: usize = 30;

/// A garden of many beds, each of which uses all the others, against its map.
fn wide() -> Project {
    let project = Project::new(&[("src/Beds.csproj", "<Project Sdk=\"Microsoft.NET.Sdk\"></Project>\n")]);
    let mut map =
        "rules = [\"bed-* must not use each other because roots need room\"]\n[modules]\n".to_owned();
    for bed in 0..BEDS {
        let others = (0..BEDS).filter(|other| *other != bed);
        let uses: String = others
            .map(|other| format!("    public Beds.Bed{other:02}.Plant{other:02} Near{other:02};\n"))
            .collect();
        let text = format!(
            "namespace Beds.Bed{bed:02};\n/// <summary>Stands near Beds.Bed00.Plant00.</summary>\npublic class Plant{bed:02}\n{{\n{uses}}}\n"
        );
        project.write(&format!("src/Bed{bed:02}/Plant{bed:02}.cs"), &text);
        project.write(&format!("notes/{bed:02}.md"), "Beds.Bed00.Plant00 stands in src/Bed00/Plant00.cs.\n");
        map.push_str(&format!("bed-{bed:02} = \"src/Bed{bed:02}\"\n"));
    }
    project.write("ferngate.toml", &map);
    project
}

/// A call of each command that gives an answer and changes nothing, for the demo and for the wide garden.
fn calls() -> Vec<(&'static str, Vec<&'static str>, Vec<&'static str>)> {
    let mut calls: Vec<_> = ["survey", "check", "cycles", "draw", "export"]
        .map(|command| (command, vec![command], vec![command]))
        .into_iter()
        .collect();
    calls.push(("init", vec!["init", "--print"], vec!["init", "--print"]));
    calls.push(("find", vec!["find", "Ticket"], vec!["find", "Plant00"]));
    calls.push(("why", vec!["why", "visits", "models"], vec!["why", "bed-00", "bed-01"]));
    calls.push(("explain", vec!["explain", "cycle"], vec!["explain", "cycle"]));
    calls.push((
        "move",
        vec!["move", "src/Mossgrove/Models/Ticket.cs", "src/Mossgrove/Visits/"],
        vec!["move", "src/Bed00", "src/Beet"],
    ));
    calls
}

/// Each call with the project that it is for.
fn asked() -> Vec<(Project, Vec<&'static str>)> {
    let wide_calls = calls().into_iter().map(|(_, _, call)| (wide(), call));
    calls().into_iter().map(|(_, call, _)| (Project::demo(), call)).chain(wide_calls).collect()
}

fn with<'a>(call: &[&'a str], more: &[&'a str]) -> Vec<&'a str> {
    call.iter().chain(more).copied().collect()
}

/// The long options that the help of a command lists.
fn listed(project: &Project, command: &str) -> BTreeSet<String> {
    let help = project.run(&[command, "--help"]);
    let words = help.out.lines().filter_map(|line| {
        let line = line.trim_start();
        let line = line
            .strip_prefix("-")
            .filter(|line| !line.starts_with('-'))
            .map_or(line, |line| line.split_once(", ").map_or("", |(_, long)| long));
        line.strip_prefix("--")?.split([' ', '=']).next()
    });
    words.map(|word| word.trim_end_matches(',').to_owned()).collect()
}

/// The options that this file tries, beside those that every command has.
const TRIED: &[(&str, &[&str])] = &[
    ("survey", &["all"]),
    ("init", &["print", "force"]),
    ("check", &["all", "only"]),
    ("find", &["all"]),
    ("why", &["all"]),
    ("cycles", &["all"]),
    ("draw", &["as", "output", "around", "depth", "cycles", "at-least"]),
    ("export", &["as", "level", "output"]),
    ("move", &["all", "apply", "diff", "force", "list", "mentions", "widen"]),
    ("undo", &["force"]),
    ("explain", &[]),
    ("demo", &["unpack"]),
];
const COMMON: &[&str] = &["map", "weak", "json", "color", "quiet", "verbose", "help"];

#[test]
fn no_option_is_left_out_here() {
    let project = Project::garden();
    let commands = project.run(&["--help"]).out;
    for (command, tried) in TRIED {
        assert!(commands.lines().any(|line| line.trim_start().starts_with(command)), "{command}");
        let known: BTreeSet<String> = tried.iter().chain(COMMON).map(|name| (*name).to_owned()).collect();
        assert_eq!(listed(&project, command), known, "{command}");
    }
    let listed = commands.lines().skip_while(|line| *line != "Commands:").skip(1);
    let listed = listed.take_while(|line| !line.is_empty()).filter(|line| !line.starts_with("    "));
    assert_eq!(listed.count(), TRIED.len(), "{commands}");
}

/// Whether a line says that others were left out.
fn leaves_out(line: &str) -> bool {
    line.trim_start().starts_with('…') || line.contains(" more; ") || line.contains("--all")
}

#[test]
fn all_adds_lines_and_takes_none() {
    let mut shortened = 0;
    for (project, call) in asked() {
        let takes_all = TRIED.iter().any(|(command, tried)| *command == call[0] && tried.contains(&"all"));
        if !takes_all {
            continue;
        }
        let (short, long) = (project.run(&call), project.run(&with(&call, &["--all"])));
        assert_eq!(long.status, short.status, "{call:?}\n{}", long.all());
        assert!(!long.out.lines().any(leaves_out), "{call:?}\n{}", long.out);
        // Columns are as wide as what stands in them.
        let bare = |line: &str| line.split_whitespace().collect::<Vec<_>>().join(" ");
        let mut said: BTreeMap<String, usize> = BTreeMap::new();
        long.out.lines().for_each(|line| *said.entry(bare(line)).or_default() += 1);
        for line in short.out.lines().filter(|line| !leaves_out(line)).map(bare) {
            let left = said.get_mut(&line).filter(|left| **left > 0);
            *left.unwrap_or_else(|| panic!("{call:?}: `{line}` is lost by --all:\n{}", long.out)) -= 1;
        }
        shortened += usize::from(long.out.len() > short.out.len());
    }
    assert!(shortened >= 6, "{shortened} answers were shortened");
}

#[test]
fn another_folder_and_another_map_are_the_same_to_the_answer() {
    for (project, call) in asked() {
        let here = project.run(&call);
        let elsewhere = Project::new(&[]);
        let root = project.root().display().to_string();
        let there = elsewhere.run(&with(&["-C", &root], &call));
        let name = project.root().file_name().unwrap().to_string_lossy().into_owned();
        let own = |answer: &Answer| {
            let bare = answer.out.replace(&format!("ferngate -C {root} "), "ferngate ");
            bare.replace(&root, "$PROJECT").replace(&name, "garden")
        };
        assert_eq!((own(&there), there.status), (here.out.clone(), here.status), "{call:?}");
        if matches!(call[0], "init" | "explain") {
            continue;
        }
        // A map that lies elsewhere does not follow a move.
        if call[0] != "move" {
            let map = elsewhere.root().join("other.toml");
            std::fs::rename(project.root().join("ferngate.toml"), &map).unwrap();
            let answer = project.run(&with(&["--map", &map.display().to_string()], &call));
            let plain = |text: &str| {
                text.lines()
                    .filter(|line| !line.contains(".toml") && !line.starts_with("next: "))
                    .collect::<Vec<_>>()
                    .join("\n")
            };
            assert_eq!((plain(&answer.out), answer.status), (plain(&here.out), here.status), "{call:?}");
        }
    }
}

/// The command that an answer suggests as its last line.
fn suggested(answer: &Answer) -> Option<String> {
    let last = answer.out.lines().rev().find_map(|line| line.strip_prefix("next: "))?;
    Some(last.split("  ").next().unwrap_or_default().to_owned())
}

#[test]
fn what_is_suggested_can_be_called_as_it_stands() {
    let program =
        std::path::Path::new(env!("CARGO_BIN_EXE_ferngate")).parent().unwrap().display().to_string();
    let mut tried = 0;
    for (project, call) in asked() {
        // A folder whose name a shell would take apart.
        let elsewhere = Project::new(&[]);
        let root = elsewhere.root().join("moss & 'fern' $1");
        std::fs::rename(project.root(), &root).unwrap();
        let root_text = root.display().to_string();
        let answer = elsewhere.run(&with(&["-C", &root_text], &call));
        let name = elsewhere.root().file_name().unwrap().to_string_lossy().into_owned();
        let Some(command) = suggested(&answer) else { continue };
        let real = std::fs::canonicalize(elsewhere.root()).unwrap().display().to_string();
        let command = command.replace("garden", &name).replace("$PROJECT", &real);
        let shell = std::process::Command::new("sh")
            .args(["-c", &command])
            .env("PATH", format!("{program}:{}", std::env::var("PATH").unwrap()))
            .current_dir(elsewhere.root())
            .output()
            .unwrap();
        let said = String::from_utf8_lossy(&shell.stderr);
        assert!(matches!(shell.status.code(), Some(0 | 1)), "{call:?} suggests `{command}`: {said}");
        tried += 1;
        std::fs::create_dir_all(project.root()).unwrap();
    }
    assert!(tried >= 8, "{tried} commands were suggested");
}

#[test]
fn colours_add_nothing_but_colours() {
    for (project, call) in asked() {
        let plain = project.run(&call);
        assert!(!plain.out.contains('\x1b'), "{call:?}");
        assert_eq!(project.run(&with(&call, &["--color", "never"])).out, plain.out, "{call:?}");
        let coloured = project.run(&with(&call, &["--color", "always"]));
        let parts = coloured.out.split("\x1b[").enumerate();
        let bare: String = parts
            .map(
                |(at, part)| if at == 0 { part } else { part.split_once('m').map_or(part, |(_, rest)| rest) },
            )
            .collect();
        assert_eq!((bare, coloured.status), (plain.out, plain.status), "{call:?}");
    }
}

#[test]
fn quiet_says_nothing_else_and_verbose_only_beside_the_answer() {
    for (project, call) in asked() {
        let plain = project.run(&call);
        let quiet = project.run(&with(&call, &["--quiet"]));
        assert_eq!(quiet.status, plain.status, "{call:?}");
        assert_eq!(quiet.err, "", "{call:?}");
        let said: BTreeSet<&str> = plain.out.lines().collect();
        assert!(quiet.out.lines().all(|line| said.contains(line)), "{call:?}\n{}", quiet.out);
        let verbose = project.run(&with(&call, &["--verbose"]));
        assert_eq!((verbose.out, verbose.status), (plain.out, plain.status), "{call:?}");
        assert!(call[0] == "explain" || verbose.err.contains(" found, "), "{call:?}: {}", verbose.err);
    }
}

#[test]
fn every_answer_is_data_too() {
    for (project, call) in asked() {
        let (text, data) = (project.run(&call), project.run(&with(&call, &["--json"])));
        assert_eq!(data.status, text.status, "{call:?}");
        assert!(data.json()["schema"].as_str().unwrap().starts_with("ferngate/"), "{call:?}");
    }
}

#[test]
fn check_looks_only_for_what_it_is_asked() {
    for project in [Project::demo(), wide()] {
        let all = project.run(&["check", "--json"]).json();
        let sorts: BTreeSet<&str> = all["findings"]
            .as_array()
            .unwrap()
            .iter()
            .map(|found| found["finding"].as_str().unwrap())
            .collect();
        for sort in &sorts {
            let only = project.run(&["check", "--json", "--only", sort]).json();
            let wanted: Vec<_> = all["findings"]
                .as_array()
                .unwrap()
                .iter()
                .filter(|found| found["finding"] == **sort)
                .collect();
            assert_eq!(only["findings"].as_array().unwrap().iter().collect::<Vec<_>>(), wanted, "{sort}");
        }
        assert!(sorts.contains("not-permitted"), "{sorts:?}");
    }
}

#[test]
fn what_is_written_to_a_file_is_what_is_said() {
    for project in [Project::demo(), wide()] {
        for (command, forms) in [("draw", &["text", "svg", "dot"][..]), ("export", &["csv", "json"])] {
            for form in forms {
                let said = project.run(&[command, "--as", form]);
                let written = project.run(&[command, "--as", form, "-o", "out.file"]);
                assert_eq!((said.status, written.status), (0, 0), "{command} {form}: {}", written.all());
                let name = project.root().file_name().unwrap().to_string_lossy().into_owned();
                assert_eq!(project.read("out.file").replace(&name, "garden"), said.out, "{command} {form}");
                std::fs::remove_file(project.root().join("out.file")).unwrap();
            }
        }
    }
}

/// The modules and ties of a picture.
fn drawn(project: &Project, options: &[&str]) -> (BTreeSet<String>, BTreeSet<(String, String)>) {
    let answer = project.run(&with(&["draw", "--json"], options));
    assert_eq!(answer.status, 0, "{options:?}: {}", answer.all());
    let picture = answer.json();
    let text = |value: &serde_json::Value| value.as_str().unwrap().to_owned();
    let modules = picture["modules"].as_array().unwrap().iter().map(|module| text(&module["module"]));
    let ties = picture["ties"].as_array().unwrap().iter().map(|tie| (text(&tie["from"]), text(&tie["to"])));
    (modules.collect(), ties.collect())
}

#[test]
fn a_picture_shows_the_part_that_is_asked_for() {
    let project = Project::demo();
    let (all, ties) = drawn(&project, &[]);
    let steps = |depth: usize| {
        let mut near = BTreeSet::from(["visits".to_owned()]);
        for _ in 0..depth {
            let reached = ties.iter().flat_map(|(from, to)| [(from, to), (to, from)]);
            let next: Vec<String> =
                reached.filter(|(from, _)| near.contains(*from)).map(|(_, to)| to.clone()).collect();
            near.extend(next);
        }
        near
    };
    for depth in 1..4 {
        let (shown, _) = drawn(&project, &["--around", "visits", "--depth", &depth.to_string()]);
        assert_eq!(shown, steps(depth), "depth {depth}");
    }
    let cycles = project.run(&["cycles", "--json"]).json();
    let in_cycles: BTreeSet<String> = cycles["cycles"]
        .as_array()
        .unwrap()
        .iter()
        .flat_map(|cycle| {
            cycle["modules"].as_array().unwrap().iter().map(|name| name.as_str().unwrap().to_owned())
        })
        .collect();
    let (shown, _) = drawn(&project, &["--cycles"]);
    assert_eq!(shown, in_cycles);
    let counted = project.run(&["export", "--level", "module", "--as", "json"]).json();
    for least in [1, 2, 3] {
        let many = counted["ties"]
            .as_array()
            .unwrap()
            .iter()
            .filter(|tie| tie["references"].as_u64() >= Some(least));
        let (_, shown) = drawn(&project, &["--at-least", &least.to_string()]);
        assert_eq!(shown.len(), many.count(), "at least {least}");
    }
    assert!(all.len() > in_cycles.len());
}

#[test]
fn a_map_is_only_printed_or_written_over_on_request() {
    let project = Project::demo();
    let before = project.read("ferngate.toml");
    let printed = project.run(&["init", "--print"]);
    assert_eq!((printed.status, project.read("ferngate.toml")), (0, before.clone()));
    assert_eq!(project.run(&["init"]).status, 2);
    assert_eq!(project.read("ferngate.toml"), before);
    assert_eq!(project.run(&["init", "--force"]).status, 0);
    let name = project.root().file_name().unwrap().to_string_lossy().into_owned();
    assert_eq!(project.read("ferngate.toml").replace(&name, "garden").trim(), printed.out.trim());
}

#[test]
fn a_move_shows_every_changed_line_on_request() {
    let project = wide();
    let call = ["move", "src/Bed00", "src/Beet"];
    let shown = project.run(&with(&call, &["--diff"]));
    let changed: BTreeSet<&str> = shown.out.lines().filter(|line| line.contains(" + ")).collect();
    assert_eq!(project.run(&with(&call, &["--apply"])).status, 0);
    let mut lines = 0;
    for bed in 1..BEDS {
        let text = project.read(&format!("src/Bed{bed:02}/Plant{bed:02}.cs"));
        let new = text.lines().filter(|line| line.contains("Beet") && !line.contains("///"));
        lines += new
            .inspect(|line| assert!(changed.iter().any(|shown| shown.ends_with(line.trim())), "{line}"))
            .count();
    }
    assert_eq!(lines, BEDS - 1);
}

#[test]
fn a_list_moves_what_a_call_would() {
    let (one, other) = (wide(), wide());
    let apart: Vec<String> = (0..3).map(|bed| format!("src/Bed{bed:02}/Plant{bed:02}.cs")).collect();
    let paths: Vec<&str> = apart.iter().map(String::as_str).collect();
    assert_eq!(one.run(&with(&with(&["move", "--apply"], &paths), &["src/Shed/"])).status, 0);
    let list: String = apart.iter().map(|path| format!("{path} -> src/Shed/\n")).collect();
    other.write("moves.txt", &format!("# to the shed\n\n{list}"));
    assert_eq!(other.run(&["move", "--apply", "--list", "moves.txt"]).status, 0);
    let texts = |project: &Project| {
        let bytes = project.snapshot().into_iter().map(|(path, (bytes, _))| (path, bytes));
        bytes.filter(|(path, _)| path != "moves.txt").collect::<Vec<_>>()
    };
    assert_eq!(texts(&one), texts(&other));
}

#[test]
fn mentions_are_rewritten_on_request() {
    let project = wide();
    let call = ["move", "--apply", "src/Bed00", "src/Beet"];
    assert_eq!(project.run(&call).status, 0);
    assert_eq!(project.read("notes/07.md"), "Beds.Bed00.Plant00 stands in src/Bed00/Plant00.cs.\n");
    assert_eq!(project.run(&["undo"]).status, 0);
    assert_eq!(project.run(&with(&call, &["--mentions"])).status, 0);
    assert!(
        project.read("notes/07.md").starts_with("Beds.Beet.Plant00 stands"),
        "{}",
        project.read("notes/07.md")
    );
}

#[test]
fn an_undo_over_later_changes_has_to_be_forced() {
    let project = wide();
    let before = project.read("src/Bed01/Plant01.cs");
    assert_eq!(project.run(&["move", "--apply", "src/Bed00", "src/Beet"]).status, 0);
    let moved = project.read("src/Bed01/Plant01.cs");
    project.write("src/Bed01/Plant01.cs", &format!("{moved}// watered\n"));
    let refused = project.run(&["undo"]);
    assert_ne!(refused.status, 0, "{}", refused.all());
    assert!(
        project.exists("src/Beet/Plant00.cs") && refused.err.contains("src/Bed01/Plant01.cs"),
        "{}",
        refused.err
    );
    assert_eq!(project.run(&["undo", "--force"]).status, 0);
    assert_eq!(project.read("src/Bed01/Plant01.cs"), before);
    assert!(project.exists("src/Bed00/Plant00.cs") && !project.exists("src/Beet"));
}
