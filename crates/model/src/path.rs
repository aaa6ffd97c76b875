use std::fmt;
use std::sync::Arc;

/// A path below the project's root: forward slashes, no leading or trailing slash, no `.` or `..`; the root is empty.
#[derive(Clone, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct ProjectPath(Arc<str>);

impl ProjectPath {
    /// Takes a path that is already in project form.
    pub fn new(text: &str) -> Self {
        Self(text.trim_matches('/').into())
    }

    /// Resolves `relative` (either slash) against the folder `folder`; `None` where it leaves the project.
    pub fn resolve(folder: &str, relative: &str) -> Option<Self> {
        let mut parts: Vec<&str> = folder.split('/').filter(|part| !part.is_empty()).collect();
        for part in relative.split(['/', '\\']) {
            match part {
                "" | "." => {}
                ".." => {
                    parts.pop()?;
                }
                other => parts.push(other),
            }
        }
        Some(Self(parts.join("/").into()))
    }

    /// The path as text.
    pub fn as_str(&self) -> &str {
        &self.0
    }

    /// The folder that holds it; empty for what lies in the root.
    pub fn parent(&self) -> &str {
        self.0.rfind('/').map_or("", |at| &self.0[..at])
    }

    /// The last part.
    pub fn file_name(&self) -> &str {
        self.0.rfind('/').map_or(&self.0, |at| &self.0[at + 1..])
    }

    /// The last part without what follows its last dot.
    pub fn stem(&self) -> &str {
        let name = self.file_name();
        name.rfind('.').filter(|&at| at > 0).map_or(name, |at| &name[..at])
    }

    /// What follows the last dot of the last part, as written; empty where there is none.
    pub fn extension(&self) -> &str {
        let name = self.file_name();
        name.rfind('.').filter(|&at| at > 0).map_or("", |at| &name[at + 1..])
    }

    /// Whether it is `folder` or lies below it; the root holds everything.
    pub fn is_within(&self, folder: &str) -> bool {
        self.below(folder).is_some()
    }

    /// The rest after `folder`; empty where it is `folder` itself, `None` where it lies elsewhere.
    pub fn below(&self, folder: &str) -> Option<&str> {
        if folder.is_empty() {
            return Some(&self.0);
        }
        let rest = self.0.strip_prefix(folder)?;
        if rest.is_empty() { Some(rest) } else { rest.strip_prefix('/') }
    }

    /// The path from the folder `folder` to here, with forward slashes and `..` as needed.
    pub fn relative_to(&self, folder: &str) -> String {
        let from: Vec<&str> = folder.split('/').filter(|part| !part.is_empty()).collect();
        let to: Vec<&str> = self.0.split('/').filter(|part| !part.is_empty()).collect();
        let shared = from.iter().zip(&to).take_while(|(a, b)| a == b).count();
        let mut parts = vec![".."; from.len() - shared];
        parts.extend(&to[shared..]);
        parts.join("/")
    }
}

impl fmt::Display for ProjectPath {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.0)
    }
}

impl fmt::Debug for ProjectPath {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{:?}", &*self.0)
    }
}

/// How many folders two paths of folders have in common, from the root: of copies of something, the one that shares
/// most with a file is the nearest to it.
pub fn shared_folders(one: &str, other: &str) -> usize {
    one.split('/').zip(other.split('/')).take_while(|(a, b)| a == b && !a.is_empty()).count()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn resolves_and_relates() {
        let path = ProjectPath::resolve("src/Desk", "..\\Catalogue\\Taxon.cs").unwrap();
        assert_eq!(path.as_str(), "src/Catalogue/Taxon.cs");
        assert_eq!(path.relative_to("src/Desk"), "../Catalogue/Taxon.cs");
        assert_eq!(path.relative_to("src/Catalogue"), "Taxon.cs");
        assert_eq!(path.relative_to(""), "src/Catalogue/Taxon.cs");
        assert!(ProjectPath::resolve("src", "../../x").is_none());
        assert_eq!(path.below("src/Cat"), None);
        assert_eq!((path.stem(), path.extension()), ("Taxon", "cs"));
    }
}
