//! What the code says: finds files and reads one language or manifest a file. Read-only; knows nothing of modules
//! and rules.
//!
//! ```
//! use ferngate_facts::languages::{LANGUAGES, language_of};
//! let language = LANGUAGES[language_of("cs").unwrap()];
//! let facts = language.facts(b"namespace Mossgrove; class Ticket { }", Default::default());
//! assert_eq!(facts.declarations.len(), 1);
//! ```

mod chain_links;
pub mod cursor;
pub mod languages;
pub mod lexis;
mod linking;
pub mod manifests;
mod read;
mod tracked;
mod values;
mod walk;
pub mod xml;

pub use read::{count_lines, is_binary, read_project};
pub use walk::{Ignored, Walk, is_to_be_filled, walk};
