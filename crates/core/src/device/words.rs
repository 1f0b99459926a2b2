//! States and courses of events in words.

use crate::device::{Group, Joint, Residual, State, Timed};
use crate::model::{AfterPowerOn, Position, Power, Profile, Selection, Site, Standing};

/// A state of a device, such as “on, input Disc” or “off, still cooling”.
#[must_use]
pub fn state(profile: &Profile, timed: &Timed) -> String {
    let mut words = Vec::new();
    let State { on, input, cursor, position, muted, .. } = timed.state;
    let name = |index: u8| profile.inputs.get(usize::from(index)).map_or("?", |input| input.name.as_str());
    if profile.motion.is_some() {
        words.push(match (timed.may_travel(), position) {
            (true, Standing::Up) => "going up".to_owned(),
            (true, Standing::Down) => "going down".to_owned(),
            (true, Standing::Stop(at)) => {
                format!("moving to stand {}", profile.position_words(Position::Stop(at)))
            }
            (_, Standing::Stop(at)) => profile.position_words(Position::Stop(at)),
            (_, Standing::Up) => "up".to_owned(),
            (_, Standing::Between) => "stopped on the way".to_owned(),
            (_, Standing::Down) => "down".to_owned(),
        });
    } else if profile.power != Power::AlwaysOn || profile.inputs.len() > 1 {
        words.push(if on { "on" } else { "off" }.to_owned());
    }
    if on && profile.inputs.len() > 1 {
        words.push(format!("input {}", name(input)));
    }
    if !on
        && profile.inputs.len() > 1
        && profile.after_power_on == AfterPowerOn::Last
        && profile.selection != Selection::None
    {
        words.push(format!("last on input {}", name(input)));
    }
    if let Some(entry) = cursor {
        words.push(format!("its list open at {}", name(entry)));
    }
    if muted {
        words.push("silenced".to_owned());
    }
    if on && timed.state.app > 0 {
        words.extend(profile.apps.get(usize::from(timed.state.app) - 1).map(|app| app.name.clone()));
    }
    for (kind, _) in timed.under_way() {
        words.extend(match kind {
            Residual::WarmUp => Some("still starting up".to_owned()),
            Residual::CoolDown => Some("still cooling".to_owned()),
            Residual::Input => Some("its input still coming up".to_owned()),
            Residual::Pause if !timed.may_travel() => Some("its motor just stopped".to_owned()),
            Residual::Picture if !timed.power.lasts() => Some("its picture not there yet".to_owned()),
            _ => None,
        });
    }
    if words.is_empty() { "as it always is".to_owned() } else { words.join(", ") }
}

/// What is wrong at the end, device by device.
#[must_use]
pub fn members(site: &Site, group: &Group<'_>, joint: &Joint) -> Vec<String> {
    group
        .members
        .iter()
        .zip(&joint.members)
        .map(|((device, machine), timed)| format!("{}: {}", site.device_name(*device), state(machine.profile(), timed)))
        .collect()
}
