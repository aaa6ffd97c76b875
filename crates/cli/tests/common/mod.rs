//! A sealed place to run the built program in.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::print_stdout,
    clippy::panic,
    dead_code,
    reason = "a test may fail loudly"
)]

pub mod calls;
pub mod judged;
pub mod msbuild;
pub mod named;
pub mod numbers;
pub mod scores;
pub mod solution;
pub mod trees;
pub mod written;

use proptest::prelude::*;
use proptest::test_runner::{RngSeed, TestCaseError, TestRunner};
use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use std::process::Command;
use tempfile::TempDir;

/// A project in a temporary folder.
pub struct Project {
    folder: TempDir,
}

/// What the program answered.
#[derive(Debug)]
pub struct Answer {
    pub out: String,
    pub err: String,
    pub status: i32,
}

impl Answer {
    /// Everything in one text: standard output, standard error, exit status.
    pub fn all(&self) -> String {
        let mut text = self.out.clone();
        if !self.err.is_empty() {
            text.push_str("--- stderr\n");
            text.push_str(&self.err);
        }
        text.push_str(&format!("--- status {}\n", self.status));
        text
    }

    pub fn first_line(&self) -> &str {
        self.out.lines().next().unwrap_or_default()
    }

    pub fn json(&self) -> serde_json::Value {
        serde_json::from_str(&self.out).unwrap_or_else(|error| panic!("{error}: {}", self.all()))
    }
}

/// Holds `test` against so many values of `strategy`, the same ones at every run, and shows the smallest that fails.
pub fn for_many<S: Strategy>(
    (cases, seed): (u32, u64),
    strategy: &S,
    test: impl Fn(S::Value) -> Result<(), TestCaseError>,
) {
    let rng_seed = RngSeed::Fixed(seed);
    let config = ProptestConfig { cases, failure_persistence: None, rng_seed, ..ProptestConfig::default() };
    if let Err(error) = TestRunner::new(config).run(strategy, test) {
        panic!("{error}");
    }
}

/// The files that `user` depends on in a project of `files`.
pub fn used_by(user: &str, files: &[(&str, &str)]) -> Vec<String> {
    let answer = Project::new(files).run(&["export", "--level", "file"]);
    assert_eq!(answer.status, 0, "{}", answer.all());
    let rows = answer.out.lines().skip(1).filter_map(|line| line.strip_prefix(user)?.strip_prefix(','));
    rows.map(|row| row.split(',').next().unwrap_or_default().to_owned()).collect()
}

/// Path to bytes and permission bits of every file of a tree, `.ferngate` left out.
pub type Snapshot = BTreeMap<String, (Vec<u8>, std::time::SystemTime)>;

impl Project {
    /// Two projects; `visits` uses `catalogue`, and one line of `catalogue` uses `visits`.
    pub fn garden() -> Self {
        Self::new(&[
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

    /// A project of the given files.
    pub fn new(files: &[(&str, &str)]) -> Self {
        let project = Self { folder: tempfile::Builder::new().prefix("garden").tempdir().unwrap() };
        for (path, text) in files {
            project.write(path, text);
        }
        project
    }

    /// A copy of the demo.
    pub fn demo() -> Self {
        Self::copy_of("demo/mossgrove")
    }

    /// A copy of a folder of this crate, so that no map above it counts.
    pub fn copy_of(folder: &str) -> Self {
        let project = Self::new(&[]);
        copy(&Path::new(env!("CARGO_MANIFEST_DIR")).join(folder), project.root());
        project
    }

    pub fn root(&self) -> &Path {
        self.folder.path()
    }

    pub fn write(&self, path: &str, text: &str) {
        let path = self.root().join(path);
        std::fs::create_dir_all(path.parent().unwrap()).unwrap();
        std::fs::write(path, text).unwrap();
    }

    pub fn read(&self, path: &str) -> String {
        std::fs::read_to_string(self.root().join(path)).unwrap_or_else(|error| panic!("{path}: {error}"))
    }

    pub fn exists(&self, path: &str) -> bool {
        self.root().join(path).exists()
    }

    /// Runs the program with this project as the current folder.
    pub fn run(&self, arguments: &[&str]) -> Answer {
        self.run_with(&[], arguments)
    }

    /// The same with further variables of the environment.
    pub fn run_with(&self, variables: &[(&str, &str)], arguments: &[&str]) -> Answer {
        let output = Command::new(env!("CARGO_BIN_EXE_ferngate"))
            .args(arguments)
            .envs(variables.iter().copied())
            .current_dir(self.root())
            .env("NO_COLOR", "1")
            .stdin(std::process::Stdio::null())
            .output()
            .unwrap();
        let real = std::fs::canonicalize(self.root()).unwrap().display().to_string();
        let name = self.root().file_name().unwrap().to_string_lossy().into_owned();
        let text = |bytes: Vec<u8>| {
            String::from_utf8_lossy(&bytes).replace(&real, "$PROJECT").replace(&name, "garden")
        };
        Answer {
            out: text(output.stdout),
            err: text(output.stderr),
            status: output.status.code().unwrap_or(-1),
        }
    }

    /// Leaves the folder where it is, to be looked at.
    pub fn keep(self) -> PathBuf {
        self.folder.keep()
    }

    pub fn snapshot(&self) -> Snapshot {
        let mut found = Snapshot::new();
        collect(self.root(), self.root(), &mut found);
        found
    }
}

fn copy(from: &Path, to: &Path) {
    for entry in std::fs::read_dir(from).unwrap().flatten() {
        let target = to.join(entry.file_name());
        if entry.path().is_dir() {
            std::fs::create_dir_all(&target).unwrap();
            copy(&entry.path(), &target);
        } else {
            std::fs::copy(entry.path(), target).unwrap();
        }
    }
}

fn collect(root: &Path, folder: &Path, found: &mut Snapshot) {
    for entry in std::fs::read_dir(folder).unwrap().flatten() {
        let path: PathBuf = entry.path();
        if entry.file_name() == ".ferngate" {
            continue;
        }
        let name = path.strip_prefix(root).unwrap().display().to_string();
        if path.is_dir() {
            found.insert(format!("{name}/"), (Vec::new(), std::time::SystemTime::UNIX_EPOCH));
            collect(root, &path, found);
        } else {
            let modified = entry.metadata().unwrap().modified().unwrap();
            found.insert(name, (std::fs::read(&path).unwrap(), modified));
        }
    }
}
