//! What the shelf says of a house and its rooms: their notes, added up.

use crate::check::{Notes, Share};
use crate::finding::Weight;
use crate::id::RoomId;
use crate::model::Room;
use crate::next::NextStep;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// How far the work is, stage by stage.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Stages {
    /// Devices without a finding that stops them.
    pub kit: Share,
    /// Functions with a code.
    pub codes: Share,
    /// Plans that can be sent.
    pub sequences: Share,
    /// Lines of the cue sheet about which there is nothing to say.
    pub cues: Share,
    /// Surfaces about which there is nothing to say but remarks.
    pub surfaces: Share,
    /// Activities that a kept evening goes through.
    pub rehearse: Share,
    /// Tests that are passed, or not possible here.
    #[serde(default)]
    pub handover: Share,
}

/// The worst that there is to mend. Hazards to people are no faults of the work, and stand in the margin of their room.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Worst {
    /// How much it matters.
    pub weight: Weight,
    /// In a word or two.
    pub title: String,
    /// In a sentence.
    pub text: String,
    /// How many there are that matter as much, this one among them.
    pub count: usize,
}

/// What is said of a room.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct RoomSummary {
    /// Which.
    pub id: RoomId,
    /// Its name.
    pub name: String,
    /// How far the work is.
    pub stages: Stages,
    /// The worst that there is to mend; none where there is nothing.
    pub worst: Option<Worst>,
    /// What comes next in a young room.
    pub next: Option<NextStep>,
}

/// What is said of a house.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Summary {
    /// Its rooms, in order.
    pub rooms: Vec<RoomSummary>,
    /// How far the work is in all of them.
    pub stages: Stages,
    /// The worst that there is to mend, and where.
    pub worst: Option<Worst>,
    /// The room of the worst.
    pub worst_room: Option<RoomId>,
}

impl RoomSummary {
    /// What the notes of a room say of it.
    #[must_use]
    pub fn of(room: &Room, notes: &Notes) -> Self {
        Self {
            id: room.id,
            name: room.name.clone(),
            stages: stages(notes),
            worst: worst(notes),
            next: notes.next.clone(),
        }
    }
}

impl Summary {
    /// What is said of the rooms of a house, in order, added up.
    #[must_use]
    pub fn of(rooms: Vec<RoomSummary>) -> Self {
        let troubled = || rooms.iter().filter_map(|room| Some((room.id, room.worst.as_ref()?)));
        let first = troubled().min_by_key(|(_, worst)| worst.weight);
        let worst = first.map(|(_, worst)| Worst {
            count: troubled().filter(|(_, w)| w.weight == worst.weight).map(|(_, w)| w.count).sum(),
            ..worst.clone()
        });
        let worst_room = first.map(|(room, _)| room);
        Self { stages: sum(rooms.iter().map(|room| &room.stages)), worst, worst_room, rooms }
    }
}

fn worst(notes: &Notes) -> Option<Worst> {
    let open = || notes.findings.iter().filter(|finding| finding.accepted.is_none());
    let of = |weight: Weight| open().filter(move |finding| finding.weight == weight);
    let first = of(Weight::Stops).chain(of(Weight::Caution)).next()?;
    Some(Worst {
        weight: first.weight,
        title: first.title.clone(),
        text: first.text.clone(),
        count: of(first.weight).count(),
    })
}

fn stages(notes: &Notes) -> Stages {
    let Notes { kit, codes, sequences, cues, surfaces, rehearse, handover, .. } = *notes;
    Stages { kit, codes, sequences, cues, surfaces, rehearse, handover }
}

fn sum<'a>(rooms: impl Iterator<Item = &'a Stages> + Clone) -> Stages {
    let of = |pick: fn(&Stages) -> Share| {
        rooms.clone().map(pick).fold(Share { done: 0, total: 0 }, |sum, own| Share {
            done: sum.done + own.done,
            total: sum.total + own.total,
        })
    };
    Stages {
        kit: of(|own| own.kit),
        codes: of(|own| own.codes),
        sequences: of(|own| own.sequences),
        cues: of(|own| own.cues),
        surfaces: of(|own| own.surfaces),
        rehearse: of(|own| own.rehearse),
        handover: of(|own| own.handover),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::check;
    use crate::demo::{self, ids};
    use crate::id::StoryId;
    use crate::model::{Deed, Site, Situation, Story, StoryEvent};
    use uuid::Uuid;

    fn summary() -> Summary {
        let site = demo::marram_point();
        Summary::of(site.rooms.iter().map(|room| RoomSummary::of(room, &check::room(&site, room.id))).collect())
    }

    #[test]
    fn what_stops_the_work_is_the_worst_and_counted_over_all_rooms() {
        let summary = summary();
        let worst = summary.worst.unwrap();
        assert_eq!((worst.weight, summary.worst_room), (Weight::Stops, Some(ids::boat_hall())));
        let counts = summary.rooms.iter().filter_map(|room| room.worst.as_ref()).filter(|w| w.weight == Weight::Stops);
        assert_eq!(worst.count, counts.map(|w| w.count).sum::<usize>());
    }

    #[test]
    fn a_hazard_to_people_is_no_fault_of_the_work_and_an_accepted_note_none() {
        let site = demo::marram_point();
        let room = site.room(ids::boat_hall()).unwrap();
        let mut notes = check::room(&site, room.id);
        assert!(notes.findings.iter().any(|finding| finding.weight == Weight::Hazard));
        for finding in notes.findings.iter_mut().filter(|finding| finding.weight != Weight::Hazard) {
            finding.accepted = Some("known".to_owned());
        }
        assert_eq!(RoomSummary::of(room, &notes).worst, None);
    }

    #[test]
    fn the_stages_of_a_house_are_those_of_its_rooms_added_up() {
        let summary = summary();
        let all = |pick: fn(&Stages) -> Share| summary.rooms.iter().map(|room| pick(&room.stages).total).sum::<u32>();
        assert_eq!(summary.stages.kit.total, all(|own| own.kit));
        assert_eq!(summary.stages.codes.total, all(|own| own.codes));
        assert!(summary.stages.codes.done <= summary.stages.codes.total);
        assert_eq!(Summary::of(vec![]).stages.kit, Share { done: 0, total: 0 });
    }

    #[test]
    fn an_activity_that_a_kept_evening_asks_for_is_rehearsed() {
        let mut site = demo::marram_point();
        let room = ids::tidy_cabin();
        site.rooms.iter_mut().filter(|own| own.id == room).for_each(|own| own.rehearsal.stories.clear());
        let rehearsed = |site: &Site| check::room(site, room).rehearse;
        let total = u32::try_from(site.activities.iter().filter(|own| own.room == room).count()).unwrap();
        assert_eq!(rehearsed(&site), Share { done: 0, total });
        let activity = site.activities.iter().find(|own| own.room == room).unwrap().id;
        let to = Situation::In { activity };
        let story = Story {
            id: StoryId(Uuid::from_u128(9)),
            position: 0,
            name: "An evening".to_owned(),
            seed: 1,
            events: vec![StoryEvent { at_ms: 0, deed: Deed::Request { to } }],
            length_ms: 60_000,
            ends: vec![],
            taken_for: None,
        };
        site.rooms.iter_mut().filter(|own| own.id == room).for_each(|own| own.rehearsal.stories.push(story.clone()));
        assert_eq!(rehearsed(&site), Share { done: 1, total });
    }
}
