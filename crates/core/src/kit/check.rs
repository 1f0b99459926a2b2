//! What the margin says of the inventory: addresses, gateways, shared devices, records.

use super::addresses;
use crate::codes::paths::{a_gateway, advise, is_gateway, sends};
use crate::finding::Finding;
use crate::id::{DeviceId, RoomId};
use crate::model::{Activity, Device, DeviceKind, FindingKind, Medium, Site, Situation};
use crate::plan::goal::{DeviceGoal, goals};
use crate::space::hears::in_sight;

/// What is wrong with the inventory of a room.
#[must_use]
pub fn room(site: &Site, room: RoomId) -> Vec<Finding> {
    let here = |device: DeviceId| site.device(device).is_some_and(|device| device.serves(room) || device.room == room);
    let mut findings: Vec<Finding> =
        addresses(site).into_iter().filter(|finding| finding.place.device.is_some_and(here)).collect();
    for device in site.devices_in(room) {
        findings.extend(gateway(site, device));
        findings.extend(better_path(site, device));
        findings.extend(heat(site, device));
    }
    findings.extend(clashes(site, room));
    findings
}

/// Can a gateway reach it?
fn gateway(site: &Site, own: &Device) -> Option<Finding> {
    let device = own;
    if is_gateway(site, device) || !is_spoken_to(site, device) {
        return None;
    }
    let paths = site.paths_of(device.id);
    let first = paths.first()?;
    let (device, medium) = (device.id, first.medium);
    if medium == Medium::Bluetooth {
        return Some(Finding::of(site, FindingKind::BluetoothOnly { device }));
    }
    if !medium.shared() {
        return None;
    }
    match first.through {
        Some(gateway) if !sends(site, gateway, medium) => {
            Some(Finding::of(site, FindingKind::WrongGateway { device, gateway, medium }))
        }
        Some(gateway) if medium == Medium::Ir && !in_sight(site, own, gateway) => {
            Some(Finding::of(site, FindingKind::OutOfSight { device, gateway }))
        }
        None if a_gateway(site, own, medium).is_none() => {
            Some(Finding::of(site, FindingKind::NoGateway { device, medium }))
        }
        _ => None,
    }
}

/// Has it keys that are sent? A pair of speakers needs no gateway.
fn is_spoken_to(site: &Site, device: &Device) -> bool {
    site.codes.iter().any(|code| code.device == device.id) || site.devices.iter().any(|known| is_gateway(site, known))
}

/// Is another path that it has set up better than the one in use?
fn better_path(site: &Site, device: &Device) -> Option<Finding> {
    let used = device.paths.first()?;
    let advice = advise(site, device);
    let best = advice.iter().find(|one| one.missing.is_none())?;
    let own = advice.iter().find(|one| one.offer.medium == used.medium)?;
    let set_up = device.paths.iter().any(|path| path.medium == best.offer.medium);
    if !set_up || best.rank >= own.rank {
        return None;
    }
    let (used, better, why) = (own.class, best.class, best.why.clone());
    Some(Finding::of(site, FindingKind::BetterPath { device: device.id, used, better, why }))
}

/// Heaters are never switched on while nobody is there.
fn heat(site: &Site, device: &Device) -> Option<Finding> {
    let heats = site.model_of(device.id).is_some_and(|profile| profile.kind == DeviceKind::Heater);
    heats.then(|| Finding::of(site, FindingKind::Heat { device: device.id }))
}

/// Devices that serve several rooms and are wanted in two ways at once.
fn clashes(site: &Site, room: RoomId) -> Vec<Finding> {
    let mut findings = Vec::new();
    for device in site.devices_in(room).filter(|device| device.rooms().len() > 1) {
        let wishes = |room: RoomId| -> Vec<(&Activity, DeviceGoal)> {
            site.activities
                .iter()
                .filter(|activity| activity.room == room)
                .filter_map(|activity| {
                    let goals = goals(site, room, Situation::In { activity: activity.id });
                    let goal = goals.devices.into_iter().find(|goal| goal.device == device.id && goal.needed)?;
                    Some((activity, goal))
                })
                .collect()
        };
        let own = wishes(room);
        for &elsewhere in device.rooms().iter().filter(|&&other| other != room) {
            let theirs = wishes(elsewhere);
            let opposed = own.iter().find_map(|(mine, goal)| {
                let other = theirs.iter().find(|(_, other)| clash(goal, other))?;
                Some((mine, &other.0))
            });
            let plays = site.model_of(device.id).is_some_and(|profile| profile.kind.plays());
            let (device, room) = (device.id, elsewhere);
            if let Some((mine, other)) = opposed {
                let (mine, other) = (mine.id, other.id);
                findings.push(Finding::of(site, FindingKind::RoomsClash { device, mine, room, other }));
            } else if let (true, Some((mine, _)), Some((other, _))) = (plays, own.first(), theirs.first()) {
                let (mine, other) = (mine.id, other.id);
                findings.push(Finding::of(site, FindingKind::RoomsShare { device, mine, room, other }));
            }
        }
    }
    findings
}

fn clash(a: &DeviceGoal, b: &DeviceGoal) -> bool {
    let differ = |a: Option<_>, b: Option<_>| matches!((a, b), (Some(a), Some(b)) if a != b);
    differ(a.input, b.input) || matches!((a.on, b.on), (Some(a), Some(b)) if a != b)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo::{self, ids};
    use crate::finding::Weight;
    use crate::model::{ControlPath, Link, Network, Offer, PathClass, Wifi};
    use rstest::rstest;

    fn titles(site: &Site, room: RoomId) -> Vec<String> {
        super::room(site, room).into_iter().map(|finding| finding.title).collect()
    }

    fn device_mut(site: &mut Site, id: DeviceId) -> &mut Device {
        site.devices.iter_mut().find(|device| device.id == id).unwrap()
    }

    fn text_of(site: &Site, room: RoomId, title: &str) -> String {
        super::room(site, room).into_iter().find(|finding| finding.title == title).unwrap().text
    }

    #[test]
    fn the_tidy_room_has_nothing_to_mend() {
        assert_eq!(titles(&demo::marram_point(), ids::tidy_cabin()), Vec::<String>::new());
    }

    #[test]
    fn addresses_typed_in_a_hurry_are_found() {
        let site = demo::marram_point();
        let titles = titles(&site, ids::bunk_cabin());
        for title in ["Same address", "Malformed address", "Wrong band"] {
            assert!(titles.iter().any(|known| known == title), "{title} in {titles:?}");
        }
        assert!(text_of(&site, ids::bunk_cabin(), "Wrong band").contains("2.4 GHz alone"));
    }

    #[rstest]
    #[case("10.0.4.300")]
    #[case("gateway")]
    #[case("0.0.0.0")]
    #[case("127.0.0.1")]
    #[case("224.0.0.5")]
    fn an_address_that_no_device_can_have_is_malformed(#[case] ip: &str) {
        let mut site = demo::marram_point();
        device_mut(&mut site, ids::hall_gateway()).network.ip = ip.to_owned();
        assert!(titles(&site, ids::boat_hall()).contains(&"Malformed address".to_owned()));
    }

    #[test]
    fn an_address_that_is_not_reserved_is_a_finding_only_where_it_is_used() {
        let site = demo::marram_point();
        assert!(text_of(&site, ids::slip_deck(), "Not reserved").contains("Deck display"));
        let mut unused = site.clone();
        device_mut(&mut unused, ids::deck_display()).paths.truncate(1);
        assert!(!titles(&unused, ids::slip_deck()).contains(&"Not reserved".to_owned()));
    }

    #[test]
    fn a_gateway_in_another_room_cannot_see_the_device() {
        let mut site = demo::marram_point();
        let path = ControlPath {
            through: Some(ids::hall_gateway()),
            ..ControlPath::from(Offer { medium: Medium::Ir, replies: false })
        };
        device_mut(&mut site, ids::watch_display()).paths = vec![path];
        assert!(text_of(&site, ids::watch_room(), "Out of sight").contains("does not leave the room"));
    }

    #[test]
    fn a_room_without_a_gateway_is_said() {
        let mut site = demo::marram_point();
        site.devices.retain(|device| device.id != ids::cabin_gateway());
        assert!(titles(&site, ids::bunk_cabin()).contains(&"No gateway".to_owned()));
    }

    #[test]
    fn a_band_that_fits_is_no_finding() {
        let mut site = demo::marram_point();
        let profile = site.device(ids::cabin_gateway()).unwrap().profile;
        site.profiles.iter_mut().find(|p| p.id == profile).unwrap().wifi = Some(Wifi::Both);
        assert!(!titles(&site, ids::bunk_cabin()).contains(&"Wrong band".to_owned()));
    }

    #[test]
    fn the_heater_is_a_hazard() {
        assert!(text_of(&demo::marram_point(), ids::slip_deck(), "Heat").contains("never be switched on"));
    }

    #[test]
    fn one_tuner_for_two_rooms_plays_one_thing_at_a_time() {
        let site = demo::marram_point();
        assert!(text_of(&site, ids::watch_room(), "Two rooms, one device").contains("Deck television"));
        assert!(text_of(&site, ids::slip_deck(), "Two rooms, one device").contains("Television"));
    }

    #[test]
    fn two_rooms_that_want_different_inputs_clash() {
        let mut site = demo::marram_point();
        // The receiver serves the Watch Room too, whose television comes in as *Game*.
        let receiver = device_mut(&mut site, ids::receiver());
        receiver.serves = vec![ids::boat_hall(), ids::watch_room()];
        let game = site.model_of(ids::receiver()).unwrap().inputs[2].id;
        site.connections.retain(|c| c.to_input != game);
        let tuner = site.model_of(ids::tuner()).unwrap().outputs[0].id;
        let cable = site.connections.iter_mut().find(|c| c.from_output == tuner).unwrap();
        (cable.to_device, cable.to_input) = (ids::receiver(), game);
        let television = site.activities.iter_mut().find(|a| a.id == ids::television()).unwrap();
        (television.seen_on, television.heard_on) = (None, Some(ids::receiver()));
        let finding = super::room(&site, ids::watch_room())
            .into_iter()
            .find(|f| f.title == "Two rooms, one device" && f.weight == Weight::Stops);
        assert!(finding.unwrap().text.contains("whoever starts last wins"));
    }

    #[test]
    fn the_order_of_paths_is_the_users() {
        let mut site = demo::marram_point();
        let best = |site: &Site| advise(site, site.device(ids::receiver()).unwrap())[0].class;
        assert_eq!(best(&site), PathClass::IpFeedback);
        assert!(titles(&site, ids::boat_hall()).contains(&"A better path".to_owned()));
        site.house.path_order = vec![PathClass::IrDiscrete];
        assert_eq!(best(&site), PathClass::IrDiscrete);
        assert!(!titles(&site, ids::boat_hall()).contains(&"A better path".to_owned()));
    }

    #[test]
    fn a_path_that_cannot_work_yet_is_ranked_last_and_says_what_it_lacks() {
        let mut site = demo::marram_point();
        device_mut(&mut site, ids::receiver()).network = Network { link: Link::Wired, ..Network::default() };
        let advice = advise(&site, site.device(ids::receiver()).unwrap());
        assert_eq!(advice[0].class, PathClass::IrDiscrete);
        let ip = advice.iter().find(|one| one.class == PathClass::IpFeedback).unwrap();
        assert_eq!(ip.missing.as_deref(), Some("Its address is not known yet."));
    }

    #[test]
    fn a_toggle_is_ranked_below_discrete_codes() {
        let site = demo::marram_point();
        let class = |device| advise(&site, site.device(device).unwrap())[0].class;
        assert_eq!(class(ids::watch_display()), PathClass::IrToggle);
        assert_eq!(class(ids::disc_player()), PathClass::IrDiscrete);
    }
}
