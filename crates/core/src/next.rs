//! The next step in a young room: what is still missing until a first plan can be sent, and where it is mended.
//!
//! Computed from the room, never stored, and gone when it is done: six questions in the order of the work.

use crate::finding::{Finding, Weight};
use crate::id::{DeviceId, RoomId};
use crate::model::{DeviceKind, FindingKind, Medium, Site};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// The step that comes next.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct NextStep {
    /// Which of them, from 1.
    pub step: u8,
    /// Of how many.
    pub of: u8,
    /// What is missing.
    pub text: String,
    /// At which stage it is mended: `kit`, `codes` or `sequences`.
    pub stage: String,
    /// The device that it is about, where it is about one.
    pub device: Option<DeviceId>,
}

const OF: u8 = 6;

/// What comes next in a room; none where a first plan can be sent, and for a cupboard, which has none of its own.
/// `findings` are those of the room.
#[must_use]
pub fn step(site: &Site, room: RoomId, findings: &[Finding]) -> Option<NextStep> {
    if site.room(room).is_none_or(|own| own.rack) {
        return None;
    }
    let asked = Asked { site, room, findings };
    let steps = [Asked::device, Asked::gateway, Asked::cable, Asked::activity, Asked::code, Asked::plan];
    let missing = (1..).zip(steps).find_map(|(step, ask)| Some((step, ask(&asked)?)));
    let (step, Missing { text, stage, device }) = missing?;
    Some(NextStep { step, of: OF, text, stage: stage.to_owned(), device })
}

/// What is missing, and where it is mended.
struct Missing {
    text: String,
    stage: &'static str,
    device: Option<DeviceId>,
}

/// A room, and what was found in it.
struct Asked<'a> {
    site: &'a Site,
    room: RoomId,
    findings: &'a [Finding],
}

impl Asked<'_> {
    /// The devices that findings of a kind are about.
    fn about(&self, kind: impl Fn(&FindingKind) -> Option<DeviceId>) -> Vec<DeviceId> {
        self.findings.iter().filter_map(|finding| kind(&finding.kind)).collect()
    }

    fn device(&self) -> Option<Missing> {
        let carries = |kind: DeviceKind| matches!(kind, DeviceKind::Gateway | DeviceKind::Network);
        let mut models = self.site.devices_in(self.room).filter_map(|own| self.site.model_of(own.id));
        if models.any(|model| !carries(model.kind)) {
            return None;
        }
        let text = "No device stands here yet: add what plays, what is seen and what is heard.".to_owned();
        Some(Missing { text, stage: "kit", device: None })
    }

    fn gateway(&self) -> Option<Missing> {
        let (device, medium) = self.findings.iter().find_map(|finding| match &finding.kind {
            FindingKind::NoGateway { device, medium } => Some((*device, *medium)),
            _ => None,
        })?;
        let text = format!("{} cannot be reached: {}.", self.site.device_name(device), carrier(medium));
        Some(Missing { text, stage: "kit", device: Some(device) })
    }

    fn cable(&self) -> Option<Missing> {
        let loose = self.about(|kind| match kind {
            FindingKind::NotWired { device } | FindingKind::Unreachable { device } => Some(*device),
            FindingKind::NoPath { source, .. } => Some(*source),
            _ => None,
        });
        let first = *loose.first()?;
        let text = format!("{}: begin with {}.", cables(loose.len()), self.site.device_name(first));
        Some(Missing { text, stage: "kit", device: Some(first) })
    }

    fn activity(&self) -> Option<Missing> {
        if self.site.activities.iter().any(|activity| activity.room == self.room) {
            return None;
        }
        let text = "No activity yet: say what people do here, and with what.".to_owned();
        Some(Missing { text, stage: "sequences", device: None })
    }

    fn code(&self) -> Option<Missing> {
        let silent = self.about(|kind| match kind {
            FindingKind::CodeMissing { device, .. } => Some(*device),
            _ => None,
        });
        let first = *silent.first()?;
        let many = match silent.len() {
            1 => "1 key that a plan sends has no code".to_owned(),
            many => format!("{many} keys that plans send have no code"),
        };
        let text = format!("{many}: begin with {}.", self.site.device_name(first));
        Some(Missing { text, stage: "codes", device: Some(first) })
    }

    fn plan(&self) -> Option<Missing> {
        let stops = self.findings.iter().find(|finding| finding.weight == Weight::Stops)?;
        let text = format!("A plan cannot be sent yet: {}", stops.text);
        Some(Missing { text, stage: "sequences", device: stops.place.device })
    }
}

fn cables(many: usize) -> String {
    match many {
        1 => "A cable is missing".to_owned(),
        2 => "Two cables are missing".to_owned(),
        many => format!("{many} cables are missing"),
    }
}

fn carrier(medium: Medium) -> String {
    format!("no gateway in the room sends {}. Add one", medium.name())
}

#[cfg(test)]
mod tests {
    use crate::begin::{self, StartingPoint};
    use crate::check;
    use crate::id::HouseId;
    use crate::model::{House, Site};
    use uuid::Uuid;

    fn bedroom() -> Site {
        let mut number = 0x7000;
        let own = House::new(HouseId(Uuid::from_u128(1)), "Teal House".to_owned());
        begin::house(own, &[("Den".to_owned(), StartingPoint::Bedroom)], &mut || {
            number += 1;
            Uuid::from_u128(number)
        })
    }

    fn next(site: &Site) -> (u8, String, String) {
        let step = check::room(site, site.rooms[0].id).next.unwrap();
        assert_eq!(step.of, 6);
        (step.step, step.text, step.stage)
    }

    fn without_device(site: &mut Site, name: &str) {
        let id = site.devices.iter().find(|own| own.name == name).unwrap().id;
        site.devices.retain(|own| own.id != id);
        site.codes.retain(|own| own.device != id);
        site.connections.retain(|own| own.from_device != id && own.to_device != id);
    }

    #[test]
    fn an_empty_room_wants_a_device_first() {
        let mut site = bedroom();
        site.activities.retain(|_| false);
        for name in ["Streamer", "Display", "Gateway"] {
            without_device(&mut site, name);
        }
        assert_eq!(next(&site).0, 1);
    }

    #[test]
    fn a_room_without_a_gateway_wants_one() {
        let mut site = bedroom();
        without_device(&mut site, "Gateway");
        let (step, text, stage) = next(&site);
        assert_eq!((step, stage.as_str()), (2, "kit"));
        assert!(text.contains("no gateway in the room sends infrared"), "{text}");
    }

    #[test]
    fn missing_cables_are_counted() {
        let mut site = bedroom();
        site.connections.retain(|_| false);
        let (step, text, stage) = next(&site);
        assert_eq!((step, stage.as_str()), (3, "kit"));
        assert!(text.contains("missing: begin with Streamer"), "{text}");
    }

    #[test]
    fn a_wired_room_wants_an_activity() {
        let mut site = bedroom();
        site.activities.retain(|_| false);
        assert_eq!(next(&site).0, 4);
    }

    #[test]
    fn keys_without_a_code_are_counted() {
        let mut site = bedroom();
        let display = site.devices.iter().find(|own| own.name == "Display").unwrap().id;
        site.codes.retain(|code| code.device != display);
        let (step, text, stage) = next(&site);
        assert_eq!((step, stage.as_str()), (5, "codes"));
        assert!(text.contains("begin with Display"), "{text}");
    }

    #[test]
    fn nothing_comes_next_where_a_plan_can_be_sent() {
        let site = bedroom();
        assert_eq!(check::room(&site, site.rooms[0].id).next, None);
    }
}
