//! What a move does to what `check` finds.

use super::MovePlan;
use crate::findings::Finding;
use crate::map::AssignError;
use crate::resolve::World;
use ferngate_model::ProjectPath;
use rustc_hash::FxHashSet;

/// Says what is wrong in a project, as `check` does by its map.
pub trait Judge {
    /// What is wrong in `world`: as the project is, or, where a move is `planned`, as it will be.
    ///
    /// # Errors
    /// Where the map cannot be laid on that world.
    fn findings(&mut self, world: World, planned: Option<&MovePlan>) -> Result<Vec<Finding>, AssignError>;
}

/// Adds to `plan` what it makes and what it ends of what is found; `found` is what was found before.
pub(super) fn compare(found: &[Finding], world: World, judge: &mut dyn Judge, plan: &mut MovePlan) {
    let now = match judge.findings(world, Some(plan)) {
        Ok(now) => now,
        Err(error) => {
            plan.warnings.push(format!("the map would not fit any more: {error}"));
            return;
        }
    };
    let said = |finding: &Finding| format!("{}: {}", finding.check, finding.message);
    let (old, new): (Vec<String>, Vec<String>) =
        (found.iter().map(said).collect(), now.iter().map(said).collect());
    let only = |these: &[String], others: &[String]| {
        let others: FxHashSet<&String> = others.iter().collect();
        these.iter().filter(|said| !others.contains(said)).cloned().collect()
    };
    plan.opened = only(&new, &old);
    plan.closed = only(&old, &new);
}

/// What a planned move says of paths that the disk still tells otherwise.
pub struct PlannedPaths<'p> {
    plan: &'p MovePlan,
    gone: FxHashSet<&'p str>,
    there: FxHashSet<&'p str>,
}

impl<'p> PlannedPaths<'p> {
    /// The paths of `plan`.
    pub fn new(plan: &'p MovePlan) -> Self {
        let gone = plan.renames.iter().map(|(old, _)| old).chain(&plan.removed);
        let gone = gone.map(ProjectPath::as_str).collect();
        let mut there = FxHashSet::default();
        for path in plan.renames.iter().map(|(_, new)| new).chain(&plan.created) {
            let mut path = path.as_str();
            // With a file come the folders above it.
            while !path.is_empty() && there.insert(path) {
                path = path.rfind('/').map_or("", |at| &path[..at]);
            }
        }
        Self { plan, gone, there }
    }

    /// Whether something will be at `path`, where `on_disk` tells whether something is at a path now.
    pub fn is_there(&self, path: &ProjectPath, on_disk: impl Fn(&ProjectPath) -> bool) -> bool {
        if self.there.contains(path.as_str()) {
            return true;
        }
        let comes_along = |(old, new): &(ProjectPath, ProjectPath)| {
            let below = path.below(new.as_str())?;
            Some(ProjectPath::new(&format!("{old}/{below}")))
        };
        if let Some(now) = self.plan.folders.iter().find_map(comes_along) {
            return !self.gone.contains(now.as_str()) && on_disk(&now);
        }
        let goes_along = |(old, _): &(ProjectPath, ProjectPath)| path.below(old.as_str()).is_some();
        let goes = self.gone.contains(path.as_str()) || self.plan.folders.iter().any(goes_along);
        !goes && on_disk(path)
    }
}
