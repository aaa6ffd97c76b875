//! Names found by a part of them.

#![allow(clippy::unwrap_used, clippy::expect_used, reason = "a test may fail loudly")]

mod common;

use common::Project;

#[test]
fn find_says_where_a_name_lives_and_who_uses_it() {
    let garden = Project::copy_of("demo/mossgrove");
    let answer = garden.run(&["find", "Ticket"]);
    assert_eq!(answer.status, 0, "{}", answer.all());
    assert_eq!(
        answer.first_line(),
        "Mossgrove.Models.Ticket lives in models: src/Mossgrove/Models/Ticket.cs:7:18"
    );
    for line in ["  beside it TicketFee, FeeKind", "used by 3 files, in 6 places", "names like it"] {
        assert!(answer.out.lines().any(|found| found == line), "{line}\n{}", answer.all());
    }
    // A part of a name, in any capitals, lists what it may be.
    let answer = garden.run(&["find", "ticket", "--json"]).json();
    let names: Vec<&str> =
        answer["names"].as_array().unwrap().iter().map(|found| found["name"].as_str().unwrap()).collect();
    assert_eq!(
        names,
        ["Mossgrove.Models.Ticket", "Mossgrove.Models.TicketFee", "Mossgrove.Web.Shared.TicketTable"]
    );
    assert!(garden.run(&["find", "icke"]).first_line().ends_with("names are like `icke`"));
    // Mentions are known, and are no uses.
    let taxon = garden.run(&["find", "Taxon"]);
    assert!(
        taxon.out.contains("mentioned in comments, strings and settings; no dependencies"),
        "{}",
        taxon.all()
    );
    assert!(taxon.out.contains("src/Catalogue/Specimen.cs:3:44"), "{}", taxon.all());
}

#[test]
fn find_knows_what_is_imported_by_path() {
    let project = Project::new(&[
        ("beds.ts", "export class Bed {}\nexport const width = 3;\n"),
        ("all.ts", "export { Bed } from \"./beds\";\n"),
        (
            "walk.ts",
            "import { Bed } from \"./all\";\nimport * as beds from \"./beds\";\nbeds.width;\nnew Bed();\n",
        ),
    ]);
    let answer = project.run(&["find", "Bed"]);
    assert!(answer.first_line().ends_with("beds.ts:1:14"), "{}", answer.all());
    assert!(answer.out.contains("walk.ts:1:"), "{}", answer.all());
    let width = project.run(&["find", "width"]);
    assert!(width.out.contains("files that take in the whole file in which it stands"), "{}", width.all());
}

#[test]
fn find_says_what_is_near_where_there_is_nothing() {
    let garden = Project::copy_of("demo/mossgrove");
    let answer = garden.run(&["find", "Mossgrove.Visits.Ticket"]);
    assert_eq!(answer.status, 2);
    assert!(answer.all().contains("its last part is like `Mossgrove.Models.Ticket`"), "{}", answer.all());
    assert!(garden.run(&["find", "Tikcet"]).all().contains("did you mean `Ticket`?"));
    assert_eq!(garden.run(&["find", " "]).status, 2);
}
