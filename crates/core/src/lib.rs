//! What the code means: names resolved, the map and its rules, the graph, cycles, findings and planned moves.
//! No input, no output, no terminal: everything is computed from facts.
//!
//! ```
//! let map = ferngate_core::map::read_map("[modules]\nvisits = \"src/Visits\"\n").unwrap();
//! assert_eq!(map.modules[0].name, "visits");
//! ```

mod components;
mod cuts;
pub mod cycles;
pub mod find;
pub mod findings;
pub mod graph;
pub mod init;
pub mod map;
pub mod moves;
pub mod permission;
pub mod resolve;
pub mod survey;
