//! Code under conditions that hold in the project that a file leaves and not in the one that it enters, or the other way
//! round: other code than before is compiled there.

use super::conditions::Conditions;
use super::past::{Order, Past};
use super::texts::Texts;
use super::{Ground, MoveError, MovePlan};
use crate::resolve::Ownership;
use ferngate_model::ProjectFacts;
use std::collections::BTreeSet;

/// Warns of each such condition, by file.
pub(super) fn warn(
    after: &ProjectFacts,
    order: &Order,
    past: &Past,
    now: &Ownership,
    texts: &mut Texts,
    ground: &Ground,
    plan: &mut MovePlan,
) -> Result<(), MoveError> {
    for (new, old) in order.iter().enumerate() {
        let (left, entered) = (&past.ownership.owners[*old], &now.owners[new]);
        let file = &after.files[new];
        let (Some(language), false) =
            (file.language, left == entered || left.is_empty() || entered.is_empty())
        else {
            continue;
        };
        let language = ground.languages[language];
        let key = texts.old_path(&file.path);
        let asked = Conditions { language, text: texts.get(&key)? }.names();
        let holds = |owners: &[u32], name: &String| {
            owners.iter().any(|owner| after.manifests[*owner as usize].symbols.contains(name))
        };
        let names = |owners: &[u32]| {
            let names = owners.iter().map(|owner| after.manifests[*owner as usize].name.as_str());
            names.collect::<BTreeSet<_>>().into_iter().collect::<Vec<_>>().join(", ")
        };
        for name in asked {
            let (with, without) = match (holds(left, &name), holds(entered, &name)) {
                (true, false) => (left, entered),
                (false, true) => (entered, left),
                _ => continue,
            };
            plan.warnings.push(format!(
                "{}: `{name}` holds in {} and not in {}, so that other code of it is compiled",
                file.path,
                names(with),
                names(without)
            ));
        }
    }
    Ok(())
}
