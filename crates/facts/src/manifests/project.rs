//! MSBuild projects: `.csproj`, both styles, and the settings that they share (`Directory.Build.props`, `.props`,
//! `.targets`, `.projitems`).
//!
//! Conditions are not evaluated: what stands in any branch counts.

use crate::xml::{Attribute, Piece, decode, pieces, whole_lines};
use ferngate_model::{
    ItemAction, ItemSlot, ManifestFacts, ManifestReader, OutsideReference, PathMention, ProjectPath,
    ProjectReference, Span,
};

/// MSBuild files.
#[derive(Debug)]
pub struct MsBuild;

const PROJECTS: &[&str] = &[".csproj", ".shproj"];
/// An item that a build turns into code is called so, `ProtoCompile`, or as its language.
const COMPILED: &str = "Compile";
/// A reference to a built library.
const ASSEMBLY: &str = "Reference";
const PACKAGE: &str = "PackageReference";
const MADE_FROM: &[&str] = &["Protobuf"];
const SETTINGS: &[&str] = &[".props", ".targets", ".projitems"];

impl ManifestReader for MsBuild {
    fn matches(&self, file_name: &str) -> bool {
        PROJECTS.iter().chain(SETTINGS).any(|ending| file_name.ends_with(ending))
    }

    fn read(&self, path: &ProjectPath, text: &[u8]) -> ManifestFacts {
        let is_project = PROJECTS.iter().any(|ending| path.as_str().to_ascii_lowercase().ends_with(ending));
        let mut reader = Reader {
            text,
            facts: ManifestFacts {
                kind: if is_project { "project" } else { "settings" },
                path: Some(path.clone()),
                name: path.stem().to_owned(),
                named_root: true,
                needs_bases: is_project,
                freely_named: true,
                ..ManifestFacts::default()
            },
            open: Vec::new(),
            property: None,
            last_reference: None,
            last_compile: None,
            project_end: None,
        };
        for piece in pieces(text) {
            reader.piece(piece);
        }
        reader.finish(is_project)
    }
}

struct Element {
    name: String,
    start: usize,
    /// The reference or mention that began here, to learn where its element ends.
    reference: Option<usize>,
    /// The reference to the outside that began here.
    outside: Option<usize>,
    mentions: std::ops::Range<usize>,
    include: Option<String>,
}

struct Reader<'t> {
    text: &'t [u8],
    facts: ManifestFacts,
    open: Vec<Element>,
    property: Option<Span>,
    last_reference: Option<Span>,
    last_compile: Option<Span>,
    project_end: Option<usize>,
}

impl Reader<'_> {
    fn piece(&mut self, piece: Piece) {
        match piece {
            Piece::Open { name, attributes, empty, span } => {
                let name = String::from_utf8_lossy(name.of(self.text)).into_owned();
                let mentions_before = self.facts.mentions.len();
                let references_before = self.facts.references.len();
                let outside_before = self.facts.outside.len();
                let include = self.item(&name, &attributes, span);
                let outside = (self.facts.outside.len() > outside_before).then_some(outside_before);
                let reference =
                    (self.facts.references.len() > references_before).then_some(references_before);
                let mentions = mentions_before..self.facts.mentions.len();
                let start = span.start as usize;
                let element = Element { name, start, reference, outside, mentions, include };
                self.property = None;
                if empty { self.ended(element, span.end as usize) } else { self.open.push(element) }
            }
            Piece::Text(span) => self.property = Some(span),
            Piece::Close { name, span } => {
                let name = String::from_utf8_lossy(name.of(self.text)).into_owned();
                if name == "Project" {
                    self.project_end = Some(span.start as usize);
                }
                // A close without its partner closes nothing.
                if let Some(at) = self.open.iter().rposition(|element| element.name == name) {
                    self.open.truncate(at + 1);
                    if let Some(element) = self.open.pop() {
                        self.text_of(&element);
                        self.ended(element, span.end as usize);
                    }
                }
                self.property = None;
            }
        }
    }

    /// Takes up an element by its attributes; returns its `Include`.
    fn item(&mut self, name: &str, attributes: &[Attribute], span: Span) -> Option<String> {
        let value = |wanted: &str| {
            let found = attributes.iter().find(|a| a.name.of(self.text) == wanted.as_bytes())?;
            Some(found.value)
        };
        if name == "Project" && value("Sdk").is_some() {
            (self.facts.takes_all, self.facts.transitive) = (true, true);
            (self.facts.takes_nested, self.facts.needs_bases) = (true, false);
        }
        let include = value("Include");
        let action = match name {
            COMPILED => ItemAction::Compile,
            "ProjectReference" => ItemAction::Reference,
            "Import" => ItemAction::Import,
            "EmbeddedResource"
            | "Content"
            | "None"
            | "Page"
            | "ApplicationDefinition"
            | "Resource"
            | "AdditionalFiles"
            | "SplashScreen" => ItemAction::Content,
            "Using" => {
                self.facts.imports.extend(include.into_iter().flat_map(|span| listed(self.text, span)));
                return None;
            }
            "InternalsVisibleTo" => {
                self.facts.friends.extend(include.map(|span| decode(span.of(self.text))));
                return None;
            }
            PACKAGE => {
                self.outside(PACKAGE, include?, span);
                return None;
            }
            ASSEMBLY => {
                self.outside(ASSEMBLY, include?, span);
                self.named_reference(include?, span);
                return include.map(|span| decode(span.of(self.text)));
            }
            _ => {
                let makes = MADE_FROM.contains(&name) || name.ends_with(COMPILED);
                self.facts.makes_code |= makes && include.is_some();
                return None;
            }
        };
        for (key, removes) in [("Include", false), ("Update", false), ("Remove", true), ("Project", false)] {
            if (key == "Project") != (action == ItemAction::Import) {
                continue;
            }
            let Some(paths) = value(key) else { continue };
            let action = match (removes, key) {
                (true, _) => ItemAction::Exclude,
                (_, "Update") if action == ItemAction::Compile => ItemAction::Content,
                _ => action,
            };
            self.paths(paths, action, span);
        }
        include.map(|span| decode(span.of(self.text)))
    }

    fn outside(&mut self, item: &'static str, include: Span, element: Span) {
        let written = decode(include.of(self.text));
        let name = written.split(',').next().unwrap_or_default().trim().to_owned();
        let has_path = written.contains(['/', '\\']);
        if !name.is_empty() {
            self.facts.outside.push(OutsideReference { item, name, element, has_path });
        }
    }

    /// A reference to an assembly by name or by its built file, which may be a sibling project's.
    fn named_reference(&mut self, include: Span, element: Span) {
        let written = decode(include.of(self.text));
        let file = written.rsplit(['/', '\\']).next().unwrap_or_default();
        let target = match file.rsplit_once('.') {
            Some((name, ending)) if ending.eq_ignore_ascii_case("dll") => {
                if file.len() < written.len() {
                    self.paths(include, ItemAction::Binary, element);
                }
                name.to_owned()
            }
            _ => written.split(',').next().unwrap_or_default().trim().to_owned(),
        };
        self.facts.references.push(ProjectReference { target, by_name: true, span: include, element });
    }

    fn paths(&mut self, list: Span, action: ItemAction, element: Span) {
        let mut start = list.start as usize;
        for part in list.of(self.text).split(|&byte| byte == b';') {
            let trimmed = part.trim_ascii();
            let lead = part.len() - part.trim_ascii_start().len();
            let span = Span::new(start + lead, start + lead + trimmed.len());
            start += part.len() + 1;
            if trimmed.is_empty() || memchr::memmem::find(trimmed, b"@(").is_some() {
                continue;
            }
            let written = decode(trimmed);
            if action == ItemAction::Reference {
                let target = written.clone();
                self.facts.references.push(ProjectReference { target, by_name: false, span, element });
            }
            let backslashes = written.contains('\\');
            self.facts.mentions.push(PathMention { action, span, written, element, backslashes });
        }
    }

    /// The text inside an element that has just closed.
    fn text_of(&mut self, element: &Element) {
        let Some(span) = self.property else { return };
        let text = decode(span.of(self.text).trim_ascii());
        match element.name.as_str() {
            "RootNamespace" => self.facts.root_namespace = Some(text),
            "AssemblyName" if !text.contains("$(") => self.facts.name = text,
            "DefineConstants" => {
                let all = text.split([';', ',', ' ']).map(str::trim);
                let stated = all.filter(|symbol| !symbol.is_empty() && !symbol.contains('$'));
                self.facts.symbols.extend(stated.map(str::to_owned));
            }
            "EnableDefaultCompileItems" if text.eq_ignore_ascii_case("false") => self.facts.takes_all = false,
            "HintPath" => {
                let around = self.open.last().and_then(|around| around.outside);
                if let Some(outside) = around.and_then(|at| self.facts.outside.get_mut(at)) {
                    outside.has_path = true;
                }
                let start = span.start as usize;
                let trimmed = span.of(self.text).trim_ascii();
                let lead = span.len() - span.of(self.text).trim_ascii_start().len();
                let span = Span::new(start + lead, start + lead + trimmed.len());
                let backslashes = text.contains('\\');
                let element = Span::new(element.start, span.end as usize);
                let (action, written) = (ItemAction::Binary, text);
                self.facts.mentions.push(PathMention { action, span, written, element, backslashes });
            }
            _ => {}
        }
    }

    /// Notes where an element ends.
    fn ended(&mut self, element: Element, end: usize) {
        let span = whole_lines(self.text, Span::new(element.start, end));
        if let Some(reference) = element.reference.and_then(|at| self.facts.references.get_mut(at)) {
            reference.element = span;
            if element.name == "ProjectReference" {
                self.last_reference = Some(Span::new(element.start, end));
            }
        }
        if let Some(outside) = element.outside.and_then(|at| self.facts.outside.get_mut(at)) {
            outside.element = Span::new(element.start, end);
        }
        for mention in &mut self.facts.mentions[element.mentions] {
            mention.element = span;
            if mention.action == ItemAction::Compile && element.include.is_some() {
                self.last_compile = Some(Span::new(element.start, end));
            }
        }
    }

    fn finish(mut self, is_project: bool) -> ManifestFacts {
        if is_project {
            self.facts.reference_slot = self.slot("ProjectReference", self.last_reference);
            self.facts.compile_slot = self.slot("Compile", self.last_compile);
            for item in [ASSEMBLY, PACKAGE] {
                let last = self.facts.outside.iter().rfind(|outside| outside.item == item);
                let slot = self.slot(item, last.map(|outside| outside.element));
                let start = format!("<{item} Include=\"");
                self.facts.outside_slots.extend(slot.map(|(at, before, after)| {
                    let before = before.strip_suffix(&start).unwrap_or_default().to_owned();
                    let after = after.strip_prefix("\" />").unwrap_or_default().to_owned();
                    ItemSlot { item, at, around: (before, after) }
                }));
            }
        }
        self.facts
    }

    /// Where another item goes: behind the last one of its sort, else in a group of its own at the end.
    fn slot(&self, name: &str, last: Option<Span>) -> Option<(usize, String, String)> {
        let newline = if memchr::memmem::find(self.text, b"\r\n").is_some() { "\r\n" } else { "\n" };
        if let Some(last) = last {
            let line = whole_lines(self.text, last);
            let indent =
                String::from_utf8_lossy(&self.text[line.start as usize..last.start as usize]).into_owned();
            let before = format!("{newline}{indent}<{name} Include=\"");
            return Some((last.end as usize, before, "\" />".to_owned()));
        }
        let end = self.project_end?;
        let before = format!("  <ItemGroup>{newline}    <{name} Include=\"");
        Some((end, before, format!("\" />{newline}  </ItemGroup>{newline}")))
    }
}

/// The parts of `A;B` at `span`, each with its place.
fn listed(text: &[u8], span: Span) -> impl Iterator<Item = (String, Span)> {
    let start = span.start as usize;
    let parts = span.of(text).split(|byte| *byte == b';').scan(start, |at, part| {
        let from = *at + part.len() - part.trim_ascii_start().len();
        *at += part.len() + 1;
        Some(Span::new(from, from + part.trim_ascii().len()))
    });
    parts.filter(|part| !part.is_empty()).map(|part| (decode(part.of(text)), part))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn read(text: &str) -> ManifestFacts {
        MsBuild.read(&ProjectPath::new("src/Visits/Mossgrove.Visits.csproj"), text.as_bytes())
    }

    #[test]
    fn reads_the_old_style_with_its_items() {
        let facts = read(
            "<Project ToolsVersion=\"4.0\">\n  <PropertyGroup>\n    <RootNamespace>Mossgrove.Visits</RootNamespace>\n  </PropertyGroup>\n  <ItemGroup>\n    <Compile Include=\"Tours\\Tour.cs\" />\n    <Compile Include=\"..\\Shared\\Clock.cs\">\n      <Link>Clock.cs</Link>\n    </Compile>\n    <ProjectReference Include=\"..\\Catalogue\\Catalogue.csproj\">\n      <Name>Catalogue</Name>\n    </ProjectReference>\n    <Reference Include=\"Labels, Version=1.0\"><HintPath>..\\lib\\Labels.dll</HintPath></Reference>\n  </ItemGroup>\n</Project>\n",
        );
        assert_eq!(facts.root_namespace.as_deref(), Some("Mossgrove.Visits"));
        assert!(!facts.takes_all);
        let written: Vec<&str> = facts.mentions.iter().map(|mention| mention.written.as_str()).collect();
        assert_eq!(
            written,
            [
                "Tours\\Tour.cs",
                "..\\Shared\\Clock.cs",
                "..\\Catalogue\\Catalogue.csproj",
                "..\\lib\\Labels.dll"
            ]
        );
        assert_eq!(facts.references.len(), 2);
        assert_eq!(facts.references[1].target, "Labels");
        let (at, before, after) = facts.reference_slot.unwrap();
        assert!(at > 0 && before.ends_with("<ProjectReference Include=\"") && after == "\" />");
    }

    #[test]
    fn reads_the_sdk_style() {
        let facts = read(
            "<Project Sdk=\"Microsoft.NET.Sdk\"><ItemGroup><Compile Remove=\"Old/**\" /><Using Include=\"Mossgrove.Shared\" /></ItemGroup></Project>",
        );
        assert!(facts.takes_all && facts.transitive);
        let imports: Vec<&str> = facts.imports.iter().map(|(name, _)| name.as_str()).collect();
        assert_eq!(imports, ["Mossgrove.Shared"]);
        assert_eq!(facts.mentions[0].action, ItemAction::Exclude);
    }
}
