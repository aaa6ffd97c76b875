//! Makefiles and Meson's files, as text: the folders that they name for includes; never run.
//!
//! Settings: `include` (a folder for includes, from the manifest's folder). What begins with a variable, such as
//! `$(top_srcdir)/src`, is meant from the manifest's folder or one above it: `…/src`.

use super::text_of;
use ferngate_model::{ManifestFacts, ManifestReader, ProjectPath};
use rustc_hash::FxHashSet;

/// `Makefile` with its relatives.
#[derive(Debug)]
pub struct Makefile;

/// `meson.build`.
#[derive(Debug)]
pub struct Meson;

/// How a folder is written that is meant from the manifest's own or any folder above it.
pub const SOMEWHERE_ABOVE: &str = "…/";

const NAMES: &[&str] = &["makefile", "gnumakefile", "makefile.am", "makefile.in", "kbuild"];

impl ManifestReader for Makefile {
    fn matches(&self, file_name: &str) -> bool {
        NAMES.contains(&file_name) || file_name.ends_with(".mk")
    }

    fn read(&self, path: &ProjectPath, text: &[u8]) -> ManifestFacts {
        let text = text_of(text);
        let code = text.lines().filter(|line| !line.starts_with('#'));
        let words = code.flat_map(|line| line.split([' ', '\t', '=', '"', '\'', '`']));
        settings(path, include_folders(words).filter_map(from_above))
    }
}

impl ManifestReader for Meson {
    fn matches(&self, file_name: &str) -> bool {
        file_name == "meson.build"
    }

    fn read(&self, path: &ProjectPath, text: &[u8]) -> ManifestFacts {
        let text = text_of(text);
        let mut folders = Vec::new();
        for after in text.split("include_directories(").skip(1) {
            let arguments = after.split(')').next().unwrap_or_default();
            folders.extend(arguments.split('\'').skip(1).step_by(2).filter_map(from_above));
        }
        settings(path, folders.into_iter())
    }
}

fn settings(path: &ProjectPath, folders: impl Iterator<Item = String>) -> ManifestFacts {
    let mut facts = ManifestFacts { kind: "settings", path: Some(path.clone()), ..ManifestFacts::default() };
    let mut known = FxHashSet::default();
    let new = folders.filter(|folder| known.insert(folder.clone()));
    facts.settings.extend(new.map(|folder| ("include".to_owned(), folder)));
    facts
}

/// The folders for includes among the words of a compiler's command.
pub fn include_folders<'w>(mut words: impl Iterator<Item = &'w str>) -> impl Iterator<Item = &'w str> {
    std::iter::from_fn(move || {
        loop {
            let word = words.next()?;
            match ["-isystem", "-iquote", "-I"].iter().find_map(|flag| word.strip_prefix(flag)) {
                Some("") => return words.find(|word| !word.is_empty()),
                Some(folder) => return Some(folder),
                None => {}
            }
        }
    })
}

/// `written` from the manifest's folder, or from somewhere above it where it begins with a variable; `None` for what
/// cannot be known and for the machine's own folders.
fn from_above(written: &str) -> Option<String> {
    let variable = written.strip_prefix("$(").map(|rest| (rest, ')'));
    let variable = variable.or_else(|| written.strip_prefix("${").map(|rest| (rest, '}')));
    let (above, folder) = match variable {
        Some((rest, end)) => (true, rest.split_once(end)?.1.trim_start_matches('/')),
        None => (false, written),
    };
    let folder = folder.trim_end_matches(['/', '\\', ';', ',', ')']);
    if folder.contains(['$', '@', '*', '%']) || folder.starts_with(['/', '-']) {
        return None;
    }
    match (above, folder) {
        // All that a variable alone says is: some folder of the project. Its own is the likeliest.
        (true, "") | (false, "." | "") => Some(".".to_owned()),
        (true, folder) => Some(format!("{SOMEWHERE_ABOVE}{folder}")),
        (false, folder) => Some(format!("./{folder}")),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn folders(reader: &dyn ManifestReader, path: &str, text: &str) -> Vec<String> {
        let facts = reader.read(&ProjectPath::new(path), text.as_bytes());
        facts.settings_of("include").map(|(_, folder)| folder.to_owned()).collect()
    }

    #[test]
    fn reads_the_flags_of_makefiles() {
        let text = "# -Inot/this\nCFLAGS += -O2 -I../beds -I $(top_srcdir)/include -isystem third/ -I.\n\
                    valve.o: valve.c\n\tcc -I\"${SRC}/drivers\" -I/usr/include -I$(X)/$(Y) -I$(srcdir) -c $<\n";
        assert_eq!(
            folders(&Makefile, "valves/Makefile.am", text),
            ["./../beds", "…/include", "./third", ".", "…/drivers"]
        );
    }

    #[test]
    fn reads_the_folders_of_meson() {
        let text = "inc = include_directories('include', '../common')\nx = ['no']\ninclude_directories('.')";
        assert_eq!(folders(&Meson, "meson.build", text), ["./include", "./../common", "."]);
    }

    #[test]
    fn broken_texts_name_nothing() {
        for text in ["-I", "-I$(", "-I${a", "include_directories(", "include_directories('", "-I$()"] {
            assert!(folders(&Makefile, "Makefile", text).len() < 2, "{text}");
            assert!(folders(&Meson, "meson.build", text).len() < 2, "{text}");
        }
    }
}
