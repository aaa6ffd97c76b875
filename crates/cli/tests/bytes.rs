//! Code as editors and other tools leave it: marks and blanks beyond ASCII where nobody sees them, line ends of both kinds.
//! None of it may change what the code means, where it is said to stand, or more of it than a move must.

#![allow(clippy::unwrap_used, clippy::expect_used, reason = "a test may fail loudly")]

mod common;

use common::{Project, used_by};

const BED: (&str, &str) = ("Bed.cs", "namespace Moss { public class Bed { public int Depth; } }");

#[test]
fn a_byte_order_mark_may_stand_anywhere() {
    // Two files were joined, or a licence was put before one.
    let label = "// note\r\n\u{feff}namespace Moss { public class Label { Bed bed; } }";
    let user = "\u{feff}// note\n\u{feff}using System;\nnamespace Moss { class User { Label label; } }";
    let files = [BED, ("Label.cs", label), ("User.cs", user)];
    assert_eq!(used_by("Label.cs", &files), ["Bed.cs"]);
    assert_eq!(used_by("User.cs", &files), ["Label.cs"]);
}

#[test]
fn blanks_beyond_ascii_part_names() {
    for blank in ['\u{a0}', '\u{2003}', '\u{202f}', '\u{3000}', '\u{feff}', '\u{85}'] {
        let user = format!("namespace{blank}Moss{blank}{{ class{blank}User{blank}{{ Bed{blank}bed; }} }}");
        assert_eq!(used_by("User.cs", &[BED, ("User.cs", &user)]), ["Bed.cs"], "{blank:?}");
    }
    let script = ("bed.js", "export const bed = 1;");
    let user = "import\u{a0}{ bed }\u{3000}from\u{feff}'./bed.js';";
    assert_eq!(used_by("user.js", &[script, ("user.js", user)]), ["bed.js"]);
}

#[test]
fn letters_beyond_ascii_stay_letters() {
    let bed = "namespace Moss { public class Bêche { } public class Ü { } }";
    let user = "namespace Moss { class User { Bêche a; Ü b; } }";
    let project = Project::new(&[("Bed.cs", bed), ("User.cs", user)]);
    let answer = project.run(&["export", "--level", "file"]);
    assert!(answer.out.contains("User.cs,Bed.cs,2"), "{}", answer.all());
}

#[test]
fn places_are_those_of_the_file_as_it_is() {
    let user =
        "\u{feff}// note\r\n\u{feff}namespace\u{a0}Moss {\r\n  class User { Bed\u{3000}bed; }\r\n}\r\n";
    let answer = Project::new(&[BED, ("User.cs", user)]).run(&["why", "User.cs", "Bed.cs"]);
    assert!(answer.out.contains("User.cs:3:16  class User { Bed"), "{}", answer.all());
}

#[test]
fn a_move_keeps_such_bytes() {
    let user = "// note\r\n\u{feff}using Moss.Beds;\r\n\r\nnamespace\u{a0}Moss\r\n{\r\n  class User {\u{3000}Bed bed; }\r\n}";
    let bed = "namespace Moss.Beds\n{\n  public class Bed\u{a0}{ }\n}\n";
    let built = "<Project Sdk=\"Microsoft.NET.Sdk\"/>";
    let project = Project::new(&[("Moss.csproj", built), ("Beds/Bed.cs", bed), ("User.cs", user)]);
    let before = project.snapshot();
    let moved = project.run(&["move", "Beds/Bed.cs", "Rows/Bed.cs", "--apply"]);
    assert_eq!(moved.status, 0, "{}", moved.all());
    assert_eq!(project.read("User.cs"), user.replace("Moss.Beds", "Moss.Rows"));
    assert_eq!(project.read("Rows/Bed.cs"), bed.replace("Moss.Beds", "Moss.Rows"));
    assert_eq!(project.run(&["undo"]).status, 0);
    assert_eq!(project.snapshot(), before);
}

#[test]
fn made_code_may_hold_bytes_of_any_sort() {
    let head = "<?php\n# made by a program\nnamespace Moss;\nclass Packed extends Bed {\n  const IT = '";
    let bed = ("Bed.php", "<?php\nnamespace Moss;\nclass Bed { }\n");
    // A zero byte far into the text is one of a string; near the start, or with many others, it tells that this is no text.
    for (filler, zeros, is_text) in [(600, 3, true), (600, 200, false), (10, 1, false)] {
        let project = Project::new(&[bed]);
        let packed = format!("{head}{}{}';\n}}\n", "-".repeat(filler), "\0".repeat(zeros));
        std::fs::write(project.root().join("Packed.php"), packed).unwrap();
        let answer = project.run(&["export", "--level", "file"]);
        assert_eq!(answer.out.contains("Packed.php,Bed.php,1"), is_text, "{filler}: {}", answer.all());
        assert_eq!(answer.err.contains("Packed.php is not text"), !is_text, "{filler}: {}", answer.all());
    }
}
