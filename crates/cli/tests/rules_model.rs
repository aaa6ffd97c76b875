//! Rules against a plain model of them: random modules, uses, layers and sentences; what the program forbids is what the
//! table of the map's reference forbids.

#![allow(clippy::unwrap_used, clippy::expect_used, reason = "a test may fail loudly")]

mod common;

use common::Project;
use proptest::collection::{btree_set, vec};
use proptest::prelude::*;
use proptest::test_runner::RngSeed;
use std::collections::BTreeSet;

const MODULES: usize = 6;

/// One sentence of a map, about modules by their numbers.
#[derive(Clone, Debug)]
enum Sentence {
    May(usize, BTreeSet<usize>),
    MustNot(BTreeSet<usize>, usize),
    Only(BTreeSet<usize>, usize),
    EachOther(BTreeSet<usize>),
}

fn names(modules: &BTreeSet<usize>) -> String {
    modules.iter().map(|module| format!("m{module}")).collect::<Vec<_>>().join(", ")
}

impl Sentence {
    fn spelled(&self) -> String {
        match self {
            Sentence::May(subject, objects) if objects.is_empty() => format!("m{subject} may use nothing"),
            Sentence::May(subject, objects) => format!("m{subject} may use {}", names(objects)),
            Sentence::MustNot(subjects, object) => format!("{} must not use m{object}", names(subjects)),
            Sentence::Only(subjects, object) => format!("only {} may use m{object}", names(subjects)),
            Sentence::EachOther(subjects) => format!("{} must not use each other", names(subjects)),
        }
    }
}

/// A project: who uses whom, the layer of each module that has one, and the sentences.
#[derive(Clone, Debug)]
struct Garden {
    uses: BTreeSet<(usize, usize)>,
    layers: Option<Vec<usize>>,
    sentences: Vec<Sentence>,
}

impl Garden {
    fn permits(&self, user: usize, used: usize) -> bool {
        let all = || self.sentences.iter();
        let forbids = |sentence: &Sentence| match sentence {
            Sentence::MustNot(subjects, object) => subjects.contains(&user) && *object == used,
            Sentence::EachOther(both) => both.contains(&user) && both.contains(&used),
            _ => false,
        };
        if all().any(forbids) {
            return false;
        }
        let reserving = || {
            all().filter_map(|sentence| match sentence {
                Sentence::Only(subjects, object) if *object == used => Some(subjects),
                _ => None,
            })
        };
        if reserving().count() > 0 {
            return reserving().any(|subjects| subjects.contains(&user));
        }
        let own = || {
            all().filter_map(|sentence| match sentence {
                Sentence::May(subject, objects) if *subject == user => Some(objects),
                _ => None,
            })
        };
        if own().count() > 0 {
            return own().any(|objects| objects.contains(&used));
        }
        self.layers.as_ref().is_none_or(|layers| layers[used] <= layers[user])
    }

    fn project(&self) -> Project {
        let project = Project::new(&[]);
        for module in 0..MODULES {
            let used = self.uses.iter().filter(|(user, _)| *user == module);
            let imports: String = used.map(|(_, used)| format!("import \"../m{used}/bed.js\";\n")).collect();
            project.write(&format!("m{module}/bed.js"), &format!("{imports}export const bed = {module};\n"));
        }
        let mut map = String::new();
        if let Some(layers) = &self.layers {
            let highest = layers.iter().max().copied().unwrap_or_default();
            let shelves = (0..=highest)
                .map(|layer| (0..MODULES).filter(|m| layers[*m] == layer).collect::<BTreeSet<_>>());
            let shelves: Vec<String> = shelves
                .filter(|shelf| !shelf.is_empty())
                .map(|shelf| format!("\"{}\"", names(&shelf)))
                .collect();
            map.push_str(&format!("layers = [{}]\n", shelves.join(", ")));
        }
        let sentences: Vec<String> =
            self.sentences.iter().map(|sentence| format!("\"{}\"", sentence.spelled())).collect();
        map.push_str(&format!("rules = [{}]\n[modules]\n", sentences.join(", ")));
        (0..MODULES).for_each(|module| map.push_str(&format!("m{module} = \"m{module}\"\n")));
        project.write("ferngate.toml", &map);
        project
    }
}

fn sentence() -> impl Strategy<Value = Sentence> {
    let module = 0..MODULES;
    let some = |least| btree_set(0..MODULES, least..=3);
    prop_oneof![
        (module.clone(), some(0)).prop_map(|(subject, objects)| Sentence::May(subject, objects)),
        (some(1), module.clone()).prop_map(|(subjects, object)| Sentence::MustNot(subjects, object)),
        (some(1), module).prop_map(|(subjects, object)| Sentence::Only(subjects, object)),
        some(2).prop_map(Sentence::EachOther),
    ]
}

fn garden() -> impl Strategy<Value = Garden> {
    let uses = btree_set((0..MODULES, 0..MODULES), 1..=14);
    let layers = proptest::option::of(vec(0..3usize, MODULES));
    (uses, layers, vec(sentence(), 0..=5)).prop_map(|(uses, layers, sentences)| Garden {
        uses: uses.into_iter().filter(|(user, used)| user != used).collect(),
        layers,
        sentences,
    })
}

/// The uses that the program does not permit, by the files that its findings point at and the modules that they name.
fn forbidden(project: &Project) -> BTreeSet<(usize, usize)> {
    let check = project.run(&["check", "--only", "not-permitted", "--json"]).json();
    let number = |text: &str| text.trim_start_matches('m').parse::<usize>().unwrap();
    let findings = check["findings"].as_array().unwrap().iter();
    findings
        .map(|finding| {
            let path = finding["place"]["path"].as_str().unwrap();
            let message = finding["message"].as_str().unwrap();
            let quoted: Vec<&str> = message.split('`').collect();
            // `m1` may not use `bed.js` of `m2`
            let (user, used) = (quoted[1], quoted[quoted.len() - 2]);
            assert!(path.starts_with(&format!("{user}/")), "{message} at {path}");
            (number(user), number(used))
        })
        .collect()
}

proptest! {
    #![proptest_config(ProptestConfig {
        cases: 150,
        failure_persistence: None,
        rng_seed: RngSeed::Fixed(20),
        ..ProptestConfig::default()
    })]

    #[test]
    fn what_is_forbidden_is_what_the_sentences_say(garden in garden()) {
        let project = garden.project();
        let expected: BTreeSet<(usize, usize)> =
            garden.uses.iter().copied().filter(|(user, used)| !garden.permits(*user, *used)).collect();
        prop_assert_eq!(forbidden(&project), expected, "{}", project.read("ferngate.toml"));
        // `why` says the same of each use.
        for (user, used) in &garden.uses {
            let why = project.run(&["why", &format!("m{user}"), &format!("m{used}"), "--json"]).json();
            prop_assert_eq!(why["permitted"].as_bool(), Some(garden.permits(*user, *used)));
        }
    }
}
