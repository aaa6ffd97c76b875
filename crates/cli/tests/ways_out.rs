//! Each sort of finding in the smallest project that has it: it is found once, at the right place; each of the ways out that
//! it offers makes it go and brings no other; the map turns it off, and makes it loud or quiet.

#![allow(clippy::unwrap_used, clippy::expect_used, dead_code, reason = "a test may fail loudly")]

mod common;

use common::Project;
use serde_json::Value;

/// A change to a project: path, and the new text, or nothing where the file goes.
type Change = (&'static str, Option<&'static str>);

/// A project with one finding.
struct Broken {
    finding: &'static str,
    files: &'static [(&'static str, &'static str)],
    /// Where it is found.
    at: &'static str,
    /// Each way out, as what a person would change.
    ways_out: &'static [&'static [Change]],
}

const BED: (&str, &str) = ("beds/Bed.cs", "namespace Moss.Beds;\npublic class Bed { }\n");
const ROW: (&str, &str) = ("rows/Row.cs", "namespace Moss.Rows;\npublic class Row { Beds.Bed bed; }\n");
const MODULES: &str = "[modules]\nbeds = \"beds\"\nrows = \"rows\"\n";
const PLAIN: &str = "<Project Sdk=\"Microsoft.NET.Sdk\"/>";
const REFERS: &str = "<Project Sdk=\"Microsoft.NET.Sdk\"><ItemGroup><ProjectReference Include=\"../beds/Beds.csproj\"/></ItemGroup></Project>";

const ALL: &[Broken] = &[
    Broken {
        finding: "not-permitted",
        files: &[
            BED,
            ROW,
            (
                "ferngate.toml",
                "rules = [\"rows must not use beds\"]\n[modules]\nbeds = \"beds\"\nrows = \"rows\"\n",
            ),
        ],
        at: "rows/Row.cs",
        ways_out: &[
            &[("rows/Row.cs", Some("namespace Moss.Rows;\npublic class Row { }\n"))],
            &[(
                "ferngate.toml",
                Some("rules = [\"beds must not use rows\"]\n[modules]\nbeds = \"beds\"\nrows = \"rows\"\n"),
            )],
            &[
                ("beds/Bed.cs", None),
                ("rows/Bed.cs", Some("namespace Moss.Beds;\npublic class Bed { }\n")),
                ("beds/Soil.cs", Some("namespace Moss.Beds;\npublic class Soil { }\n")),
            ],
        ],
    },
    Broken {
        finding: "private-use",
        files: &[
            BED,
            ("beds/Door.cs", "namespace Moss.Beds;\npublic class Door { Bed bed; }\n"),
            ROW,
            (
                "ferngate.toml",
                "[modules]\nbeds = { path = \"beds\", public = [\"beds/Door.cs\"] }\nrows = \"rows\"\n",
            ),
        ],
        at: "rows/Row.cs",
        ways_out: &[
            &[("rows/Row.cs", Some("namespace Moss.Rows;\npublic class Row { Beds.Door door; }\n"))],
            &[(
                "ferngate.toml",
                Some("[modules]\nbeds = { path = \"beds\", public = [\"beds/*.cs\"] }\nrows = \"rows\"\n"),
            )],
        ],
    },
    Broken {
        finding: "cycle",
        files: &[
            ("beds/Bed.cs", "namespace Moss.Beds;\npublic class Bed { Rows.Row row; }\n"),
            ROW,
            ("ferngate.toml", MODULES),
        ],
        at: "beds/Bed.cs",
        ways_out: &[
            &[BED_ALONE],
            &[("rows/Row.cs", Some("namespace Moss.Rows;\npublic class Row { }\n"))],
            &[("ferngate.toml", Some("[modules]\nbeds = [\"beds\", \"rows\"]\n"))],
        ],
    },
    Broken {
        finding: "undeclared-dependency",
        files: &[
            BED,
            ROW,
            ("beds/Beds.csproj", PLAIN),
            ("rows/Rows.csproj", PLAIN),
            ("ferngate.toml", MODULES),
        ],
        at: "rows/Row.cs",
        ways_out: &[
            &[("rows/Rows.csproj", Some(REFERS))],
            &[("rows/Row.cs", Some("namespace Moss.Rows;\npublic class Row { }\n"))],
        ],
    },
    Broken {
        finding: "unused-dependency",
        files: &[
            BED,
            ("rows/Row.cs", "namespace Moss.Rows;\npublic class Row { }\n"),
            ("beds/Beds.csproj", PLAIN),
            ("rows/Rows.csproj", REFERS),
            ("ferngate.toml", MODULES),
        ],
        at: "rows/Rows.csproj",
        ways_out: &[&[("rows/Rows.csproj", Some(PLAIN))], &[("rows/Row.cs", Some(ROW.1))]],
    },
    Broken {
        finding: "stale-path",
        files: &[
            BED,
            (
                "beds/Beds.csproj",
                "<Project Sdk=\"Microsoft.NET.Sdk\"><ItemGroup><ProjectReference Include=\"../rows/Rows.csproj\"/></ItemGroup></Project>",
            ),
            ("ferngate.toml", "[modules]\nbeds = \"beds\"\n"),
        ],
        at: "beds/Beds.csproj",
        ways_out: &[&[("beds/Beds.csproj", Some(PLAIN))]],
    },
    Broken {
        finding: "missing-file",
        files: &[
            ("beds/bed.ts", "import { row } from \"./row\";\nexport const bed = row;\n"),
            ("ferngate.toml", "[modules]\nbeds = \"beds\"\n"),
        ],
        at: "beds/bed.ts",
        ways_out: &[
            &[("beds/row.ts", Some("export const row = 1;\n"))],
            &[("beds/bed.ts", Some("export const bed = 1;\n"))],
        ],
    },
    Broken {
        finding: "name-mismatch",
        files: &[
            (
                "beds/Beds.csproj",
                "<Project Sdk=\"Microsoft.NET.Sdk\"><PropertyGroup><RootNamespace>Moss.Beds</RootNamespace></PropertyGroup></Project>",
            ),
            BED,
            ("beds/Soil.cs", "namespace Moss.Beds;\npublic class Soil { }\n"),
            ("beds/Deep/Root.cs", "namespace Moss.Beds.Deep;\npublic class Root { }\n"),
            ("beds/Deep/Stem.cs", "namespace Moss.Elsewhere;\npublic class Stem { }\n"),
            ("ferngate.toml", "[modules]\nbeds = \"beds\"\n"),
        ],
        at: "beds/Deep/Stem.cs",
        ways_out: &[&[("beds/Deep/Stem.cs", Some("namespace Moss.Beds.Deep;\npublic class Stem { }\n"))]],
    },
    Broken {
        finding: "root-namespace",
        files: &[
            BED,
            ("beds/Soil.cs", "public class Soil { }\n"),
            ("ferngate.toml", "[modules]\nbeds = \"beds\"\n"),
        ],
        at: "beds/Soil.cs",
        ways_out: &[&[("beds/Soil.cs", Some("namespace Moss.Beds;\npublic class Soil { }\n"))]],
    },
    Broken {
        finding: "unmapped",
        files: &[BED, ROW, ("ferngate.toml", "[modules]\nbeds = \"beds\"\n")],
        at: "rows/Row.cs",
        ways_out: &[&[("ferngate.toml", Some(MODULES))], &[("rows/Row.cs", None)]],
    },
    Broken {
        finding: "empty-module",
        files: &[BED, ("ferngate.toml", MODULES)],
        at: "ferngate.toml",
        ways_out: &[
            &[("ferngate.toml", Some("[modules]\nbeds = \"beds\"\n"))],
            &[("rows/Row.cs", Some(ROW.1))],
        ],
    },
];

const BED_ALONE: Change = (BED.0, Some(BED.1));

fn found(project: &Project) -> Vec<Value> {
    let check = project.run(&["check", "--json"]);
    assert!(check.status < 2, "{}", check.all());
    check.json()["findings"].as_array().unwrap().clone()
}

fn names(findings: &[Value]) -> Vec<&str> {
    findings.iter().map(|finding| finding["finding"].as_str().unwrap()).collect()
}

/// Writes into the map what `[checks]` says of `finding`.
fn set(project: &Project, finding: &str, says: &str) {
    let map = project.read("ferngate.toml");
    let (before, modules) = map.split_once("[modules]").unwrap();
    project.write("ferngate.toml", &format!("{before}[checks]\n{finding} = \"{says}\"\n[modules]{modules}"));
}

#[test]
fn every_sort_is_here() {
    let explained = Project::new(&[]).run(&["explain", "--json"]).json();
    let list = explained["findings"].as_array().unwrap();
    let mut known: Vec<&str> = list.iter().map(|finding| finding["finding"].as_str().unwrap()).collect();
    let mut here: Vec<&str> = ALL.iter().map(|broken| broken.finding).collect();
    known.sort_unstable();
    here.sort_unstable();
    assert_eq!(here, known);
}

#[test]
fn each_is_found_once_where_it_is_and_says_what_to_do() {
    for broken in ALL {
        let findings = found(&Project::new(broken.files));
        assert_eq!(names(&findings), [broken.finding], "{findings:#?}");
        assert_eq!(findings[0]["place"]["path"], broken.at, "{findings:#?}");
        for said in ["message", "rule", "way_out"] {
            let text = findings[0][said].as_str().unwrap_or_default();
            assert!(!text.is_empty() && !text.contains('\n'), "{}: {said}: {text:?}", broken.finding);
        }
    }
}

#[test]
fn each_way_out_leads_out() {
    for broken in ALL {
        for way_out in broken.ways_out {
            let project = Project::new(broken.files);
            for (path, text) in *way_out {
                match text {
                    Some(text) => project.write(path, text),
                    None => std::fs::remove_file(project.root().join(path)).unwrap(),
                }
            }
            let check = project.run(&["check"]);
            assert_eq!(check.status, 0, "{}: {way_out:?}\n{}", broken.finding, check.all());
            assert_eq!(names(&found(&project)), [""; 0], "{}: {way_out:?}", broken.finding);
        }
    }
}

#[test]
fn the_map_turns_each_off_and_makes_it_loud_or_quiet() {
    for broken in ALL {
        for (says, count, status) in [("off", 0, 0), ("warning", 1, 0), ("error", 1, 1)] {
            let project = Project::new(broken.files);
            set(&project, broken.finding, says);
            let check = project.run(&["check"]);
            assert_eq!(check.status, status, "{} = {says}\n{}", broken.finding, check.all());
            let findings = found(&project);
            assert_eq!(findings.len(), count, "{} = {says}", broken.finding);
            assert!(findings.iter().all(|finding| finding["severity"] == says), "{findings:#?}");
        }
    }
}

#[test]
fn only_the_sort_that_is_asked_for_is_looked_for() {
    for (at, broken) in ALL.iter().enumerate() {
        let project = Project::new(broken.files);
        let only = |name: &str| project.run(&["check", "--only", name, "--json"]).json();
        let other = ALL[(at + 1) % ALL.len()].finding;
        assert_eq!(only(broken.finding)["findings"].as_array().unwrap().len(), 1, "{}", broken.finding);
        assert_eq!(only(other)["findings"].as_array().unwrap().len(), 0, "{other} in {}", broken.finding);
    }
}

#[test]
fn each_is_explained_by_its_name() {
    let project = Project::new(&[]);
    for broken in ALL {
        let explained = project.run(&["explain", broken.finding]);
        assert_eq!(explained.status, 0);
        assert!(explained.first_line().starts_with(&format!("{} (", broken.finding)), "{}", explained.out);
        assert!(explained.out.contains("ways out\n  - "), "{}", explained.out);
        let typed = broken.finding.replace('-', "");
        let unknown = project.run(&["explain", &typed]);
        if typed != broken.finding {
            assert_eq!(unknown.status, 2);
            assert!(unknown.err.contains(&format!("`{}`", broken.finding)), "{}", unknown.err);
        }
    }
}

#[test]
fn all_of_the_cheapest_cut_is_named() {
    // Each of three modules uses both others; beds are used most, so two ties into others and one back are the cheapest.
    let uses = |own: &str, used: &[(&str, usize)]| {
        let fields: String = used
            .iter()
            .flat_map(|(name, count)| (0..*count).map(move |at| format!(" {name} {name}{at};", name = name)))
            .collect();
        format!("namespace Moss;\npublic class {own} {{{fields} }}\n")
    };
    let project = Project::new(&[
        ("beds/Bed.cs", &uses("Bed", &[("Row", 1), ("Pot", 2)])),
        ("rows/Row.cs", &uses("Row", &[("Bed", 9), ("Pot", 3)])),
        ("pots/Pot.cs", &uses("Pot", &[("Bed", 8), ("Row", 7)])),
        ("ferngate.toml", "[modules]\nbeds = \"beds\"\nrows = \"rows\"\npots = \"pots\"\n"),
    ]);
    let findings = found(&project);
    let way_out = findings[0]["way_out"].as_str().unwrap();
    assert!(way_out.starts_with("the cheapest cut is 3 ties with 6 references: "), "{way_out}");
    for tie in ["beds → rows (1)", "beds → pots (2)", "rows → pots (3)"] {
        assert!(way_out.contains(tie), "{way_out}");
    }
}
