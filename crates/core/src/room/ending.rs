//! How an evening ended, and in what it differs from how it should have.

use super::{DeviceView, PowerView};
use crate::model::{End, Selection, Site, Situation, Story};

/// How devices stand.
#[must_use]
pub fn ends(site: &Site, views: &[DeviceView]) -> Vec<End> {
    let end = |view: &DeviceView| {
        let on = matches!(view.power, PowerView::On | PowerView::Starting | PowerView::Always);
        let several = site
            .profile_of(view.device)
            .is_some_and(|profile| profile.inputs.len() > 1 && profile.selection != Selection::None);
        End { device: view.device, on, input: view.input.filter(|_| on && several), down_percent: view.down_percent }
    };
    views.iter().map(end).collect()
}

/// Where an evening ended otherwise than it should: a sentence for each device.
#[must_use]
pub fn differences(site: &Site, story: &Story, views: &[DeviceView], taken_for: Option<Situation>) -> Vec<String> {
    let now = ends(site, views);
    let mut wrong = Vec::new();
    for end in &story.ends {
        let name = site.device_name(end.device);
        match now.iter().find(|known| known.device == end.device) {
            None => wrong.push(format!("{name} is not in the room any more.")),
            Some(is) if is != end => {
                wrong.push(format!("{name} should end {} and ends {}.", words(site, end), words(site, is)));
            }
            Some(_) => {}
        }
    }
    if story.taken_for != taken_for {
        let name = |to: Option<Situation>| {
            to.map_or_else(|| "not known".to_owned(), |to| crate::model::situation_name(site, to))
        };
        let (should, is) = (name(story.taken_for), name(taken_for));
        wrong.push(format!("The room should be taken for {should} and is taken for {is}."));
    }
    wrong
}

fn words(site: &Site, end: &End) -> String {
    let input = end.input.and_then(|id| site.input(end.device, id)).map(|input| format!(", input {}", input.name));
    match end.down_percent {
        Some(percent) => format!("{percent} % down"),
        None => format!("{}{}", if end.on { "on" } else { "off" }, input.unwrap_or_default()),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo::{self, ids};
    use crate::model::{Deed, Hand, StoryEvent};
    use crate::room::SimRoom;

    fn story(site: &Site, views: &[DeviceView]) -> Story {
        Story {
            id: uuid::Uuid::from_u128(5).into(),
            position: 0,
            name: "Quiet evening".to_owned(),
            seed: 1,
            events: vec![StoryEvent { at_ms: 0, deed: Deed::Hand { hand: Hand::Power { device: ids::receiver() } } }],
            length_ms: 60_000,
            ends: ends(site, views),
            taken_for: Some(Situation::Off),
        }
    }

    #[test]
    fn a_story_that_ends_as_it_did_has_no_differences() {
        let site = demo::with_disc();
        let room = SimRoom::new(&site, ids::boat_hall(), 0.8);
        let story = story(&site, &room.view());
        assert_eq!(differences(&site, &story, &room.view(), Some(Situation::Off)), Vec::<String>::new());
    }

    #[test]
    fn another_end_is_told_device_by_device() {
        let site = demo::with_disc();
        let mut room = SimRoom::new(&site, ids::boat_hall(), 0.8);
        let story = story(&site, &room.view());
        room.hand(1_000, &Hand::Power { device: ids::receiver() });
        room.advance(60_000);
        let film = Situation::In { activity: ids::feature_film() };
        assert_eq!(
            differences(&site, &story, &room.view(), Some(film)),
            [
                "Receiver should end off and ends on, input Disc.",
                "Amplifier should end off and ends on.",
                "The room should be taken for Off and is taken for Feature film.",
            ]
        );
    }

    #[test]
    fn a_story_survives_the_way_through_json() {
        let site = demo::with_disc();
        let room = SimRoom::new(&site, ids::boat_hall(), 0.8);
        let story = story(&site, &room.view());
        let json = serde_json::to_string(&story).unwrap();
        assert!(json.contains(r#""is":"hand","hand":{"does":"power""#), "{json}");
        assert_eq!(serde_json::from_str::<Story>(&json).unwrap(), story);
    }
}
