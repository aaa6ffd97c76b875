//! R: two packages whose files bind the same few names in every way, and use them where a local value, a parameter or a
//! part of something is called so too.

use super::common::Project;
use super::common::numbers::Numbers;

/// Each package, and the one that it takes names from.
const PACKAGES: &[(&str, &str)] = &[("moss", "fern"), ("fern", "moss")];
/// What functions are called, and with values of other sorts what names there are. A call passes over plain values.
const CALLED: &[&str] = &["bed", "rose", "tour.bed", "rows"];
const NAMES: &[&str] = &["bed", "rose", "tour.bed", "rows", "beds", "crop", "leek", "kale_row"];
const FILES: &[&str] = &["aster", "birch", "cedar", "dahlia", "elder"];

/// How a name is bound outside of functions.
const BINDERS: &[&str] = &[
    "CALLED <- function(x) x",
    "`CALLED` <- function() NULL",
    "'CALLED' = function(y, ...) y",
    "setGeneric(\"CALLED\", function(x) standardGeneric(\"CALLED\"))",
    "suppressWarnings({\n  CALLED <- function(a,\n                   b) a\n})",
    "if (TRUE) {\n  CALLED <- \\() 1\n} else {\n  CALLED <- function() 2\n}",
    "assign(\"CALLED\", function() 2)",
    "(function(a) a) -> CALLED",
    "(function(a) a) ->> CALLED",
    "`%CALLED%` <- function(a, b) a",
    "zN <- try({ CALLED <- function() 3 }, silent = TRUE)",
    "PLAIN = 3",
    "PLAIN <<- c(1, 2)",
    "4 -> PLAIN",
    "\"PLAIN\" <- 1",
    "delayedAssign(\"PLAIN\", 3)",
    "for (i in 1:3) PLAIN <- i",
    "try(PLAIN <- 3)",
    "zN <- PLAIN <- 4",
    "PLAIN <- if (TRUE) 1 else 2",
];

/// How a name is used, or only seems to be.
const FORMS: &[&str] = &[
    "zN <- function(a) CALLED(a)",
    "zN <- function(a) NAME",
    "zN <- function(a) lapply(a, NAME)",
    "zN <- function(a = NAME) a",
    "zN <- function(a) a |> CALLED()",
    "zN <- \\(a) CALLED(a)",
    "zN <- function(a) a[NAME]",
    "zN <- function(a) a[[NAME]][OTHER]",
    "zN <- if (NAME) 1 else OTHER",
    "zN <- function(a) {\n  NAME$x <- a\n  a\n}",
    "zN <- function(a) {\n  NAME[1] <- a; a\n}",
    "zN <- function(a) -NAME + !OTHER",
    "zN <- function(a) switch(a, NAME = 1, OTHER)",
    "`zN` <- function(a) `CALLED`(a)",
    "zN <- function(a) function(NAME) NAME + OTHER",
    "zN <- function(a) {\n  CALLED <- a\n  CALLED()\n}",
    "zN <- function(CALLED) CALLED()",
    "zN <- function(a) { if (a) return(NAME); OTHER }",
    "zN <- function(a) while (NAME) { a <- CALLED(a) }",
    "zN <- list(a = NAME, OTHER = 2)",
    "zN <- function(a) tryCatch(CALLED(), error = function(e) OTHER)",
    "zN <- function(a) do.call(CALLED, list(OTHER = a))",
    "zN <- function(a)\n{\n  # OTHER\n  NAME\n}",
    "zN <- function(NAME) NAME +\n  OTHER\nyN <- list(NAME)",
    "zN <- function(NAME) {\n  NAME\n}\nyN <- list(NAME)",
    "zN <- function(NAME) if (NAME) 1 else\n  OTHER",
    "zN <- function(NAME) NAME * # of rain\n  NAME\nyN <- list(OTHER)",
    "zN <- list(function(NAME) NAME\n  + NAME, OTHER)",
    "zN <- (function(NAME) NAME\n  / NAME)(OTHER)",
    "{\n  zN <- function(NAME) if (NAME) NAME\n    else NAME\n  yN <- OTHER\n}",
    "zN <- function(NAME) if (NAME)\n  NAME else {\n  NAME\n}\nyN <- OTHER",
    "zN <- function(NAME)\n  while (NAME) # of rain\n    NAME\nyN <- OTHER",
    "zN <- function(NAME) yN <-\n  NAME\nyN <- OTHER",
    "zN <- sapply(1:3, function(NAME) NAME + 1) + NAME",
    "zN <- (\\(NAME) NAME)(OTHER)",
    "zN <- function(a, NAME = OTHER) a(NAME)",
    "zN <- function(a)\n  a %CALLED% 1",
    "zN <- list(public = list(NAME = function(a) { a$OTHER <- 1; CALLED() }))",
    "zN <- function(a) { b <- function(NAME) { NAME }; NAME }",
    "zN <- function(a) sapply(a, FUN = CALLED)",
    "zN <- Reduce(`+`, list(NAME))",
    "zN <- function(a) { NAME <<- 3 }",
    "zN <- function(a) { names(NAME) <- a; a }",
    "zN <- function(a) CALLED(a)$NAME",
    "zN <- function(a) !is.null(CALLED) && OTHER",
    "if (interactive()) CALLED()",
    "zN <- function(a, ...) {\n  UseMethod('NAME') # OTHER\n}\nyN <- CALLED()",
    "zN <- PACKAGE::CALLED(1)",
    "zN <- function(a) PACKAGE:::NAME",
    "zN <- function(a, b = PACKAGE::NAME$OTHER) b",
];
const LOOK_ALIKES: &[&str] = &[
    "# CALLED()",
    "zN <- 'CALLED()'",
    "zN <- r\"(CALLED() \" )\"",
    "zN <- r\"---[CALLED()]--]---\"",
    "zN <- function(NAME) NAME",
    "zN <- function(NAME, a = NAME) a",
    "zN <- function(a) { NAME <- a; NAME }",
    "zN <- function(a) { CALLED <- function() 1; CALLED() }",
    "zN <- function(a) a$NAME",
    "zN <- function(a) a$CALLED()",
    "zN <- function(a) a@NAME",
    "zN <- function(a) list(NAME = a)",
    "zN <- function(...) for (NAME in 1:3) print(NAME)",
    "zN <- function(a) sapply(a, function(NAME) NAME)",
    "zN <- function(a) sapply(a, \\(NAME) NAME)",
    "zN <- function(a) \"\\\"CALLED()\"",
    "zN <- function(a) 'CALLED(\\'' # '",
    "zN <- 1e3L # NAME",
    "local({ NAME <- 3 })",
    "zN <- function() {\n  for (NAME in 1:3) {}\n  NAME\n}",
    "zN <- function(a) { repeat { NAME <- 1; break }; NAME }",
    "zN <- function(a) {\n  if (a) NAME <- 1\n  NAME\n}",
    "zN <- function(a) { 3 -> NAME; NAME }",
    "zN <- function(a, NAME) {\n  b <- function(c) NAME + c\n  b(NAME)\n}",
    "zN <- function(NAME) function(a) NAME",
    "zN <- function(NAME)\n  NAME",
    "zN <- function(NAME) NAME; yN <- 1",
];

pub fn write(numbers: &mut Numbers) -> Project {
    let project = Project::new(&[]);
    for (package, other) in PACKAGES {
        project.write(&format!("{package}/DESCRIPTION"), &format!("Package: {package}\nVersion: 1.0\n"));
        let mut takes = String::new();
        for name in NAMES {
            if numbers.one_in(3) {
                takes.push_str(&format!("export({name})\n"));
            }
            if numbers.one_in(6) {
                takes.push_str(&format!("importFrom({other}, {name})\n"));
            }
        }
        if numbers.one_in(4) {
            takes.push_str(&format!("import({other})\n"));
        }
        project.write(&format!("{package}/NAMESPACE"), &takes);
        for (at, file) in FILES.iter().enumerate() {
            let ending = numbers.of(&["R", "r"]);
            project.write(&format!("{package}/R/{file}.{ending}"), &text(numbers, at % 2));
        }
    }
    project
}

/// The text of a file that binds every second name, beginning with the one at `first`: a name that more than three files
/// bind means none of them.
fn text(numbers: &mut Numbers, first: usize) -> String {
    let half = |names: &[&'static str]| names.iter().skip(first).step_by(2).copied().collect::<Vec<_>>();
    let mut lines = String::new();
    for at in 0..9 {
        let (form, called) = match numbers.next() % 9 {
            0 | 1 => (numbers.of(BINDERS), half(CALLED)),
            2..=4 => (numbers.of(LOOK_ALIKES), CALLED.to_vec()),
            _ => (numbers.of(FORMS), CALLED.to_vec()),
        };
        let (name, other) = (numbers.of(NAMES), numbers.of(NAMES));
        let called = *numbers.of(&called);
        let plain = *numbers.of(&half(&NAMES[CALLED.len()..]));
        let (package, _) = numbers.of(PACKAGES);
        let line = form.replace("CALLED", called).replace("PLAIN", plain);
        let line = line.replace("NAME", name).replace("OTHER", other).replace("PACKAGE", package);
        lines.push_str(&line.replace("zN", &format!("z{at}")).replace("yN", &format!("y{at}")));
        lines.push('\n');
    }
    lines
}
