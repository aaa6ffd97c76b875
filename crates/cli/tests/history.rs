//! Moves one after the other, taken back in any order that a user may choose: each undo leads to where the move began.

#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic, reason = "a test may fail loudly")]

mod common;

use common::{Project, for_many};
use proptest::prelude::*;
use proptest::sample::Index;

/// The bytes of every file and the names of every folder, for comparison.
fn bytes(project: &Project) -> Vec<(String, Vec<u8>)> {
    project.snapshot().into_iter().map(|(path, (bytes, _))| (path, bytes)).collect()
}

/// Code and folders of the C# part as they are now.
fn places(project: &Project) -> (Vec<String>, Vec<String>) {
    let all = project.snapshot().into_keys().filter(|path| path.starts_with("src/Mossgrove/"));
    let (folders, files): (Vec<String>, Vec<String>) = all.partition(|path| path.ends_with('/'));
    (files.into_iter().filter(|path| path.ends_with(".cs")).collect(), folders)
}

/// What a user does next.
#[derive(Clone, Debug)]
enum Step {
    File(Index, Index),
    Folder(Index, Index),
    Undo,
}

fn step() -> impl Strategy<Value = Step> {
    let index = any::<Index>;
    prop_oneof![
        3 => (index(), index()).prop_map(|(file, to)| Step::File(file, to)),
        1 => (index(), index()).prop_map(|(folder, to)| Step::Folder(folder, to)),
        2 => Just(Step::Undo),
    ]
}

#[test]
fn each_undo_leads_to_where_the_move_began() {
    for_many((25, 41), &prop::collection::vec(step(), 4..12), |steps| {
        let project = Project::demo();
        let (mut past, mut now) = (Vec::new(), bytes(&project));
        for step in steps {
            let (files, folders) = places(&project);
            let move_call =
                |from: &String, to: &String| ["move", "--apply", from, to].map(str::to_owned).to_vec();
            let call = match &step {
                Step::Undo => vec!["undo".to_owned()],
                Step::File(file, to) => move_call(file.get(&files), to.get(&folders)),
                Step::Folder(folder, to) => move_call(folder.get(&folders), to.get(&folders)),
            };
            let words: Vec<&str> = call.iter().map(String::as_str).collect();
            let answer = project.run(&words);
            let after = bytes(&project);
            match (&step, answer.status) {
                (Step::Undo, 0) => {
                    let before = past.pop().unwrap_or_else(|| now.clone());
                    prop_assert!(after == before, "{words:?} led elsewhere: {}", answer.all());
                    now = before;
                }
                (_, 0) => {
                    prop_assert!(after != now, "{words:?} said it moved: {}", answer.all());
                    past.push(std::mem::replace(&mut now, after));
                }
                (Step::Undo, _) => prop_assert!(false, "{}", answer.all()),
                (_, status) => {
                    prop_assert!(status <= 2, "{}", answer.all());
                    prop_assert!(
                        after == now,
                        "{words:?} was refused and changed something: {}",
                        answer.all()
                    );
                }
            }
        }
        while let Some(before) = past.pop() {
            prop_assert_eq!(project.run(&["undo"]).status, 0);
            prop_assert!(bytes(&project) == before);
        }
        let last = project.run(&["undo"]);
        prop_assert_eq!((last.status, last.first_line()), (0, "there is no move to take back"));
        Ok(())
    });
}

#[test]
fn each_move_keeps_what_every_file_refers_to() {
    let files = |project: &Project| {
        let data = project.run(&["survey", "--json"]).json();
        (data["files"].as_u64(), data["names"].as_u64())
    };
    for_many((25, 42), &prop::collection::vec(step(), 2..6), |steps| {
        let project = Project::demo();
        let counted = files(&project);
        for step in steps {
            let (files, folders) = places(&project);
            let (from, to) = match &step {
                Step::Undo => continue,
                Step::File(file, to) => (file.get(&files), to.get(&folders)),
                Step::Folder(folder, to) => (folder.get(&folders), to.get(&folders)),
            };
            let planned = project.run(&["move", "--json", from, to]);
            let applied = project.run(&["move", "--json", "--apply", from, to]);
            prop_assert_eq!(planned.status, applied.status);
            if applied.status != 0 {
                continue;
            }
            // What was shown is what was done.
            let (mut planned, mut applied) = (planned.json(), applied.json());
            planned["applied"].take();
            applied["applied"].take();
            prop_assert_eq!(planned, applied);
            // A plan for nothing new: the same move again is refused or there is nothing to move.
            prop_assert_ne!(project.run(&["move", from, to]).status, 0, "{} {}", from, to);
        }
        prop_assert_eq!(files(&project), counted);
        Ok(())
    });
}

#[test]
fn a_move_after_one_that_was_cut_short_is_planned_on_what_was_there_before() {
    let project = Project::demo();
    let before = bytes(&project);
    let first = ["move", "--apply", "src/Mossgrove/Models/Ticket.cs", "src/Mossgrove/Visits/"];
    assert_eq!(project.run(&first).status, 0);
    // What a fall of the machine leaves behind.
    let journal = ".ferngate/moves/000001/journal.json";
    let text = project.read(journal);
    assert!(text.contains("\"state\": \"done\""), "{text}");
    project.write(journal, &text.replace("\"state\": \"done\"", "\"state\": \"begun\""));
    // The file is where it was again, and so it can go.
    let second = project.run(&["move", "--apply", "src/Mossgrove/Models/Ticket.cs", "src/Mossgrove/Guides/"]);
    assert_eq!(second.status, 0, "{}", second.all());
    assert!(second.err.contains("a move that was cut short has been taken back first"), "{}", second.err);
    assert!(
        project.exists("src/Mossgrove/Guides/Ticket.cs") && !project.exists("src/Mossgrove/Visits/Ticket.cs")
    );
    assert_eq!(project.run(&["undo"]).status, 0);
    assert_eq!(bytes(&project), before);
}
