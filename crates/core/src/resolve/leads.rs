//! Where the uses of a file lead: each place counts once for each file that it leads to, however many names it means.

use super::World;
use ferngate_model::Link;
use rayon::prelude::*;
use smallvec::SmallVec;

/// A file that depends on another, and by how many references.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct FileTie {
    /// The file that uses.
    pub from: u32,
    /// The file that is used.
    pub to: u32,
    /// Number of references.
    pub references: u32,
}

/// References that lead to several files at once: to a type that each of them declares in part.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Shared {
    /// The file that uses.
    pub from: u32,
    /// The files that are used.
    pub to: SmallVec<[u32; 4]>,
    /// Number of references.
    pub references: u32,
}

/// A use of a file, with one file that it leads to.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Lead {
    /// What leads there: the same number for all that one place means.
    pub source: u64,
    /// The file that it leads to.
    pub to: u32,
    /// First byte of the first place.
    pub offset: u32,
    /// Number of places.
    pub count: u32,
}

impl World<'_> {
    /// Where the uses of `file` lead, itself left out, by source and file; mentions only if they count.
    pub fn leads_of(&self, file: usize) -> Vec<Lead> {
        let mut leads: Vec<Lead> = self.links_of(file).map(lead).collect();
        let facts = self.project.files[file].facts.as_deref();
        for reference in self.references[file].strong() {
            let Some(used) = facts.and_then(|facts| facts.uses.get(reference.used as usize)) else {
                continue;
            };
            let offset = used.first;
            for to in self.files_of(reference, file) {
                leads.push(Lead { source: u64::from(reference.used), to, offset, count: reference.count });
            }
        }
        sorted(leads, file)
    }

    /// All ties between files, sorted, and the references that several of them share.
    pub fn file_ties(&self) -> (Vec<FileTie>, Vec<Shared>) {
        let by_file: Vec<(Vec<FileTie>, Vec<Shared>)> =
            (0..self.references.len()).into_par_iter().map(|file| self.ties_of(file)).collect();
        let (mut ties, mut shared) = (Vec::new(), Vec::new());
        for (own, of_several) in by_file {
            ties.extend(own);
            shared.extend(of_several);
        }
        (ties, shared)
    }

    fn ties_of(&self, file: usize) -> (Vec<FileTie>, Vec<Shared>) {
        let from = file as u32;
        let mut leads = self.leads_of(file);
        let several = leads.chunk_by(|a, b| a.source == b.source).filter(|same| same.len() > 1);
        let shared = several
            .map(|same| Shared {
                from,
                to: same.iter().map(|lead| lead.to).collect(),
                references: same[0].count,
            })
            .collect();
        leads.sort_unstable_by_key(|lead| lead.to);
        let ties = leads.chunk_by(|a, b| a.to == b.to).map(|same| FileTie {
            from,
            to: same[0].to,
            references: same.iter().map(|lead| lead.count).sum(),
        });
        (ties.collect(), shared)
    }
}

fn lead(link: &Link) -> Lead {
    Lead { source: link.place(), to: link.to, offset: link.at, count: link.count }
}

/// Each source once for each file, `file` itself left out.
fn sorted(mut leads: Vec<Lead>, file: usize) -> Vec<Lead> {
    leads.retain(|lead| lead.to != file as u32);
    leads.sort_unstable();
    leads.dedup_by(|next, first| {
        let same = (next.source, next.to) == (first.source, first.to);
        if same {
            first.count = first.count.max(next.count);
        }
        same
    });
    leads
}
