//! Counts spores by shape.

mod tally;

use spore_shapes::Outline;
use tally::Tally;

fn main() {
    let mut tally = Tally::default();
    for length in [4.0, 9.5, 5.0] {
        tally.add(&Outline { length, width: 4.5 });
    }
    println!("{tally}");
}
