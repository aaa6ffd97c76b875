//! Files that belong to another by their names, and go where it goes: the code behind a page, what a designer wrote, a
//! form's resources.

use super::Ground;
use super::request::Expanded;
use ferngate_model::{ProjectFacts, ProjectPath};

/// Adds the companions of all files that go elsewhere by themselves.
pub fn join(project: &ProjectFacts, ground: &Ground, expanded: &mut Expanded) {
    let mut joined: Vec<(usize, ProjectPath)> = Vec::new();
    for (file, new) in &expanded.files {
        let path = &project.files[*file].path;
        let language = project.files[*file].language.map(|at| ground.languages[at]);
        let families = language.map_or(&[][..], |language| language.naming().companions);
        let parts = |path: &ProjectPath| {
            parted(path.file_name(), families).map(|(stem, family)| (stem.to_owned(), family))
        };
        let (Some((stem, family)), Some((new_stem, _))) = (parts(path), parts(new)) else {
            continue;
        };
        let folder = path.parent();
        let first = project.files.partition_point(|other| other.path.as_str() < folder);
        for (other, found) in project.files.iter().enumerate().skip(first) {
            if !found.path.is_within(folder) {
                break;
            }
            let ending =
                found.path.file_name().strip_prefix(stem.as_str()).filter(|_| found.path.parent() == folder);
            let Some(ending) = ending.filter(|ending| belongs(family, ending)) else { continue };
            let beside = ProjectPath::resolve(new.parent(), &format!("{new_stem}{ending}"));
            if let (Some(target), true) = (beside, !expanded.files.contains_key(&other)) {
                joined.push((other, target));
            }
        }
    }
    expanded.files.extend(joined);
}

/// The name in front of the ending that says what sort of file it is, and the endings of its family.
fn parted<'n>(
    name: &'n str,
    families: &'static [&'static [&'static str]],
) -> Option<(&'n str, &'static [&'static str])> {
    families.iter().find_map(|family| {
        let stem = family.iter().find_map(|ending| name.strip_suffix(ending))?;
        (!stem.is_empty()).then_some((stem, *family))
    })
}

/// Whether `ending` is one of the family's; resources may be those of one language, such as `.de-CH.resx`.
fn belongs(family: &[&str], ending: &str) -> bool {
    let of_language = |inner: &str| {
        let mut parts = inner.split('-');
        let language = parts.next().unwrap_or_default();
        (2..=3).contains(&language.len())
            && inner.bytes().all(|byte| byte.is_ascii_alphanumeric() || byte == b'-')
    };
    let localized = || ending.strip_prefix('.')?.strip_suffix(".resx");
    family.contains(&ending) || family.contains(&".resx") && localized().is_some_and(of_language)
}

#[cfg(test)]
mod tests {
    use super::*;

    const FAMILIES: &[&[&str]] = &[
        &[".xaml.cs", ".xaml"],
        &[".razor.css", ".razor.cs", ".razor"],
        &[".Designer.cs", ".designer.cs", ".resx", ".cs"],
    ];

    #[test]
    fn tells_what_belongs_together() {
        let together = |name: &str, other: &str| {
            let (stem, family) = parted(name, FAMILIES).unwrap();
            other.strip_prefix(stem).is_some_and(|ending| belongs(family, ending))
        };
        assert!(together("Main.xaml", "Main.xaml.cs") && together("Main.xaml.cs", "Main.xaml"));
        assert!(together("Bed.cs", "Bed.resx") && together("Bed.cs", "Bed.de-CH.resx"));
        assert!(together("Bed.cs", "Bed.Designer.cs") && together("Tours.razor", "Tours.razor.css"));
        assert!(!together("Bed.cs", "Bedding.cs") && !together("Bed.cs", "Bed.Parts.cs"));
        assert!(!together("Bed.cs", "Bed.xaml") && !together("Bed.cs", "Bed.history.resx"));
    }
}
