//! Paths through the cables, worked by hand on the demo house.

use super::*;
use crate::demo::{self, ids};
use crate::finding::Weight;
use crate::model::{Cable, Connection, Output};
use uuid::Uuid;

fn cable(site: &mut Site, from: (DeviceId, usize), to: (DeviceId, usize)) -> ConnectionId {
    let id = ConnectionId(Uuid::from_u128(0x7700 + site.connections.len() as u128));
    let from_output = site.model_of(from.0).unwrap().outputs[from.1].id;
    let to_input = site.model_of(to.0).unwrap().inputs[to.1].id;
    site.connections.push(Connection {
        id,
        from_device: from.0,
        from_output,
        to_device: to.0,
        to_input,
        return_audio: false,
    });
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
    let hops = path(&site, ids::disc_player(), ids::projector(), PathSignal::Video).unwrap();
    assert_eq!(through(&hops), [ids::receiver(), ids::projector()]);
    let receiver = site.model_of(ids::receiver()).unwrap();
    assert_eq!(hops[0].input, receiver.inputs[0].id, "it enters by Disc");
}

#[test]
fn the_sound_ends_at_the_receiver() {
    let site = demo::marram_point();
    let hops = path(&site, ids::disc_player(), ids::receiver(), PathSignal::Audio).unwrap();
    assert_eq!(through(&hops), [ids::receiver()]);
}

#[test]
fn a_path_to_itself_has_no_cables() {
    let site = demo::marram_point();
    assert_eq!(path(&site, ids::projector(), ids::projector(), PathSignal::Video), Some(vec![]));
}

#[test]
fn there_is_no_way_against_the_signal() {
    let site = demo::marram_point();
    assert_eq!(path(&site, ids::projector(), ids::disc_player(), PathSignal::Video), None);
    assert_eq!(path(&site, ids::disc_player(), ids::screen(), PathSignal::Video), None);
}

#[test]
fn a_direct_cable_is_shorter_than_the_way_through_the_receiver() {
    let mut site = demo::marram_point();
    let direct = cable(&mut site, (ids::disc_player(), 0), (ids::projector(), 0));
    let hops = path(&site, ids::disc_player(), ids::projector(), PathSignal::Video).unwrap();
    assert_eq!(hops.iter().map(|hop| hop.connection).collect::<Vec<_>>(), [direct]);
}

#[test]
fn a_sound_cable_carries_no_picture() {
    let mut site = demo::marram_point();
    let profile = site.model_of(ids::disc_player()).unwrap().id;
    let output =
        Output { id: Uuid::from_u128(5).into(), name: "Optical out".to_owned(), cable: Cable::Optical, returns: None };
    let receiver = site.model_of(ids::receiver()).unwrap().id;
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
    assert!(path(&site, ids::disc_player(), ids::receiver(), PathSignal::Audio).is_some());
    assert_eq!(path(&site, ids::disc_player(), ids::receiver(), PathSignal::Video), None);
    assert_eq!(titles(&site), Vec::<String>::new(), "an optical cable into an optical input is no mistake");
}

#[test]
fn an_old_cable_whose_plug_no_longer_fits_is_found() {
    let mut site = demo::marram_point();
    let receiver = site.model_of(ids::receiver()).unwrap().id;
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
    let before = path(&site, ids::streamer(), ids::projector(), PathSignal::Video);
    site.connections = site.connections.iter().rev().copied().collect();
    assert_eq!(path(&site, ids::streamer(), ids::projector(), PathSignal::Video), before);
}

/// The receiver's output takes the display's sound back, and the console hangs on the display.
fn with_return_audio() -> Site {
    let mut site = demo::marram_point();
    let model = site.model_of(ids::projector()).unwrap().id;
    for own in site.profiles.iter_mut().filter(|own| own.id == model) {
        own.kind = DeviceKind::Display;
    }
    site.connections.retain(|c| c.from_device != ids::console());
    cable(&mut site, (ids::console(), 0), (ids::projector(), 0));
    let back =
        site.connections.iter_mut().find(|c| c.to_device == ids::projector() && c.from_device == ids::receiver());
    back.unwrap().return_audio = true;
    site
}

#[test]
fn sound_comes_back_through_the_hdmi_cable() {
    let site = with_return_audio();
    let hops = path(&site, ids::console(), ids::receiver(), PathSignal::Audio).unwrap();
    assert_eq!(through(&hops), [ids::projector(), ids::receiver()]);
    assert!(hops[1].back);
    assert_eq!(site.input(ids::receiver(), hops[1].input).unwrap().name, "TV audio");
    assert_eq!(path(&site, ids::console(), ids::receiver(), PathSignal::Video), None, "a picture never comes back");
}

#[test]
fn a_return_audio_cable_that_is_used_both_ways_is_found() {
    let findings = check(&with_return_audio(), ids::boat_hall());
    let finding = findings.iter().find(|finding| finding.title == "Used both ways").unwrap();
    assert!(
        finding.text.contains("Feature film sends its picture along it and Games its sound back"),
        "{}",
        finding.text
    );
}

#[test]
fn sound_that_comes_back_twice_is_found() {
    let mut site = with_return_audio();
    let (display, receiver) = (site.model_of(ids::projector()).unwrap().id, site.model_of(ids::receiver()).unwrap().id);
    for own in &mut site.profiles {
        if own.id == display {
            let output = Output {
                id: Uuid::from_u128(5).into(),
                name: "Optical out".to_owned(),
                cable: Cable::Optical,
                returns: None,
            };
            own.outputs = vec![output];
        }
        if own.id == receiver {
            own.inputs[2].cable = Cable::Optical;
        }
    }
    cable(&mut site, (ids::projector(), 0), (ids::receiver(), 2));
    assert!(check(&site, ids::boat_hall()).iter().any(|finding| finding.title == "Sound twice"));
}

#[test]
fn a_source_whose_cables_end_nowhere_is_unreachable() {
    let mut site = demo::marram_point();
    site.connections.retain(|c| c.from_device != ids::receiver());
    for own in &mut site.profiles {
        if own.kind == DeviceKind::Receiver {
            own.kind = DeviceKind::Gateway;
        }
    }
    let findings = check(&site, ids::boat_hall());
    let unreachable = findings.iter().filter(|finding| finding.title == "Unreachable").count();
    assert_eq!(unreachable, 3, "streamer, disc player and console: {findings:?}");
}

#[test]
fn two_cables_out_of_one_output_are_found() {
    let mut site = demo::marram_point();
    cable(&mut site, (ids::receiver(), 0), (ids::projector(), 0));
    assert_eq!(titles(&site), ["Two cables"]);
}

#[test]
fn power_that_waits_for_itself_is_a_loop() {
    let mut site = demo::marram_point();
    let (receiver, amplifier) =
        (site.model_of(ids::receiver()).unwrap().id, site.model_of(ids::amplifier()).unwrap().id);
    for own in &mut site.profiles {
        if own.id == receiver {
            own.inputs[3].cable = Cable::Trigger;
        }
        if own.id == amplifier {
            own.outputs[0].cable = Cable::Trigger;
        }
    }
    cable(&mut site, (ids::amplifier(), 0), (ids::receiver(), 3));
    let findings = check(&site, ids::boat_hall());
    assert!(findings.iter().any(|f| f.title == "Loop" && f.text.contains("waits for the other")), "{findings:?}");
}
