//! The fuzz targets (`fuzz/`), run for a short while with inputs that are always the same: seeds with bytes taken out, put in,
//! doubled and swapped.

#[path = "../../../fuzz/readers.rs"]
#[allow(dead_code, missing_docs, reason = "each target calls one of them")]
mod readers;

use readers::READERS;
use rstest::rstest;
use std::time::Instant;

/// A small generator (xorshift, Marsaglia 2003), so that a seed always gives the same inputs.
struct Chance(u64);

impl Chance {
    fn below(&mut self, most: usize) -> usize {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        usize::try_from(self.0 % u64::try_from(most.max(1)).unwrap_or(1)).unwrap_or(0)
    }
}

/// Bytes that mean something to one reader or another.
const TELLING: &[u8] = b"0123456789{}[]()<>|,:;-+^~*#\"\\/=@.% \n\r\t\0\xff";

fn mutated(seed: &[u8], chance: &mut Chance) -> Vec<u8> {
    let mut own = seed.to_vec();
    for _ in 0..=chance.below(6) {
        let at = chance.below(own.len());
        match chance.below(6) {
            0 if !own.is_empty() => drop(own.remove(at)),
            1 => own.insert(at, TELLING[chance.below(TELLING.len())]),
            2 if !own.is_empty() => own[at] = TELLING[chance.below(TELLING.len())],
            3 => {
                let to = (at + 1 + chance.below(24)).min(own.len());
                let part: Vec<u8> = own[at.min(to)..to].repeat(1 + chance.below(8));
                own.splice(at..at, part);
            }
            4 => own.truncate(at),
            _ => {
                let digits = "9".repeat(1 + chance.below(24));
                own.splice(at..at, digits.into_bytes());
            }
        }
    }
    own
}

#[rstest]
#[case::capture("capture", 1_500)]
#[case::codes("codes", 400)]
#[case::site_file("site_file", 1_500)]
#[case::irp("irp", 1_500)]
#[case::message("message", 1_500)]
#[case::command("command", 1_500)]
#[case::payload("payload", 1_500)]
fn no_reader_stops_or_hangs(#[case] name: &str, #[case] inputs: usize) {
    let reader = READERS.iter().find(|own| own.name == name).unwrap();
    let mut chance = Chance(0x9e37_79b9_7f4a_7c15);
    for seed in reader.seeds {
        (reader.takes)(seed.as_bytes());
    }
    for _ in 0..inputs {
        let seed = reader.seeds[chance.below(reader.seeds.len())].as_bytes();
        let own = mutated(seed, &mut chance);
        let begun = Instant::now();
        (reader.takes)(&own);
        // Far beyond what any of them takes: it hangs, or grows with what a short text says.
        assert!(begun.elapsed().as_secs() < 20, "{name}: {:?}", String::from_utf8_lossy(&own));
    }
}

/// What somebody has found: each of these once stopped a reader.
#[rstest]
#[case::a_repeat_without_end("irp", b"{38k,500}<1,-1|1,-3>(8,-4,K:8,1,^60m)999999999[K:0..255]")]
#[case::a_gap_first("irp", b"{38k,500}<1,-1|1,-3>(-8,-4,^60m)*[K:0..255]")]
#[case::nothing_but_digits("irp", b"99999999999999999999999999999999")]
fn what_once_stopped_a_reader_does_no_more(#[case] name: &str, #[case] input: &[u8]) {
    let reader = READERS.iter().find(|own| own.name == name).unwrap();
    (reader.takes)(input);
}
