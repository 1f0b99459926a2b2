//! Protocols that people describe, in everything that a built-in one is used for.

#![allow(clippy::unwrap_used, reason = "tests")]

use kestrel_core::codes::export::{Format, Scope, export};
use kestrel_core::codes::import;
use kestrel_core::codes::judge::judge;
use kestrel_core::codes::search::untried;
use kestrel_core::demo::{self, ids};
use kestrel_core::id::DescribedProtocolId;
use kestrel_core::model::{CodeBody, DescribedProtocol, Medium, Press, Site};
use kestrel_core::room::SimRoom;
use kestrel_signal::protocol::describe;
use kestrel_signal::{Capture, Message};

const IRP: &str = "{38k,500}<1,-1|1,-3>(12,-6,D:16,F:8,~F:8,1,^90m)*[D:0..65535,F:0..255]";

fn message(key: u32) -> Message {
    Message::of(describe("lantern", IRP).unwrap(), [("D", 0x7a11), ("F", key)]).unwrap()
}

/// The house with a protocol of its own, and nothing made of it yet.
fn with_protocol() -> Site {
    let mut site = demo::with_disc();
    site.protocols.push(DescribedProtocol {
        id: DescribedProtocolId(uuid::Uuid::from_u128(7)),
        name: "lantern".to_owned(),
        irp: IRP.to_owned(),
        note: String::new(),
    });
    site
}

/// The house whose disc player is switched on and off by keys of that protocol.
fn with_codes() -> Site {
    let mut site = with_protocol();
    let power: Vec<_> = ["Power on", "Power off"]
        .iter()
        .map(|name| {
            let profile = site.profile_of(ids::disc_player()).unwrap();
            profile.functions.iter().find(|own| own.name == *name).unwrap().id
        })
        .collect();
    let model = site.device(ids::disc_player()).unwrap().profile;
    let profile = site.profiles.find_mut(|own| own.id == model).unwrap();
    profile.functions.iter_mut().for_each(|own| own.answers_to = None);
    for (key, function) in (3..).zip(power) {
        let own = site.codes.find_mut(|code| code.device == ids::disc_player() && code.function == function).unwrap();
        own.body = CodeBody::of(message(key));
    }
    site
}

#[test]
fn a_key_is_learned_in_it_with_the_carrier_that_was_heard() {
    let mut heard = message(5).encode(3);
    heard.pop();
    let press = (Medium::Ir, Capture::new(heard, Some(40_000)).unwrap());
    let key = demo::with_disc().code(ids::receiver(), ids::receiver_disc()).map(|_| ids::receiver_disc()).unwrap();
    let judged = judge(&with_protocol(), ids::receiver(), key, Medium::Ir, std::slice::from_ref(&press));
    let body = judged.body.unwrap();
    assert_eq!(body, CodeBody::Decoded { message: message(5), carrier_hz: Some(40_000), whole_repeats: false });
    assert_eq!(body.carrier_hz(), 40_000, "what was heard is sent");
    let best = judged.reading.unwrap().best.unwrap();
    assert!(best.remarks.iter().any(|own| own.contains("5 % above the 38.0 kHz of lantern")), "{:?}", best.remarks);
    // Without it there is only timing.
    let judged = judge(&demo::with_disc(), ids::receiver(), key, Medium::Ir, &[press]);
    assert!(matches!(judged.body, Some(CodeBody::Raw { .. })), "{judged:?}");
}

#[test]
fn a_device_answers_to_it_in_the_rehearsal_room() {
    let site = with_codes();
    let mut sim = SimRoom::new(&site, ids::boat_hall(), 0.5);
    sim.radiate(0, Medium::Ir, &CodeBody::of(message(3)).send_us(Press::default(), None));
    sim.advance(30_000);
    let view = sim.view().into_iter().find(|own| own.device == ids::disc_player()).unwrap();
    assert_eq!(view.power, kestrel_core::room::PowerView::On, "{view:?}");
    let words = kestrel_core::room::meaning(&site, Medium::Ir, &message(3).encode(2));
    assert_eq!(words, "lantern D=31249 F=3");
}

/// A table says what it means wherever it is read; a keymap has the timing, which a house that knows the protocol reads.
#[test]
fn what_is_exported_is_the_same_elsewhere() {
    let site = with_codes();
    let table = export(&site, Scope::Device(ids::disc_player()), Format::Csv).unwrap().text;
    let (_, found) = import::read(&table).unwrap();
    assert!(found.found.iter().any(|own| own.body == CodeBody::of(message(3))), "{table}");
    let keymap = export(&site, Scope::Device(ids::disc_player()), Format::Keymap).unwrap().text;
    let (_, elsewhere) = import::read(&keymap).unwrap();
    assert!(elsewhere.found.iter().any(|own| matches!(own.body, CodeBody::Raw { .. })), "{keymap}");
    let (_, here) = import::read_with(&keymap, &site.protocols_read()).unwrap();
    assert!(here.found.iter().any(|own| own.body == CodeBody::of(message(3))), "{:?}", here.found);
    // A site file carries both, and gives them back byte for byte.
    let text = kestrel_core::file::write(&site);
    let back = kestrel_core::file::read(&text).unwrap();
    assert_eq!(kestrel_core::file::write(&back), text);
    assert_eq!(back.protocols, site.protocols);
    // Codes bring their protocol with them.
    let mut bare = site.clone();
    bare.protocols.retain(|_| false);
    assert!(bare.protocols_read().iter().any(|own| own.id == message(3).protocol_id()));
}

#[test]
fn hidden_functions_are_searched_in_the_field_that_says_the_key() {
    let mut site = with_codes();
    let own = message(3).protocol_id();
    site.codes.retain(|code| code.device != ids::disc_player() || code.body.is_of(own));
    let offers = untried(&site, ids::disc_player(), &[]).unwrap();
    assert!(offers.iter().all(|own| own.message.get("D") == Some(0x7a11)));
    assert!(
        offers.iter().any(|own| own.message.get("F") == Some(5))
            && offers.iter().all(|own| own.message.get("F") != Some(3))
    );
}
