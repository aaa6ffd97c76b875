//! Circles that are known before they are read: modules with any ties between them. The groups, the shortest ways round
//! and the cheapest cuts that the program names must be those of the graph that was written, and a tree without the
//! ties of a cut must have no circle left.

#![allow(clippy::unwrap_used, clippy::expect_used, reason = "a test may fail loudly")]

mod common;

use common::{Project, for_many};
use proptest::prelude::*;
use std::collections::{BTreeMap, BTreeSet};

/// Modules of one tree.
const MODULES: usize = 5;

/// From one module to another, with the number of references.
type Ties = BTreeMap<(usize, usize), usize>;

fn written() -> impl Strategy<Value = Ties> {
    let pair = (0..MODULES, 0..MODULES).prop_filter("another", |(from, to)| from != to);
    prop::collection::btree_map(pair, 1..5usize, 0..12)
}

fn project(ties: &Ties) -> Project {
    let project = Project::new(&[]);
    let mut map = String::from("[modules]\n");
    for own in 0..MODULES {
        let mut fields = String::new();
        for ((_, to), count) in ties.iter().filter(|((from, _), _)| *from == own) {
            (0..*count).for_each(|at| fields.push_str(&format!("  public M{to}.Kind{to} f{to}_{at};\n")));
        }
        let text = format!("namespace M{own};\npublic class Kind{own} {{\n{fields}}}\n");
        project.write(&format!("m{own}/Kind{own}.cs"), &text);
        map.push_str(&format!("m{own} = \"m{own}\"\n"));
    }
    project.write("ferngate.toml", &map);
    project
}

/// For each module those that it reaches by at least one tie, with the number of ties on the shortest way.
fn distances(ties: &Ties, from: usize) -> BTreeMap<usize, usize> {
    let mut found = BTreeMap::new();
    let mut edge = BTreeSet::from([from]);
    for steps in 1..=MODULES {
        let next = ties.keys().filter(|(from, to)| edge.contains(from) && !found.contains_key(to));
        let next: BTreeSet<usize> = next.map(|(_, to)| *to).collect();
        found.extend(next.iter().map(|to| (*to, steps)));
        edge = next;
    }
    found
}

/// The modules that reach each other, the groups sorted.
fn groups(ties: &Ties) -> BTreeSet<Vec<usize>> {
    let reached: Vec<_> = (0..MODULES).map(|module| distances(ties, module)).collect();
    let both = |a: usize, b: usize| reached[a].contains_key(&b) && reached[b].contains_key(&a);
    let group = |of: usize| (0..MODULES).filter(|other| both(of, *other)).collect::<Vec<usize>>();
    (0..MODULES).map(group).filter(|group| group.len() > 1).collect()
}

/// The fewest references that run backwards in any order of `group`.
fn lightest(ties: &Ties, order: &mut Vec<usize>, left: &BTreeSet<usize>) -> usize {
    let behind = |order: &[usize]| -> usize {
        let last = order[order.len() - 1];
        let before = |(from, to): &(usize, usize)| *from == last && order[..order.len() - 1].contains(to);
        ties.iter().filter(|(tie, _)| before(tie)).map(|(_, count)| count).sum()
    };
    let each = left.iter().map(|&next| {
        order.push(next);
        let others = left.iter().copied().filter(|other| *other != next).collect();
        let cost = behind(order) + lightest(ties, order, &others);
        order.pop();
        cost
    });
    each.min().unwrap_or_default()
}

fn module(value: &serde_json::Value) -> usize {
    value.as_str().unwrap()[1..].parse().unwrap()
}

fn modules(value: &serde_json::Value) -> Vec<usize> {
    value.as_array().unwrap().iter().map(module).collect()
}

#[test]
fn circles_are_those_that_were_written() {
    for_many((60, 5), &written(), |ties| {
        let answer = project(&ties).run(&["cycles", "--json"]).json();
        let cycles = answer["cycles"].as_array().unwrap();
        let found: BTreeSet<Vec<usize>> = cycles.iter().map(|cycle| modules(&cycle["modules"])).collect();
        prop_assert_eq!(&found, &groups(&ties));
        let mut left = ties.clone();
        for cycle in cycles {
            let group = modules(&cycle["modules"]);
            let way = modules(&cycle["way"]);
            for (at, from) in way.iter().enumerate() {
                prop_assert!(
                    ties.contains_key(&(*from, way[(at + 1) % way.len()])),
                    "no such tie in {:?}",
                    way
                );
            }
            let shortest = group.iter().map(|module| distances(&ties, *module)[module]).min();
            prop_assert_eq!(Some(way.len()), shortest);
            let mut weight = 0;
            for cut in cycle["cuts"].as_array().unwrap() {
                let count = left.remove(&(module(&cut["from"]), module(&cut["to"])));
                prop_assert_eq!(count.map(|count| count as u64), cut["references"].as_u64());
                weight += count.unwrap_or_default();
            }
            let inside: BTreeSet<usize> = group.iter().copied().collect();
            prop_assert_eq!(
                weight,
                lightest(&ties, &mut Vec::new(), &inside),
                "a cheaper cut of {:?}",
                group
            );
            prop_assert_eq!(cycle["cheapest"].as_bool(), Some(true));
        }
        let opened = project(&left);
        prop_assert_eq!(opened.run(&["cycles", "--json"]).json()["cycles"].as_array().unwrap().len(), 0);
        let check = opened.run(&["check", "--only", "cycle"]);
        prop_assert_eq!(check.status, 0, "{}", check.all());
        Ok(())
    });
}
