//! Ties between files, ours against a judge's.

use std::collections::{BTreeMap, BTreeSet};
use std::path::{Path, PathBuf};
use std::process::Command;

pub type Tie = (String, String);

/// What a judge says: for each tie the sorts of the names that make it, with the names.
pub type Truth = BTreeMap<Tie, BTreeSet<(String, String)>>;

pub fn judge_source(name: &str) -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/judges").join(name)
}

pub fn run(command: &mut Command) -> String {
    let output = command.output().unwrap();
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    String::from_utf8(output.stdout).unwrap()
}

/// All our ties between files.
pub fn ours_of(root: &Path) -> BTreeSet<Tie> {
    let mut command = Command::new(env!("CARGO_BIN_EXE_ferngate"));
    let out = run(command.args(["export", "--level", "file", "--as", "csv", "-C"]).arg(root));
    let ties = out.lines().skip(1).filter_map(|line| {
        let mut fields = line.rsplitn(3, ',');
        let (_, to, from) = (fields.next()?, fields.next()?, fields.next()?);
        Some((from.to_owned(), to.to_owned()))
    });
    ties.collect()
}

/// Our ties between files with this extension.
pub fn ours(root: &Path, extension: &str) -> BTreeSet<Tie> {
    let is_code = |path: &str| path.ends_with(extension);
    ours_of(root).into_iter().filter(|(from, to)| is_code(from) && is_code(to)).collect()
}

/// Lines of sort, from, to and name with tabs between.
pub fn truth(out: &str) -> Truth {
    let mut truth = Truth::new();
    for line in out.lines() {
        let mut fields = line.split('\t').map(str::to_owned);
        let mut next = || fields.next().unwrap_or_default();
        let (sort, from, to, name) = (next(), next(), next(), next());
        truth.entry((from, to)).or_default().insert((sort, name));
    }
    truth
}

/// Recall on the ties that `counts` and precision on all, with the first ties that make them less than one.
pub struct Score {
    pub recall: f64,
    pub precision: f64,
    pub missed: Vec<String>,
    pub surplus: Vec<String>,
}

pub fn score(ours: &BTreeSet<Tie>, truth: &Truth, counts: impl Fn(&str) -> bool) -> Score {
    let strong: BTreeSet<&Tie> = truth
        .iter()
        .filter(|(_, names)| names.iter().any(|(sort, _)| counts(sort)))
        .map(|row| row.0)
        .collect();
    assert!(!strong.is_empty() && !ours.is_empty(), "nothing to compare");
    let missed: Vec<&&Tie> = strong.iter().filter(|tie| !ours.contains(**tie)).collect();
    let surplus: Vec<&Tie> = ours.iter().filter(|tie| !truth.contains_key(*tie)).collect();
    let score = Score {
        recall: 1.0 - missed.len() as f64 / strong.len() as f64,
        precision: 1.0 - surplus.len() as f64 / ours.len() as f64,
        missed: missed.iter().take(60).map(|tie| format!("{tie:?} by {:?}", truth[**tie])).collect(),
        surplus: surplus.iter().take(200).map(|tie| format!("{tie:?}")).collect(),
    };
    println!(
        "{} ties of ours, {} of the judge: recall {:.5}, precision {:.5}",
        ours.len(),
        strong.len(),
        score.recall,
        score.precision
    );
    if std::env::var_os("FERNGATE_DIFFERENCES").is_some() {
        println!("missed: {:#?}\nsurplus: {:#?}", score.missed, score.surplus);
    }
    score
}

pub fn exact(score: &Score) {
    assert!(score.missed.is_empty() && score.surplus.is_empty(), "{:#?}\n{:#?}", score.missed, score.surplus);
}
