//! Files below `META-INF/services`: each is called as a service, and its lines name the classes that provide it.

use super::listing::full_name;
use ferngate_model::{ManifestFacts, ManifestReader, NameMention, ProjectPath, Span};

/// `META-INF/services/org.mossgrove.valves.Valve`.
#[derive(Debug)]
pub struct Services;

impl ManifestReader for Services {
    fn matches(&self, _: &str) -> bool {
        false
    }

    fn matches_at(&self, path: &ProjectPath, _: &str) -> bool {
        let folder = path.parent();
        folder.ends_with("META-INF/services") && path.file_name() != ".gitkeep"
    }

    fn read(&self, path: &ProjectPath, text: &[u8]) -> ManifestFacts {
        let mut facts = ManifestFacts { kind: "list", path: Some(path.clone()), ..ManifestFacts::default() };
        if full_name(path.file_name().as_bytes()).is_some() {
            facts.names.push(NameMention { span: Span::new(0, 0), written: path.file_name().into() });
        }
        let mut start = 0;
        for line in text.split(|byte| *byte == b'\n') {
            let code = line.split(|byte| *byte == b'#').next().unwrap_or_default();
            let blanks = code.len() - code.trim_ascii_start().len();
            if let Some(written) = full_name(code.trim_ascii()) {
                let at = start + blanks;
                let span = Span::new(at, at + written.len());
                facts.names.push(NameMention { span, written: written.into() });
            }
            start += line.len() + 1;
        }
        facts
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn reads_providers() {
        let path = ProjectPath::new("src/main/resources/META-INF/services/org.moss.Valve");
        assert!(
            Services.matches_at(&path, "")
                && !Services.matches_at(&ProjectPath::new("services/org.moss.Valve"), "")
        );
        let facts = Services.read(&path, b"# ours\n  org.moss.Tap # plain\r\norg.moss.Hose");
        let names: Vec<(u32, &str)> =
            facts.names.iter().map(|name| (name.span.start, &*name.written)).collect();
        assert_eq!(names, [(0, "org.moss.Valve"), (9, "org.moss.Tap"), (31, "org.moss.Hose")]);
    }
}
