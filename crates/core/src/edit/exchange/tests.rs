use super::*;
use crate::demo::{self, ids};
use crate::model::{App, Favourite, Reach, Shortcut};
use serde_json::Value;

fn shipped(maker: &str, model: &str) -> Profile {
    // The library stands after this module: a test may look there all the same.
    crate::library::all().iter().find(|known| known.maker == maker && known.model == model).unwrap().clone()
}

fn fresh() -> impl FnMut() -> Uuid {
    from(0x9_0000)
}

fn from(mut number: u128) -> impl FnMut() -> Uuid {
    move || {
        number += 1;
        Uuid::from_u128(number)
    }
}

fn exchanged(site: &Site, id: DeviceId, model: &Profile, codes_stay: bool) -> (Site, Exchange) {
    let mapping = suggest(site, id, model);
    let done = exchange(site, id, model, &mapping, codes_stay, &mut fresh());
    let changed = after(site, &done.steps).unwrap();
    crate::file::read(&crate::file::write(&changed)).unwrap();
    (changed, done)
}

/// The streamer's model again under ids of its own, as another model.
fn another_streamer(site: &Site) -> Profile {
    let mut model = copy::renumbered(site.model_of(ids::streamer()).unwrap(), &mut from(0xa_0000)).0;
    model.model = "S10".to_owned();
    model
}

/// What rooms tell a device to do.
fn commands(site: &Site, device: DeviceId) -> Vec<String> {
    fn walk(value: &Value, device: &str, found: &mut Vec<String>) {
        match value {
            Value::Array(list) => list.iter().for_each(|one| walk(one, device, found)),
            Value::Object(fields) => {
                if fields.get("device").and_then(Value::as_str) == Some(device) {
                    found.push(value.to_string());
                }
                fields.values().for_each(|one| walk(one, device, found));
            }
            _ => {}
        }
    }
    let mut found = Vec::new();
    walk(&serde_json::to_value(&site.rooms).unwrap(), &device.to_string(), &mut found);
    found
}

#[test]
fn another_projector_takes_over_cables_and_keys_by_name_and_meaning() {
    let site = demo::marram_point();
    let model = shipped("Orrin", "L5");
    let (changed, done) = exchanged(&site, ids::projector(), &model, false);
    let device = changed.device(ids::projector()).unwrap();
    assert_eq!((device.profile, device.name.as_str()), (model.id, "Projector"));
    let into = |site: &Site| site.connections.iter().filter(|own| own.to_device == ids::projector()).count();
    assert_eq!(into(&changed), into(&site), "by HDMI, whatever the socket is called: {:?}", done.lost);
    let codes = changed.codes.iter().filter(|code| code.device == ids::projector()).count();
    assert_eq!(codes, model.functions.iter().filter(|own| own.answers_to.is_some()).count());
    assert!(done.lost.iter().any(|line| line.contains("codes of Tarnbeck P2")), "{:?}", done.lost);
}

#[test]
fn a_socket_that_is_missing_is_told_with_its_cable() {
    let site = demo::marram_point();
    let mut model = shipped("Pellan", "T3");
    model.outputs.clear();
    let tuner = site.devices.iter().find(|own| own.name == "Tuner").unwrap().id;
    let (changed, done) = exchanged(&site, tuner, &model, false);
    assert!(done.lost.iter().any(|line| line.starts_with("The cable Tuner →")), "{:?}", done.lost);
    assert!(changed.connections.iter().all(|own| own.from_device != tuner));
}

#[test]
fn what_names_its_keys_follows_and_a_twin_of_the_same_model_is_left_alone() {
    let mut site = demo::marram_point();
    let old = site.model_of(ids::streamer()).unwrap().clone();
    let mut twin = site.device(ids::streamer()).unwrap().clone();
    (twin.id, twin.name) = (DeviceId(Uuid::from_u128(5)), "Twin".to_owned());
    site.put(Entity::Device(twin));
    let model = another_streamer(&site);
    let (changed, done) = exchanged(&site, ids::streamer(), &model, true);
    assert!(done.lost.iter().all(|line| !line.contains("goes from there")), "{:?}", done.lost);
    let named = |site: &Site, device, model: &Profile| {
        let text = commands(site, device).join(" ");
        model.functions.iter().filter(|own| text.contains(&own.id.to_string())).count()
    };
    let own = |site: &Site, model: &Profile| named(site, ids::streamer(), model);
    assert!(own(&site, &old) > 0);
    assert_eq!((own(&changed, &old), own(&changed, &model)), (0, own(&site, &old)));
    for other in site.devices.iter().filter(|own| own.profile == old.id && own.id != ids::streamer()) {
        assert_eq!(named(&changed, other.id, &old), named(&site, other.id, &old), "{}", other.name);
    }
    let codes = |site: &Site, id| site.codes.iter().filter(|code| code.device == id).count();
    assert!(codes(&site, ids::streamer()) > 0);
    assert!(codes(&changed, ids::streamer()) >= codes(&site, ids::streamer()), "its codes stay where they are wanted");
    assert_eq!(changed.device(DeviceId(Uuid::from_u128(5))).unwrap().profile, old.id);
}

#[test]
fn a_key_that_is_used_and_has_no_place_goes_from_what_uses_it_and_is_told() {
    let site = demo::marram_point();
    let mut model = another_streamer(&site);
    let old = site.model_of(ids::streamer()).unwrap();
    let name = "Home".to_owned();
    let home = old.functions.iter().find(|own| own.name == name).unwrap().id;
    model.functions.retain(|own| own.name != name);
    let mut mapping = suggest(&site, ids::streamer(), &model);
    assert_eq!(mapping.functions[&home], None);
    let done = exchange(&site, ids::streamer(), &model, &mapping, true, &mut fresh());
    let changed = after(&site, &done.steps).unwrap();
    crate::file::read(&crate::file::write(&changed)).unwrap();
    let part = done.parts.iter().find(|part| part.id == home.0).unwrap();
    assert!(part.used_by.iter().any(|by| by != "a code"), "{part:?}");
    for by in part.used_by.iter().filter(|by| *by != "a code") {
        assert!(done.lost.contains(&format!("“{name}” in {by}: it goes from there.")), "{by}: {:?}", done.lost);
    }
    assert!(commands(&changed, ids::streamer()).iter().all(|told| !told.contains(&home.to_string())));
    // Mapped by hand to another key, nothing of it is lost.
    mapping = mapping.with(&[Chosen { id: home.0, to: Some(model.functions[0].id.0) }], &model);
    let done = exchange(&site, ids::streamer(), &model, &mapping, true, &mut fresh());
    assert!(done.lost.iter().all(|line| !line.starts_with(&format!("“{name}”"))), "{:?}", done.lost);
    after(&site, &done.steps).unwrap();
}

#[test]
fn favourites_settings_and_apps_of_a_source_follow_by_name_or_go() {
    let mut site = demo::marram_point();
    let (activity, source) = site.activities.iter().map(|own| (own.id, own.source)).next().unwrap();
    let mut old = site.model_of(source).unwrap().clone();
    old.apps = vec![App { name: "Harbour".to_owned(), reach: Reach::Launch { function: old.functions[0].id } }];
    site.put(Entity::Profile(old.clone()));
    let mut own = site.activity(activity).unwrap().clone();
    let presses = Shortcut::Presses { function: old.functions[0].id, times: 2 };
    own.extras.app = Some("Harbour".to_owned());
    own.extras.favourites = vec![
        Favourite { name: "Twice".to_owned(), does: presses },
        Favourite { name: "Boats".to_owned(), does: Shortcut::App { name: "Harbour".to_owned() } },
    ];
    site.put(Entity::Activity(own.clone()));
    let mut model = copy::renumbered(&old, &mut from(0xa_0000)).0;
    model.model = "Another".to_owned();
    let (changed, done) = exchanged(&site, source, &model, true);
    let extras = &changed.activity(activity).unwrap().extras;
    assert_eq!((extras.app.as_deref(), extras.favourites.len()), (Some("Harbour"), 2), "{:?}", done.lost);
    let expected = Shortcut::Presses { function: model.functions[0].id, times: 2 };
    assert_eq!(extras.favourites[0].does, expected);
    model.apps.clear();
    let (changed, done) = exchanged(&site, source, &model, true);
    let extras = &changed.activity(activity).unwrap().extras;
    assert_eq!((extras.app.as_deref(), extras.favourites.len()), (None, 1), "{:?}", done.lost);
    assert!(done.lost.contains(&format!("“Harbour” in {}: it goes from there.", own.name)), "{:?}", done.lost);
}

#[test]
fn any_model_of_the_library_can_stand_in_for_a_device_or_it_is_said_why_not() {
    let site = demo::marram_point();
    let mut refused = 0;
    for (at, device) in site.devices.iter().enumerate() {
        for shipped in crate::library::all().iter().skip(at % 7).step_by(7) {
            let mapping = suggest(&site, device.id, shipped);
            let (model, mapping) = adopted(shipped, &mapping, &mut from(0xa_0000));
            let done = exchange(&site, device.id, &model, &mapping, false, &mut fresh());
            if let Err(error) = after(&site, &done.steps) {
                refused += 1;
                assert!(error.contains(" – ") && error.ends_with('.'), "{} → {}: {error}", device.name, model.model);
            }
        }
    }
    // A source that plays nothing and a display without a picture: the activity has to be changed first.
    assert!((1..80).contains(&refused), "{refused}");
}

#[test]
fn what_was_accepted_of_the_old_model_is_asked_again_and_no_room_names_its_keys() {
    let site = demo::marram_point();
    let model = shipped("Orrin", "L5");
    let (changed, _) = exchanged(&site, ids::projector(), &model, false);
    let old = site.model_of(ids::projector()).unwrap();
    assert_eq!(site.devices.iter().filter(|own| own.profile == old.id).count(), 1);
    let text = serde_json::to_string(&changed.rooms).unwrap();
    let left: Vec<&str> =
        old.functions.iter().filter(|own| text.contains(&own.id.to_string())).map(|own| own.name.as_str()).collect();
    assert!(left.is_empty(), "{left:?}");
}

#[test]
fn what_belongs_to_the_old_piece_of_hardware_goes_with_it_and_its_place_stays() {
    let mut site = demo::marram_point();
    let mut own = site.device(ids::projector()).unwrap().clone();
    own.records.serial_number = "P2-0001".to_owned();
    own.network.ip = "10.0.0.7".to_owned();
    own.network.allowed = "10.0.0.7:80".to_owned();
    own.network.mac = "02:00:00:00:00:07".to_owned();
    own.records.stands = "Above the door".to_owned();
    site.put(Entity::Device(own));
    let (changed, done) = exchanged(&site, ids::projector(), &shipped("Orrin", "L5"), false);
    let own = changed.device(ids::projector()).unwrap();
    assert_eq!((own.network.ip.as_str(), own.records.stands.as_str()), ("10.0.0.7", "Above the door"));
    assert_eq!(
        (own.network.allowed.as_str(), own.network.mac.as_str()),
        ("", ""),
        "leave is for one piece of hardware"
    );
    assert_eq!(own.records.serial_number, "");
    assert!(done.lost.iter().any(|line| line.starts_with("Serial number")), "{:?}", done.lost);
}

#[test]
fn a_choice_that_the_new_model_does_not_have_is_none() {
    let site = demo::marram_point();
    let model = shipped("Orrin", "L5");
    let old = site.model_of(ids::projector()).unwrap();
    let chosen: Vec<Chosen> =
        [old.functions[0].id.0, old.inputs[0].id.0].map(|id| Chosen { id, to: Some(Uuid::from_u128(7)) }).into();
    let mapping = suggest(&site, ids::projector(), &model).with(&chosen, &model);
    assert_eq!((mapping.functions[&old.functions[0].id], mapping.inputs[&old.inputs[0].id]), (None, None));
}
