//! Code that is compiled under a condition only, where imports come and go.

use super::names::Follower;
use super::texts::Texts;
use crate::resolve::{Container, NamespaceId, World};
use ferngate_model::{ConditionLine, FileFacts, Language, Span};
use memchr::memchr;
use std::collections::BTreeSet;

impl Follower<'_, '_> {
    /// The condition under which alone there is anything in `namespace`, unless all of `text` has it too: an import of
    /// it is wrong where that does not hold.
    pub(super) fn condition_of(
        &self,
        namespace: NamespaceId,
        text: &[u8],
        texts: &mut Texts,
    ) -> Option<String> {
        let language = self.world.languages[self.world.project.files[self.file].language?];
        let common = common_condition(self.world, namespace, texts);
        let own = std::str::from_utf8(text).ok().and_then(|text| language.whole_condition(text));
        common.filter(|common| own != Some(common))
    }
}

/// The condition under which alone there is anything in `namespace`.
pub(super) fn common_condition(world: &World, namespace: NamespaceId, texts: &mut Texts) -> Option<String> {
    let mut common: Option<String> = None;
    for entity in &world.table.entities {
        if entity.container != Container::Namespace(namespace) {
            continue;
        }
        for (file, _) in &entity.declarations {
            let source = &world.project.files[*file as usize];
            let language = world.languages[source.language?];
            let path = texts.old_path(&source.path);
            let declaring = std::str::from_utf8(texts.get(&path).ok()?).ok()?;
            let condition = language.whole_condition(declaring)?;
            if common.as_ref().is_some_and(|common| common != condition) {
                return None;
            }
            common.get_or_insert_with(|| condition.to_owned());
        }
    }
    common
}

/// Where code of a text is compiled under a condition only.
pub(super) struct Conditions<'t> {
    pub(super) language: &'t dyn Language,
    pub(super) text: &'t [u8],
}

impl Conditions<'_> {
    /// How many conditions are around `at`.
    pub(super) fn depth(&self, at: usize) -> i32 {
        self.lines(at).map(|line| self.step(line)).sum()
    }

    fn step(&self, line: &[u8]) -> i32 {
        match self.language.condition_line(line) {
            Some(ConditionLine::Begins) => 1,
            Some(ConditionLine::Ends) => -1,
            Some(ConditionLine::Branches | ConditionLine::Defines) | None => 0,
        }
    }

    /// The names that the conditions ask for.
    pub(super) fn names(&self) -> BTreeSet<String> {
        let asks = |line: &&[u8]| {
            let condition = self.language.condition_line(line);
            matches!(condition, Some(ConditionLine::Begins | ConditionLine::Branches))
        };
        let mut names = BTreeSet::new();
        for line in self.lines(self.text.len()).filter(asks) {
            let line = line.split(|byte| *byte == b'/').next().unwrap_or_default();
            let words = line.split(|byte| !(byte.is_ascii_alphanumeric() || *byte == b'_'));
            // The first word says what sort of line it is.
            let asked = words.filter(|word| !word.is_empty()).skip(1);
            let asked = asked.filter(|word| !matches!(*word, b"true" | b"false"));
            names.extend(asked.map(|word| String::from_utf8_lossy(word).into_owned()));
        }
        names
    }

    /// The code under conditions: for each the lines that begin, part and end it. What does not end is left out.
    pub(super) fn groups(&self) -> Vec<Vec<Span>> {
        let (mut open, mut groups, mut start) = (Vec::new(), Vec::new(), self.mark());
        for line in self.lines(self.text.len()) {
            let span = Span::new(start, start + line.len());
            start += line.len();
            match self.language.condition_line(line) {
                Some(ConditionLine::Begins) => open.push(vec![span]),
                Some(ConditionLine::Branches) => {
                    open.last_mut().into_iter().for_each(|group| group.push(span))
                }
                Some(ConditionLine::Ends) => {
                    if let Some(mut group) = open.pop() {
                        group.push(span);
                        groups.push(group);
                    }
                }
                Some(ConditionLine::Defines) | None => {}
            }
        }
        groups
    }

    /// The lines that say what holds in the file's conditions.
    pub(super) fn definitions(&self) -> Vec<Span> {
        let mut end = self.mark();
        let lines = self.lines(self.text.len()).map(|line| {
            let start = end;
            end += line.len();
            (Span::new(start, end), line)
        });
        let defines = |line: &[u8]| self.language.condition_line(line) == Some(ConditionLine::Defines);
        lines.filter(|(_, line)| defines(line)).map(|(span, _)| span).collect()
    }

    /// The lines up to `at`, behind a byte order mark.
    fn lines(&self, at: usize) -> impl Iterator<Item = &[u8]> {
        let mut rest = self.text.get(self.mark()..at).unwrap_or_default();
        std::iter::from_fn(move || {
            let end = memchr(b'\n', rest).map_or(rest.len(), |at| at + 1);
            let (line, after) = rest.split_at(end);
            rest = after;
            (end > 0).then_some(line)
        })
    }

    fn mark(&self) -> usize {
        if self.text.starts_with(b"\xEF\xBB\xBF") { 3 } else { 0 }
    }

    /// How many are around all of `scope`.
    pub(super) fn depth_of(&self, facts: &FileFacts, scope: u32) -> i32 {
        if scope > 0 {
            return facts.scopes.get(scope as usize).map_or(0, |scope| self.depth(scope.span.start as usize));
        }
        let text = std::str::from_utf8(self.text).unwrap_or_default();
        i32::from(self.language.whole_condition(text).is_some())
    }

    /// `at`, or the line of the first condition around it beyond `base`.
    pub(super) fn outside(&self, at: usize, base: i32) -> usize {
        let (mut depth, mut start, mut opened) = (0, self.mark(), None);
        for line in self.lines(at) {
            let before = depth;
            depth += self.step(line);
            match () {
                () if before == base && depth > base => opened = Some(start),
                () if depth <= base => opened = None,
                () => {}
            }
            start += line.len();
        }
        opened.unwrap_or(at)
    }
}
