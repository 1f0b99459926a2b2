//! Paths through the cables, worked by hand on the demo house.

use super::*;
use crate::demo::{self, ids};
use crate::device::{Cable, Output};
use crate::site::Connection;
use uuid::Uuid;

fn cable(site: &mut Site, from: (DeviceId, usize), to: (DeviceId, usize)) -> ConnectionId {
    let id = ConnectionId(Uuid::from_u128(0x7700 + site.connections.len() as u128));
    let from_output = site.profile_of(from.0).unwrap().outputs[from.1].id;
    let to_input = site.profile_of(to.0).unwrap().inputs[to.1].id;
    site.connections.push(Connection { id, from_device: from.0, from_output, to_device: to.0, to_input });
    id
}

fn through(hops: &[Hop]) -> Vec<DeviceId> {
    hops.iter().map(|hop| hop.to).collect()
}

fn titles(site: &Site) -> Vec<String> {
    check(site, ids::boat_hall()).into_iter().map(|finding| finding.title).collect()
}

#[test]
fn the_picture_goes_through_the_receiver() {
    let site = demo::marram_point();
    let hops = path(&site, ids::disc_player(), ids::projector(), Signal::Video).unwrap();
    assert_eq!(through(&hops), [ids::receiver(), ids::projector()]);
    let receiver = site.profile_of(ids::receiver()).unwrap();
    assert_eq!(hops[0].input, receiver.inputs[0].id, "it enters by Disc");
}

#[test]
fn the_sound_ends_at_the_receiver() {
    let site = demo::marram_point();
    let hops = path(&site, ids::disc_player(), ids::receiver(), Signal::Audio).unwrap();
    assert_eq!(through(&hops), [ids::receiver()]);
}

#[test]
fn a_path_to_itself_has_no_cables() {
    let site = demo::marram_point();
    assert_eq!(path(&site, ids::projector(), ids::projector(), Signal::Video), Some(vec![]));
}

#[test]
fn there_is_no_way_against_the_signal() {
    let site = demo::marram_point();
    assert_eq!(path(&site, ids::projector(), ids::disc_player(), Signal::Video), None);
    assert_eq!(path(&site, ids::disc_player(), ids::screen(), Signal::Video), None);
}

#[test]
fn a_direct_cable_is_shorter_than_the_way_through_the_receiver() {
    let mut site = demo::marram_point();
    let direct = cable(&mut site, (ids::disc_player(), 0), (ids::projector(), 0));
    let hops = path(&site, ids::disc_player(), ids::projector(), Signal::Video).unwrap();
    assert_eq!(hops.iter().map(|hop| hop.connection).collect::<Vec<_>>(), [direct]);
}

#[test]
fn a_sound_cable_carries_no_picture() {
    let mut site = demo::marram_point();
    let profile = site.profile_of(ids::disc_player()).unwrap().id;
    let output = Output { id: Uuid::from_u128(5).into(), name: "Optical out".to_owned(), cable: Cable::Optical };
    let receiver = site.profile_of(ids::receiver()).unwrap().id;
    for own in &mut site.profiles {
        if own.id == profile {
            own.outputs = vec![output.clone()];
        }
        if own.id == receiver {
            own.inputs[0].cable = Cable::Optical;
        }
    }
    for connection in site.connections.iter_mut().filter(|c| c.from_device == ids::disc_player()) {
        connection.from_output = output.id;
    }
    assert!(path(&site, ids::disc_player(), ids::receiver(), Signal::Audio).is_some());
    assert_eq!(path(&site, ids::disc_player(), ids::receiver(), Signal::Video), None);
    assert_eq!(titles(&site), Vec::<String>::new(), "an optical cable into an optical input is no mistake");
}

#[test]
fn an_old_cable_whose_plug_no_longer_fits_is_found() {
    let mut site = demo::marram_point();
    let receiver = site.profile_of(ids::receiver()).unwrap().id;
    for own in site.profiles.iter_mut().filter(|own| own.id == receiver) {
        own.inputs[0].cable = Cable::Optical;
    }
    assert_eq!(titles(&site), ["Wrong plug"]);
}

#[test]
fn the_demo_house_is_wired_right() {
    assert_eq!(titles(&demo::marram_point()), Vec::<String>::new());
}

#[test]
fn a_source_without_a_cable_is_said() {
    let mut site = demo::marram_point();
    site.connections.retain(|c| c.from_device != ids::streamer());
    let findings = check(&site, ids::boat_hall());
    assert_eq!(findings[0].text, "Streamer is wired to nothing: nobody can see or hear it.");
    assert_eq!(findings[0].weight, Weight::Caution);
}

#[test]
fn the_same_path_is_found_whatever_the_order_of_the_cables() {
    let mut site = demo::marram_point();
    cable(&mut site, (ids::streamer(), 0), (ids::receiver(), 2));
    let before = path(&site, ids::streamer(), ids::projector(), Signal::Video);
    site.connections.reverse();
    assert_eq!(path(&site, ids::streamer(), ids::projector(), Signal::Video), before);
}
