//! Projects and what they declare, known before they are read: any mixture of uses and declarations between the
//! projects of one build tool. What the program says is undeclared or unused must be what was written, and what it
//! proposes must leave nothing to say.

#![allow(clippy::unwrap_used, clippy::expect_used, reason = "a test may fail loudly")]

mod common;

use common::{Project, for_many};
use proptest::prelude::*;
use std::collections::BTreeSet;

/// Projects of one tree.
const PROJECTS: usize = 5;

/// From one project to another.
type Pair = (usize, usize);
type Pairs = BTreeSet<Pair>;

/// How one build tool writes projects. In all texts `OWN` stands for the project's own name, `BED` for that of another,
/// each in the form that the place asks for.
struct Tool {
    /// The manifest's place and text; `LIST` stands for what it declares.
    manifest: (&'static str, &'static str),
    /// One declared project.
    declared: &'static str,
    /// The place and text of the one file of code; `BODY` stands for what it uses.
    code: (&'static str, &'static str),
    /// One use of a name of another project.
    used: &'static str,
    /// A file around all projects; `ALL` stands for a line of `MEMBER` for each of them.
    around: Option<(&'static str, &'static str, &'static str)>,
    /// How the findings call a project.
    called: &'static str,
    /// A project sees what those that it declares declare in turn.
    transitive: bool,
    /// A project that uses what it does not declare is told so; where more may be declared than can be read it is not.
    says_undeclared: bool,
    /// What is not declared cannot be spelled, so nothing leads to it.
    declares_first: bool,
    /// A project must declare what the code that it uses uses.
    needs_what_is_behind: bool,
}

const MSBUILD: Tool = Tool {
    manifest: (
        "OWN/OWN.csproj",
        "<Project Sdk=\"Microsoft.NET.Sdk\">\n  <ItemGroup>\nLIST  </ItemGroup>\n</Project>\n",
    ),
    declared: "    <ProjectReference Include=\"../BED/BED.csproj\" />\n",
    code: ("OWN/Main.cs", "namespace OWN;\npublic class Main {\nBODY}\n"),
    used: "  public BED.Main uBED;\n",
    around: None,
    called: "OWN",
    transitive: true,
    says_undeclared: true,
    declares_first: false,
    needs_what_is_behind: false,
};

const OLD_MSBUILD: Tool = Tool {
    manifest: (
        "OWN/OWN.csproj",
        "<Project ToolsVersion=\"15.0\" xmlns=\"http://schemas.microsoft.com/developer/msbuild/2003\">\n  <ItemGroup>\n    <Compile Include=\"Main.cs\" />\nLIST  </ItemGroup>\n</Project>\n",
    ),
    declared: "    <ProjectReference Include=\"..\\BED\\BED.csproj\">\n      <Name>BED</Name>\n    </ProjectReference>\n",
    transitive: false,
    needs_what_is_behind: true,
    ..MSBUILD
};

const MAVEN: Tool = Tool {
    manifest: (
        "OWN/pom.xml",
        "<project>\n  <parent><groupId>moss</groupId><artifactId>all</artifactId></parent>\n  <artifactId>OWN</artifactId>\n  <dependencies>\nLIST  </dependencies>\n</project>\n",
    ),
    declared: "    <dependency><groupId>moss</groupId><artifactId>BED</artifactId></dependency>\n",
    code: ("OWN/src/main/java/moss/OWN/Main.java", "package moss.OWN;\npublic class Main {\nBODY}\n"),
    used: "  public moss.BED.Main uBED;\n",
    around: Some((
        "pom.xml",
        "<project>\n  <groupId>moss</groupId>\n  <artifactId>all</artifactId>\n  <modules>\nALL  </modules>\n</project>\n",
        "    <module>MEMBER</module>\n",
    )),
    called: "OWN",
    transitive: true,
    says_undeclared: true,
    declares_first: false,
    needs_what_is_behind: false,
};

const GRADLE: Tool = Tool {
    manifest: ("OWN/build.gradle.kts", "dependencies {\nLIST}\n"),
    declared: "    implementation(project(\":BED\"))\n",
    code: ("OWN/src/main/kotlin/moss/OWN/Main.kt", "package moss.OWN\n\nclass Main {\nBODY}\n"),
    used: "  val uBED: moss.BED.Main? = null\n",
    around: Some(("settings.gradle.kts", "ALL", "include(\":MEMBER\")\n")),
    called: ":OWN",
    transitive: true,
    says_undeclared: false,
    declares_first: false,
    needs_what_is_behind: false,
};

const NPM: Tool = Tool {
    manifest: (
        "packages/OWN/package.json",
        "{\n  \"name\": \"@moss/OWN\",\n  \"version\": \"1.0.0\",\n  \"main\": \"index.ts\",\n  \"dependencies\": {\nLIST    \"left-outside\": \"1.0.0\"\n  }\n}\n",
    ),
    declared: "    \"@moss/BED\": \"1.0.0\",\n",
    code: ("packages/OWN/index.ts", "BODYexport const OWN = 1;\n"),
    used: "import { BED } from \"@moss/BED\";\n",
    around: Some((
        "package.json",
        "{ \"name\": \"all\", \"private\": true, \"workspaces\": [\"packages/*\"] }\n",
        "",
    )),
    called: "@moss/OWN",
    transitive: false,
    says_undeclared: true,
    declares_first: false,
    needs_what_is_behind: false,
};

const COMPOSER: Tool = Tool {
    manifest: (
        "parts/OWN/composer.json",
        "{\n  \"name\": \"moss/OWN\",\n  \"autoload\": { \"psr-4\": { \"Moss\\\\OWN\\\\\": \"src/\" } },\n  \"require\": {\nLIST    \"php\": \">=8\"\n  }\n}\n",
    ),
    declared: "    \"moss/BED\": \"*\",\n",
    code: ("parts/OWN/src/Main.php", "<?php\nnamespace Moss\\OWN;\nclass Main {\nBODY}\n"),
    used: "  public ?\\Moss\\BED\\Main $uBED;\n",
    around: None,
    called: "moss/OWN",
    transitive: true,
    says_undeclared: false,
    declares_first: false,
    needs_what_is_behind: false,
};

const CARGO: Tool = Tool {
    manifest: (
        "crates/OWN/Cargo.toml",
        "[package]\nname = \"OWN\"\nversion = \"1.0.0\"\nedition = \"2021\"\n\n[dependencies]\nLIST",
    ),
    declared: "BED = { path = \"../BED\" }\n",
    code: ("crates/OWN/src/lib.rs", "pub struct Main;\nBODY"),
    used: "pub fn uBED(_: BED::Main) {}\n",
    around: Some(("Cargo.toml", "[workspace]\nmembers = [\"crates/*\"]\n", "")),
    called: "OWN",
    transitive: false,
    says_undeclared: true,
    declares_first: true,
    needs_what_is_behind: false,
};

fn name(project: usize) -> &'static str {
    ["aster", "briar", "clover", "daisy", "elder"][project]
}

/// Declarations lead from later to earlier projects, so that every build tool would take them; uses lead anywhere.
fn written() -> impl Strategy<Value = (Pairs, Pairs)> {
    let pair = || (0..PROJECTS, 0..PROJECTS);
    let uses = prop::collection::btree_set(pair().prop_filter("another", |(from, to)| from != to), 0..8);
    let declared =
        prop::collection::btree_set(pair().prop_filter("an earlier one", |(from, to)| from > to), 0..8);
    (uses, declared)
}

impl Tool {
    fn project(&self, uses: &Pairs, declared: &Pairs) -> Project {
        let project = Project::new(&[]);
        let lines = |pairs: &Pairs, own: usize, line: &str| -> String {
            pairs
                .iter()
                .filter(|(from, _)| *from == own)
                .map(|(_, to)| line.replace("BED", name(*to)))
                .collect()
        };
        for own in 0..PROJECTS {
            let filled = |text: &str| text.replace("OWN", name(own));
            let manifest = filled(self.manifest.1).replace("LIST", &lines(declared, own, self.declared));
            project.write(&filled(self.manifest.0), &manifest);
            project.write(
                &filled(self.code.0),
                &filled(self.code.1).replace("BODY", &lines(uses, own, self.used)),
            );
        }
        if let Some((path, text, member)) = self.around {
            let all: String = (0..PROJECTS).map(|own| member.replace("MEMBER", name(own))).collect();
            project.write(path, &text.replace("ALL", &all));
        }
        project
    }

    /// What `project` sees: itself, what it declares, and what that declares in turn where the tool says so.
    fn seen(&self, declared: &Pairs, project: usize) -> BTreeSet<usize> {
        let mut seen = BTreeSet::from([project]);
        loop {
            let further = |(from, to): &Pair| {
                let counts = *from == project || self.transitive && seen.contains(from);
                (counts && !seen.contains(to)).then_some(*to)
            };
            match declared.iter().find_map(further) {
                Some(next) => _ = seen.insert(next),
                None => return seen,
            }
        }
    }

    fn undeclared(&self, uses: &Pairs, declared: &Pairs) -> Pairs {
        let missing = |(from, to): &&Pair| !self.seen(declared, *from).contains(to);
        if self.says_undeclared { uses.iter().filter(missing).copied().collect() } else { Pairs::new() }
    }

    /// A declaration is of use where a name is used that is in reach through it.
    fn unused(&self, uses: &Pairs, declared: &Pairs) -> Pairs {
        let reached =
            |to: usize| if self.transitive { self.seen(declared, to) } else { BTreeSet::from([to]) };
        let used =
            |from: usize, to: usize| reached(to).iter().any(|through| uses.contains(&(from, *through)));
        // The compiler must know what the types are made of that code names.
        let needed = |from: usize, to: usize| {
            self.needs_what_is_behind && uses.iter().any(|(a, b)| *a == from && uses.contains(&(*b, to)))
        };
        let idle = |(from, to): &&Pair| !used(*from, *to) && !needed(*from, *to);
        declared.iter().filter(idle).copied().collect()
    }

    /// Whether somebody reaches what it uses through this declaration only.
    fn is_relied_on(&self, uses: &Pairs, declared: &Pairs, pair: &Pair) -> bool {
        let mut left = declared.clone();
        left.remove(pair);
        let lost = |(from, to): &Pair| {
            self.seen(declared, *from).contains(to) && !self.seen(&left, *from).contains(to)
        };
        uses.iter().any(lost)
    }

    /// The pairs that findings of one sort name, with the places checked on the way.
    fn said(&self, project: &Project, findings: &serde_json::Value, sort: &str) -> Pairs {
        let called: Vec<String> =
            (0..PROJECTS).map(|own| format!("`{}`", self.called.replace("OWN", name(own)))).collect();
        let mut found = Pairs::new();
        for finding in findings.as_array().unwrap().iter().filter(|finding| finding["finding"] == sort) {
            let message = finding["message"].as_str().unwrap();
            let mut named: Vec<(usize, usize)> = called
                .iter()
                .enumerate()
                .filter_map(|(own, name)| Some((message.find(name)?, own)))
                .collect();
            named.sort_unstable();
            let [(_, from), (_, to)] = named[..] else { panic!("two projects: {message}") };
            let (path, line) =
                (finding["place"]["path"].as_str().unwrap(), finding["place"]["line"].as_u64().unwrap());
            let file = if sort == "undeclared-dependency" { self.code.0 } else { self.manifest.0 };
            assert_eq!(path, file.replace("OWN", name(from)), "{message}");
            let text = project.read(path);
            let line = text.lines().nth(line as usize - 1).unwrap();
            assert!(line.contains(name(to)), "{message}: {line}");
            assert!(found.insert((from, to)), "said twice: {message}");
        }
        found
    }

    /// What the finding of an unused declaration proposes.
    fn way_out(&self, findings: &serde_json::Value, (from, to): Pair) -> String {
        let named = |project: usize| format!("`{}`", self.called.replace("OWN", name(project)));
        let message = format!("{} declares to use {}, but none of its code does", named(from), named(to));
        let found =
            findings.as_array().unwrap().iter().find(|finding| finding["message"] == message.as_str());
        found.unwrap()["way_out"].as_str().unwrap().to_owned()
    }

    fn judge(&self) {
        for_many((48, 8), &written(), |(mut uses, declared)| {
            if self.declares_first {
                uses.retain(|pair| declared.contains(pair));
            }
            let project = self.project(&uses, &declared);
            let answer = project.run(&["check", "--json"]).json();
            let undeclared = self.said(&project, &answer["findings"], "undeclared-dependency");
            let unused = self.said(&project, &answer["findings"], "unused-dependency");
            prop_assert_eq!(
                &undeclared,
                &self.undeclared(&uses, &declared),
                "uses {:?} of {:?}",
                uses,
                declared
            );
            prop_assert_eq!(&unused, &self.unused(&uses, &declared), "uses {:?} of {:?}", uses, declared);
            // What is proposed can be done: nobody misses what goes, unless the finding says so.
            for &pair in &unused {
                let way_out = self.way_out(&answer["findings"], pair);
                let relied_on = self.is_relied_on(&uses, &declared, &pair);
                prop_assert_eq!(way_out.starts_with("declare it in"), relied_on, "{}: {:?}", way_out, pair);
            }
            let mended: Pairs = declared.union(&undeclared).copied().collect();
            let answer = self.project(&uses, &mended).run(&["check", "--json"]).json();
            let left = self.said(&project, &answer["findings"], "undeclared-dependency");
            prop_assert_eq!(left, Pairs::new(), "uses {:?} of {:?}", uses, mended);
            Ok(())
        });
    }
}

#[test]
fn of_msbuild() {
    MSBUILD.judge();
}

#[test]
fn of_msbuild_in_the_old_style() {
    OLD_MSBUILD.judge();
}

#[test]
fn of_maven() {
    MAVEN.judge();
}

#[test]
fn of_gradle() {
    GRADLE.judge();
}

#[test]
fn of_packages_of_scripts() {
    NPM.judge();
}

#[test]
fn of_composer() {
    COMPOSER.judge();
}

#[test]
fn of_cargo() {
    CARGO.judge();
}
