//! Prefixes of markup that stand for namespaces follow.

use super::names::{Follower, Meant};
use super::texts::Texts;
use crate::resolve::EntityId;
use ferngate_model::{Edit, FileFacts, Import, Root, Span};
use std::collections::{BTreeMap, BTreeSet};

impl Follower<'_, '_> {
    /// Markup: the namespace of a prefix follows what is named with it.
    pub(super) fn markup(&self, facts: &FileFacts, text: &[u8], texts: &mut Texts) {
        for import in &facts.imports {
            let through: Vec<&Meant> = self
                .meant
                .iter()
                .filter(|meant| self.chain(facts, meant.used).0 == Some(Root::Scope(import.scope)))
                .collect();
            let homes: BTreeSet<(String, Option<String>)> =
                through.iter().map(|meant| self.markup_home(meant.entity)).collect();
            let written = markup_written(text, import);
            match homes.len() {
                0 => {}
                1 => {
                    if let Some(home) = homes.first().filter(|home| !same_home(home, &written)) {
                        let new = markup_spelled(home);
                        let edit = Edit { span: written.2, text: new, what: "prefix of markup follows" };
                        texts.edit(self.path, edit, home.0.clone());
                    }
                }
                _ => self.second_prefix(facts, text, &through, &written, texts),
            }
        }
    }

    /// Names behind one prefix went to several namespaces: those that left get a prefix of their own.
    pub(super) fn second_prefix(
        &self,
        facts: &FileFacts,
        text: &[u8],
        through: &[&Meant],
        written: &(String, Option<String>, Span),
        texts: &mut Texts,
    ) {
        let mut made: BTreeMap<(String, Option<String>), String> = BTreeMap::new();
        for meant in through {
            let home = self.markup_home(meant.entity);
            if same_home(&home, written) {
                continue;
            }
            let prefix = made.entry(home.clone()).or_insert_with(|| prefix_for(&home.0, text)).clone();
            for occurrence in
                facts.occurrences.iter().filter(|place| place.used == meant.used && place.is_spelled())
            {
                let colon = occurrence.span.start as usize - 1;
                let length = text[..colon]
                    .iter()
                    .rev()
                    .take_while(|b| b.is_ascii_alphanumeric() || **b == b'_')
                    .count();
                let span = Span::new(colon - length, colon);
                texts.edit(
                    self.path,
                    Edit { span, text: prefix.clone(), what: "prefix of markup follows" },
                    home.0.clone(),
                );
            }
        }
        for (home, prefix) in made {
            // Behind the declaration of the old prefix.
            let quote = written.2.end as usize + 1;
            let new = format!(" xmlns:{prefix}=\"{}\"", markup_spelled(&home));
            let edit = Edit { span: Span::new(quote, quote), text: new, what: "prefix of markup added" };
            texts.edit(self.path, edit, home.0);
        }
    }

    /// The namespace of a type, and its assembly where that is not the file's own.
    pub(super) fn markup_home(&self, entity: EntityId) -> (String, Option<String>) {
        let namespace = self.world.table.namespace_text(self.world.table.namespace_of(entity));
        let declaring = self.world.declaring_files(entity, self.file);
        let owner = |file: usize| self.world.ownership.owners[file].first().copied();
        let theirs = declaring.first().and_then(|&file| owner(file as usize));
        let assembly = match (theirs, owner(self.file)) {
            (Some(theirs), Some(own)) if theirs != own => {
                Some(self.world.project.manifests[theirs as usize].name.clone())
            }
            _ => None,
        };
        (namespace, assembly)
    }
}

/// Namespace, assembly and place of a prefix as written; the place is the whole value in quotes.
fn markup_written(text: &[u8], import: &Import) -> (String, Option<String>, Span) {
    let from = text[..import.target_span.start as usize].iter().rposition(|b| matches!(b, b'"' | b'\''));
    let start = from.map_or(import.target_span.start as usize, |at| at + 1);
    let rest = &text[import.target_span.end as usize..];
    let length = rest.iter().position(|b| matches!(b, b'"' | b'\'')).unwrap_or(0);
    let span = Span::new(start, import.target_span.end as usize + length);
    let tail = String::from_utf8_lossy(&rest[..length]).into_owned();
    let assembly = tail.strip_prefix(";assembly=").map(str::to_owned);
    (import.text.to_string(), assembly, span)
}

fn same_home(home: &(String, Option<String>), written: &(String, Option<String>, Span)) -> bool {
    // An assembly may be named even where it is one's own.
    home.0 == written.0 && (home.1 == written.1 || home.1.is_none() && written.1.is_none())
}

fn markup_spelled(home: &(String, Option<String>)) -> String {
    match &home.1 {
        Some(assembly) => format!("clr-namespace:{};assembly={assembly}", home.0),
        None => format!("clr-namespace:{}", home.0),
    }
}

fn prefix_for(namespace: &str, text: &[u8]) -> String {
    let base = namespace.rsplit('.').next().unwrap_or("moved").to_lowercase();
    let taken = |prefix: &str| {
        let declaration = format!("xmlns:{prefix}=");
        text.windows(declaration.len()).any(|window| window == declaration.as_bytes())
    };
    let mut prefix = base.clone();
    let mut number = 2;
    while taken(&prefix) {
        prefix = format!("{base}{number}");
        number += 1;
    }
    prefix
}
