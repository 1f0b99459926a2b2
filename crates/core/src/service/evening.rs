//! A cause that was found, as an evening: from then on the house is tested for it.

use super::causes::split;
use crate::id::{DeviceId, InputId, RoomId};
use crate::model::{Deed, Faults, Hand, NAME_MAX, Site, Situation, StoryEvent};
use crate::plan::goal::goals;

/// How long after what went wrong somebody asks for something, in ms.
const ASKS_MS: u64 = 1_000;

/// Room for a number behind a name that is there already, in characters.
const NUMBER: usize = 6;

/// How long mains stay away, in ms.
const CUT_MS: u64 = 60_000;

/// What goes wrong, and what is asked for then.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Trouble {
    /// What the evening is called.
    pub name: String,
    /// What happens before, in order of time.
    pub events: Vec<StoryEvent>,
    /// When the situation is asked for, in ms.
    pub asks_ms: u64,
}

/// The evening of a cause, where it is one that the room can be brought out of by asking for `to` (once more). What a plug, a
/// cable or an empty battery does can be seen by nobody but somebody in the room: no evening tests that. `settled_ms` says how
/// long the room takes until it has settled in `to`.
#[must_use]
pub fn trouble(site: &Site, room: RoomId, cause: &str, to: Situation, settled_ms: u64) -> Option<Trouble> {
    let (word, device) = split(cause);
    let device = device?;
    let name = site.device(device).map(|own| own.name.clone())?;
    let asked = StoryEvent { at_ms: 0, deed: Deed::Request { to } };
    let hand = |at_ms, hand| StoryEvent { at_ms, deed: Deed::Hand { hand } };
    let (name, events) = match word {
        "wrong-start" => (format!("{name} was not as it was taken to be"), vec![hand(0, Hand::Power { device })]),
        "mains-left-off" => (
            format!("{name} after a power cut"),
            vec![hand(0, Hand::Mains { on: false }), hand(CUT_MS, Hand::Mains { on: true })],
        ),
        "wrong-input" => {
            let input = another_input(site, room, device, to)?;
            (format!("Another input of {name}"), vec![asked, hand(settled_ms + ASKS_MS, Hand::Input { device, input })])
        }
        "lost" => {
            let all = Faults { lost_percent: 100, ..Faults::default() };
            let faults = |at_ms, faults| StoryEvent { at_ms, deed: Deed::Fault { device, faults } };
            let mended = settled_ms + ASKS_MS;
            (format!("Presses to {name} were lost"), vec![faults(0, all), asked, faults(mended, Faults::default())])
        }
        _ => return None,
    };
    let asks_ms = events.last().map_or(0, |last| last.at_ms) + ASKS_MS;
    Some(Trouble { name: name.chars().take(NAME_MAX - NUMBER).collect(), events, asks_ms })
}

/// An input of a device that `to` does not want.
fn another_input(site: &Site, room: RoomId, device: DeviceId, to: Situation) -> Option<InputId> {
    let wanted = goals(site, room, to).devices.into_iter().find(|goal| goal.device == device)?.input?;
    site.profile_of(device)?.inputs.iter().map(|input| input.id).find(|input| *input != wanted)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo::{self, ids};
    use rstest::rstest;

    fn film() -> Situation {
        Situation::In { activity: ids::feature_film() }
    }

    fn of(cause: &str) -> Option<Trouble> {
        trouble(&demo::with_disc(), ids::boat_hall(), cause, film(), 60_000)
    }

    #[rstest]
    #[case::found_on("wrong-start", 1, 1_000)]
    #[case::after_a_cut("mains-left-off", 2, 61_000)]
    #[case::another_input("wrong-input", 2, 62_000)]
    #[case::lost("lost", 3, 62_000)]
    fn what_the_room_can_be_brought_out_of_is_an_evening(
        #[case] word: &str,
        #[case] events: usize,
        #[case] asks_ms: u64,
    ) {
        let own = of(&format!("{word} {}", ids::receiver())).unwrap();
        assert_eq!((own.events.len(), own.asks_ms), (events, asks_ms));
        assert!(own.name.contains("Receiver") || own.name.contains("receiver"), "{}", own.name);
        assert!(own.events.is_sorted_by_key(|event| event.at_ms));
    }

    #[test]
    fn the_other_input_is_one_that_the_film_does_not_want() {
        let own = of(&format!("wrong-input {}", ids::receiver())).unwrap();
        let wanted = goals(&demo::with_disc(), ids::boat_hall(), film()).devices;
        let wanted = wanted.iter().find(|goal| goal.device == ids::receiver()).unwrap().input;
        let Deed::Hand { hand: Hand::Input { input, .. } } = &own.events[1].deed else { panic!("{own:?}") };
        assert_ne!(Some(*input), wanted);
        assert_eq!(own.events[0].deed, Deed::Request { to: film() });
    }

    #[rstest]
    #[case::a_plug("unplugged")]
    #[case::a_battery("battery")]
    #[case::nobody_knows("else")]
    fn what_only_somebody_in_the_room_can_mend_is_none(#[case] word: &str) {
        assert_eq!(of(&format!("{word} {}", ids::receiver())), None);
        assert_eq!(of(word), None);
        assert_eq!(of("wrong-start 00000000-0000-0000-0000-000000000001"), None, "a device that is gone");
    }
}
