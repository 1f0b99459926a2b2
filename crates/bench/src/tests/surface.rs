//! Surfaces drive the rehearsal room: by a phone, and by the hard keys of a remote over its very own protocol.

use super::*;
use kestrel_core::id::{KeyId, RoomId, SurfaceId};
use kestrel_core::model::{Does, Gesture, Hand, Site, Surface, SurfaceKind};
use kestrel_core::surface::generate::generate;
use uuid::Uuid;

/// The whole house with a phone in a room.
fn with_phone(room: RoomId) -> (Site, SurfaceId) {
    let mut site = whole();
    let blank = Surface::blank(Uuid::from_u128(1).into(), "Test phone", SurfaceKind::Phone);
    let made = generate(&site, room, &blank, &mut Uuid::new_v4);
    site.rooms.iter_mut().find(|known| known.id == room).unwrap().surfaces.push(made);
    (site, blank.id)
}

fn key(site: &Site, room: RoomId, surface: SurfaceId, label: &str) -> KeyId {
    let surface = site.room(room).unwrap().surface(surface).unwrap();
    surface.keys().find(|(_, key)| key.label == label).unwrap_or_else(|| panic!("no “{label}”")).1.id
}

async fn opened(room: RoomId) -> (Rehearsal, Site, SurfaceId) {
    let (site, phone) = with_phone(room);
    let rehearsal = Rehearsal::in_memory(Arc::new(site.clone()), room, 1.0);
    rehearsal.clock().sleep(2_000).await;
    (rehearsal, site, phone)
}

#[tokio::test(start_paused = true)]
async fn a_phone_starts_an_activity_and_what_is_lit_follows() {
    let room = ids::chart_loft();
    let (rehearsal, site, phone) = opened(room).await;
    assert!(rehearsal.known().off);
    let start = key(&site, room, phone, "Loft television");
    assert_eq!(rehearsal.press_key(phone, start, Gesture::Tap).await.unwrap(), None);
    assert_eq!(rehearsal.known().activity, Some(ids::loft_television()), "while it is under way");
    ended(&rehearsal).await;
    let known = rehearsal.known();
    assert_eq!((known.activity, known.before), (Some(ids::loft_television()), None));
    assert_eq!(known.on.get(&ids::loft_display()), Some(&true));
    let other = key(&site, room, phone, "Loft music");
    rehearsal.press_key(phone, other, Gesture::Tap).await.unwrap();
    ended(&rehearsal).await;
    assert_eq!(rehearsal.known().before, Some(ids::loft_television()));
    // Back to the activity before is one press.
    let back = key(&site, room, phone, "Before");
    rehearsal.press_key(phone, back, Gesture::Tap).await.unwrap();
    ended(&rehearsal).await;
    assert_eq!(rehearsal.known().activity, Some(ids::loft_television()));
}

#[tokio::test(start_paused = true)]
async fn volume_repeats_while_it_is_held_and_stops_when_it_is_let_go() {
    let room = ids::chart_loft();
    let (rehearsal, site, phone) = opened(room).await;
    rehearsal.run(Situation::In { activity: ids::loft_music() }).await.unwrap();
    ended(&rehearsal).await;
    let volume = || rehearsal.world().view(ids::loft_receiver()).unwrap().volume_tenths.unwrap();
    let louder = key(&site, room, phone, "Louder");
    let before = volume();
    rehearsal.press_key(phone, louder, Gesture::Tap).await.unwrap();
    rehearsal.clock().sleep(500).await;
    let once = volume();
    assert!(once > before, "{before} → {once}");
    rehearsal.press_key(phone, louder, Gesture::Hold).await.unwrap();
    rehearsal.clock().sleep(3_000).await;
    rehearsal.press_key(phone, louder, Gesture::Release).await.unwrap();
    rehearsal.clock().sleep(1_000).await;
    let held = volume();
    assert!(held > once + 2 * (once - before), "{once} → {held}");
    rehearsal.clock().sleep(5_000).await;
    assert_eq!(volume(), held, "let go");
    // A phone that is lost while it holds a key lets go by itself.
    let softer = key(&site, room, phone, "Softer");
    rehearsal.press_key(phone, softer, Gesture::Hold).await.unwrap();
    rehearsal.clock().sleep(12_000).await;
    let after = volume();
    rehearsal.clock().sleep(5_000).await;
    assert_eq!(volume(), after);
}

#[tokio::test(start_paused = true)]
async fn what_would_do_nothing_says_why() {
    let room = ids::chart_loft();
    let (rehearsal, site, phone) = opened(room).await;
    let louder = key(&site, room, phone, "Louder");
    let refused = rehearsal.press_key(phone, louder, Gesture::Tap).await.unwrap_err();
    assert_eq!(refused.to_string(), "Nothing is playing.", "for the programmer");
    let crate::rehearsal::RehearsalError::Barred { plainly, .. } = refused else { panic!("{refused:?}") };
    assert_eq!(plainly, "Nothing is on now. Start something first.", "for whoever pressed it");
    let gone = rehearsal.press_key(phone, Uuid::from_u128(9).into(), Gesture::Tap).await.unwrap_err().to_string();
    assert!(gone.contains("Load the page again"), "{gone}");
}

#[tokio::test(start_paused = true)]
async fn a_look_and_a_zone_are_called_from_a_phone() {
    let room = ids::chart_loft();
    let (rehearsal, site, phone) = opened(room).await;
    let own = &site.room(room).unwrap().lighting;
    let look = own.looks.iter().find(|look| look.levels.iter().any(|level| level.percent > 20)).unwrap();
    let of_look = site.room(room).unwrap().surface(phone).unwrap().keys().find_map(|(_, key)| {
        key.bindings.iter().any(|known| known.does == Does::Look { look: look.id }).then_some(key.id)
    });
    rehearsal.press_key(phone, of_look.unwrap(), Gesture::Tap).await.unwrap();
    rehearsal.clock().sleep(u64::from(look.fade_ms) + 2_000).await;
    for level in &look.levels {
        let lamp = site.zone(level.zone).unwrap().device;
        assert_eq!(rehearsal.world().view(lamp).unwrap().level_percent, Some(level.percent));
    }
    rehearsal.dim(own.zones[0].id, 33, 300);
    rehearsal.clock().sleep(2_000).await;
    assert_eq!(rehearsal.world().view(own.zones[0].device).unwrap().level_percent, Some(33));
}

/// The hand remote of the loft sends strokes over MQTT; its surface says what they mean.
#[tokio::test(start_paused = true)]
async fn a_hard_key_does_what_its_surface_says() {
    let rehearsal = Rehearsal::in_memory(Arc::new(whole()), ids::chart_loft(), 1.0);
    rehearsal.clock().sleep(2_000).await;
    let press = |name: &str, gesture| {
        let function = function(&whole(), ids::loft_remote(), name);
        rehearsal.hand(&Hand::Press { device: ids::loft_remote(), function, gesture }).unwrap();
    };
    press("Hear", Gesture::Tap);
    rehearsal.clock().sleep(1_000).await;
    let run = ended(&rehearsal).await;
    assert_eq!(run.to, Situation::In { activity: ids::loft_music() });
    let volume = || rehearsal.world().view(ids::loft_receiver()).unwrap().volume_tenths.unwrap();
    let before = volume();
    press("Louder", Gesture::Hold);
    rehearsal.clock().sleep(4_000).await;
    assert!(volume() > before);
    press("Off", Gesture::Tap);
    rehearsal.clock().sleep(1_000).await;
    ended(&rehearsal).await;
    assert!(rehearsal.known().off);
}

/// A motor that is driven from a held key is stopped before it is reversed.
#[tokio::test(start_paused = true)]
async fn what_moves_is_reversed_with_care_from_a_held_key_too() {
    let room = ids::boat_hall();
    let (mut site, phone) = with_phone(room);
    let own = site.rooms.iter_mut().find(|known| known.id == room).unwrap();
    let surface = own.surfaces.iter_mut().find(|known| known.id == phone).unwrap();
    for key in surface.pages.iter_mut().flat_map(|page| &mut page.keys) {
        for binding in &mut key.bindings {
            binding.held = kestrel_core::model::Held::Passes;
        }
    }
    let (down, up) = (key(&site, room, phone, "Screen down"), key(&site, room, phone, "Screen up"));
    let rehearsal = Rehearsal::in_memory(Arc::new(site), room, 1.0);
    rehearsal.clock().sleep(2_000).await;
    rehearsal.press_key(phone, down, Gesture::Tap).await.unwrap();
    rehearsal.clock().sleep(5_000).await;
    rehearsal.press_key(phone, up, Gesture::Hold).await.unwrap();
    rehearsal.clock().sleep(1_500).await;
    rehearsal.press_key(phone, up, Gesture::Release).await.unwrap();
    let stop = rehearsal.world().log().into_iter().any(|line| line.heard.iter().any(|heard| heard.name == "Stop"));
    assert!(stop, "{:#?}", rehearsal.world().log());
    rehearsal.clock().sleep(60_000).await;
    let screen = rehearsal.world().view(ids::screen()).unwrap();
    assert_eq!(screen.down_percent, Some(0));
}

/// A dimmer's own wall switch is a moment: tapped twice it starts the film, tapped once it does what it always does.
#[tokio::test(start_paused = true)]
async fn a_double_tap_on_the_wall_switch_of_a_dimmer_is_a_moment() {
    let mut site = whole();
    let switch = function(&site, ids::loft_dimmer(), "Wall switch");
    let room = site.rooms.find_mut(|room| room.id == ids::chart_loft()).unwrap();
    let mut cue = room.lighting.cues[0].clone();
    cue.id = Uuid::from_u128(77).into();
    cue.moment = kestrel_core::model::Moment::Press {
        device: ids::loft_dimmer(),
        function: switch,
        gesture: Gesture::DoubleTap,
    };
    cue.provided = vec![];
    let to = Situation::In { activity: ids::loft_music() };
    cue.also = vec![kestrel_core::model::Also::Macro { to }];
    room.lighting.cues.push(cue);
    let rehearsal = Rehearsal::in_memory(Arc::new(site), ids::chart_loft(), 1.0);
    rehearsal.clock().sleep(2_000).await;
    let tap = |gesture| Hand::Press { device: ids::loft_dimmer(), function: switch, gesture };
    rehearsal.hand(&tap(Gesture::Tap)).unwrap();
    rehearsal.clock().sleep(3_000).await;
    assert!(rehearsal.view_of_run().is_none(), "a single tap is the switch's own");
    rehearsal.hand(&tap(Gesture::DoubleTap)).unwrap();
    rehearsal.clock().sleep(3_000).await;
    assert_eq!(rehearsal.view_of_run().unwrap().to, to);
}

/// A twist comes in a burst: only so much of it counts in a second.
#[tokio::test(start_paused = true)]
async fn a_twist_goes_no_louder_at_once_than_its_limit() {
    let room = ids::chart_loft();
    let (mut site, phone) = with_phone(room);
    let louder = key(&site, room, phone, "Louder");
    let own = site.rooms.find_mut(|known| known.id == room).unwrap();
    let keys = own.surfaces.iter_mut().flat_map(|surface| &mut surface.pages).flat_map(|page| &mut page.keys);
    for key in keys.filter(|key| key.id == louder) {
        key.bindings.iter_mut().for_each(|binding| binding.most_per_s = Some(3));
    }
    let rehearsal = Rehearsal::in_memory(Arc::new(site), room, 1.0);
    rehearsal.clock().sleep(2_000).await;
    rehearsal.run(Situation::In { activity: ids::loft_music() }).await.unwrap();
    ended(&rehearsal).await;
    let volume = || rehearsal.world().view(ids::loft_receiver()).unwrap().volume_tenths.unwrap();
    let before = volume();
    let step = whole().profile_of(ids::loft_receiver()).unwrap().volume.unwrap().step_tenths;
    let burst = async || {
        let presses = (0..10).map(|_| rehearsal.press_key(phone, louder, Gesture::Tap));
        futures::future::join_all(presses).await
    };
    assert!(burst().await.iter().all(Result::is_ok));
    rehearsal.clock().sleep(1_500).await;
    assert_eq!(volume(), before + 3 * step);
    burst().await;
    rehearsal.clock().sleep(1_500).await;
    assert_eq!(volume(), before + 6 * step, "a second later it may again");
}

/// A chime with a sound of one's own: the speaker gets its bytes, plays as long as it is, no louder than the ceiling, and the
/// volume comes back.
#[tokio::test(start_paused = true)]
async fn a_chime_is_played_by_the_speaker_under_its_ceiling_and_the_volume_comes_back() {
    use kestrel_core::model::{Also, Cue, Light, Moment, Picture};
    let mut site = whole();
    let volume = site.profile_of(ids::loft_receiver()).unwrap().volume.unwrap();
    let mut wav = b"RIFF\x00\x00\x00\x00WAVEfmt \x10\x00\x00\x00\x01\x00\x01\x00".to_vec();
    // 1 s of 16 bit at 8 kHz.
    wav.extend(8_000u32.to_le_bytes());
    wav.extend(16_000u32.to_le_bytes());
    wav.extend(b"\x02\x00\x10\x00data");
    wav.extend(16_000u32.to_le_bytes());
    wav.extend(vec![7; 16_000]);
    let sound = Picture::of(wav).unwrap();
    let key = function(&site, ids::loft_keypad(), "Key 4");
    let chime = Also::Chime {
        device: ids::loft_speaker(),
        sound: sound.id,
        name: "Gong".to_owned(),
        length_ms: 1_000,
        percent: 100,
    };
    let room = site.rooms.find_mut(|room| room.id == ids::chart_loft()).unwrap();
    room.lighting.cues = vec![Cue {
        id: Uuid::from_u128(78).into(),
        position: 0,
        moment: Moment::Press { device: ids::loft_keypad(), function: key, gesture: Gesture::Tap },
        provided: vec![],
        light: Light::Stays,
        also: vec![chime],
        off: false,
    }];
    site.pictures.push(sound);
    let model = site.device(ids::loft_speaker()).unwrap().profile;
    site.profiles.find_mut(|profile| profile.id == model).unwrap().volume = Some(volume);
    let rehearsal = Rehearsal::in_memory(Arc::new(site), ids::chart_loft(), 1.0);
    rehearsal.clock().sleep(2_000).await;
    let loud = || rehearsal.world().view(ids::loft_speaker()).unwrap().volume_tenths.unwrap();
    let before = loud();
    rehearsal.hand(&Hand::Press { device: ids::loft_keypad(), function: key, gesture: Gesture::Tap }).unwrap();
    rehearsal.clock().sleep(900).await;
    let during = loud();
    assert!(during > before && during <= volume.ceiling * 10, "{before} {during} of {}", volume.ceiling * 10);
    let log = rehearsal.world().log();
    assert!(log.iter().any(|line| line.bytes.contains("UklGR")), "its bytes went out: {log:?}");
    rehearsal.clock().sleep(2_500).await;
    assert_eq!(loud(), before);
}

/// Whoever says that something is not right gets the room as it should be, whatever it was believed to be.
#[tokio::test(start_paused = true)]
async fn what_is_not_right_is_put_right_whatever_was_believed() {
    let room = ids::chart_loft();
    let (rehearsal, _, _) = opened(room).await;
    let to = Situation::In { activity: ids::loft_music() };
    rehearsal.run(to).await.unwrap();
    ended(&rehearsal).await;
    assert_eq!(rehearsal.should_be(), to);
    assert!(rehearsal.plan_anyhow(to).is_some());
    rehearsal.put_right(to).await.unwrap();
    let run = ended(&rehearsal).await;
    assert_eq!(run.cause, crate::mind::Cause::Righted);
    arrived(&run);
}

/// The whole house to rest: what was on goes off, and the way out is at least as bright as its walk wants it.
#[tokio::test(start_paused = true)]
async fn a_room_that_goes_to_rest_leaves_its_way_out_lit() {
    let rehearsal = Rehearsal::in_memory(Arc::new(whole()), ids::boat_hall(), 1.0);
    rehearsal.clock().sleep(2_000).await;
    rehearsal.run(Situation::In { activity: ids::streaming() }).await.unwrap();
    ended(&rehearsal).await;
    rehearsal.rest().await.unwrap();
    rehearsal.clock().sleep(3_000).await;
    let exit = whole().room(ids::boat_hall()).unwrap().lighting.exit.clone().unwrap();
    for zone in &exit.zones {
        let level = rehearsal.known().levels[zone];
        assert!(level >= f64::from(exit.percent), "{level} %");
    }
    let run = ended(&rehearsal).await;
    assert_eq!(run.to, Situation::Off);
}
