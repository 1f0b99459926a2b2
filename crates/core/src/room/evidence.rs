//! What one press shows of a code: a test is evidence, and some presses prove nothing.

use crate::id::{DeviceId, FunctionId};
use crate::model::{Site, TestEffect};
use crate::room::{Heard, Outcome};

/// What a press of a function proves by what was heard, and a sentence on it; no effect where it proves nothing.
#[must_use]
pub fn proved(site: &Site, device: DeviceId, function: FunctionId, heard: &[Heard]) -> (Option<TestEffect>, String) {
    let name = site.device_name(device);
    let wanted = site.function_name(device, function);
    let own = heard.iter().find(|one| one.device == device);
    let others: Vec<String> = heard
        .iter()
        .filter(|one| one.device != device)
        .map(|one| format!("{} heard “{}”", site.device_name(one.device), one.name))
        .collect();
    let also = if others.is_empty() { String::new() } else { format!(" {}.", others.join("; ")) };
    match own {
        None => (Some(TestEffect::Nothing), format!("{name} did not react.{also}")),
        Some(one) if one.function != function => {
            (Some(TestEffect::WrongThing), format!("{name} took it for “{}” and not for “{wanted}”.{also}", one.name))
        }
        Some(one) => match &one.outcome {
            Outcome::Unchanged { .. } => (
                None,
                format!(
                    "{name} understood “{wanted}”, but there was nothing to change: bring it into another state and test again.{also}"
                ),
            ),
            Outcome::Obeyed { what } => (Some(TestEffect::Worked), format!("{name}: {what}.{also}")),
            Outcome::Ignored { why } => (None, format!("{name} understood “{wanted}” but ignored it: {why}.{also}")),
        },
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo;
    use crate::demo::ids;
    use rstest::rstest;

    fn heard(device: DeviceId, at: usize, outcome: Outcome) -> Heard {
        let site = demo::with_disc();
        let function = &site.model_of(device).unwrap().functions[at];
        Heard { device, function: function.id, name: function.name.clone(), outcome }
    }

    fn obeyed(what: &str) -> Outcome {
        Outcome::Obeyed { what: what.to_owned() }
    }

    /// Tests *Power on* of the projector.
    fn tested(heard: &[Heard]) -> (Option<TestEffect>, String) {
        let site = demo::with_disc();
        let on = site.model_of(ids::projector()).unwrap().functions[0].id;
        proved(&site, ids::projector(), on, heard)
    }

    #[rstest]
    #[case::worked(vec![heard(ids::projector(), 0, obeyed("starting up"))], Some(TestEffect::Worked), "Projector: starting up.")]
    #[case::another_key(
        vec![heard(ids::projector(), 1, obeyed("switching off"))],
        Some(TestEffect::WrongThing),
        "Projector took it for “Power off” and not for “Power on”."
    )]
    #[case::silence(vec![], Some(TestEffect::Nothing), "Projector did not react.")]
    #[case::no_change(vec![heard(ids::projector(), 0, Outcome::Unchanged { what: "nothing to change".to_owned() })], None, "bring it into another state")]
    #[case::busy(
        vec![heard(ids::projector(), 0, Outcome::Ignored { why: "it is cooling down".to_owned() })],
        None,
        "ignored it: it is cooling down."
    )]
    fn a_press_proves_what_it_shows(#[case] heard: Vec<Heard>, #[case] effect: Option<TestEffect>, #[case] says: &str) {
        let (proved, note) = tested(&heard);
        assert_eq!(proved, effect);
        assert!(note.contains(says), "{note}");
    }

    #[test]
    fn another_device_that_reacts_is_named_and_proves_nothing_good() {
        let (effect, note) = tested(&[heard(ids::receiver(), 0, obeyed("starting up"))]);
        assert_eq!(effect, Some(TestEffect::Nothing));
        assert_eq!(note, "Projector did not react. Receiver heard “Power on”.");
    }
}
