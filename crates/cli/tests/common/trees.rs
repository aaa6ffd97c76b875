//! Trees that are written by numbers, and judged.

use super::Project;
use super::numbers::Numbers;
use super::scores::Score;

/// Writes trees with `write`, and holds ours against what `judge` says.
pub fn for_trees(cases: u64, write: impl Fn(&mut Numbers) -> Project, judge: impl Fn(&Project) -> Score) {
    let seed = asked("FERNGATE_SEED").unwrap_or(1) * 1000;
    for case in 0..asked("FERNGATE_CASES").unwrap_or(cases) {
        let project = write(&mut Numbers::new(seed + case));
        let score = judge(&project);
        let wrong = [score.missed, score.surplus].concat();
        if let Some(first) = wrong.first().and_then(|tie| tie.split('"').nth(1)) {
            let text = project.read(first);
            panic!("{wrong:#?}\n--- {first}\n{text}\nThe tree is in {}", project.keep().display());
        }
    }
}

/// The number that a variable of the environment holds, if it is there.
pub fn asked(name: &str) -> Option<u64> {
    std::env::var(name).ok().and_then(|text| text.parse().ok())
}

/// A path of a folder and a name.
pub fn join(folder: &str, name: &str) -> String {
    if folder.is_empty() { name.to_owned() } else { format!("{folder}/{name}") }
}

/// A judgement in which what only we find does not count.
pub fn of_missed(score: Score) -> Score {
    Score { surplus: Vec::new(), ..score }
}
