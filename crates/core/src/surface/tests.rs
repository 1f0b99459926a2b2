use super::bar::Bar;
use super::cover::{self, Cover};
use super::engrave::{self, Labels};
use super::generate::generate;
use super::now::{self, Known, PressDoes};
use super::*;
use crate::demo::{self, ids};
use crate::finding::{Finding, Weight};
use crate::id::{ActivityId, DeviceId, RoomId};
use crate::model::{
    Binding, Called, Does, Gesture, Held, Likeness, Lit, LoudUnit, May, Role, Site, Situation, Skips, Spoken, Surface,
    SurfaceKey, SurfaceKind, SurfacePage, SurfaceTrial, Tint, Volume,
};
use crate::surface::voice;
use rstest::rstest;
use uuid::Uuid;

fn blank(kind: SurfaceKind) -> Surface {
    Surface::blank(Uuid::from_u128(7).into(), "Fresh", kind)
}

fn counter() -> impl FnMut() -> Uuid {
    let mut next = 100;
    move || {
        next += 1;
        Uuid::from_u128(next)
    }
}

fn made(site: &Site, room: RoomId, kind: SurfaceKind) -> Surface {
    generate(site, room, &blank(kind), &mut counter())
}

fn page_of(surface: &Surface, activity: ActivityId) -> &SurfacePage {
    surface.pages.iter().find(|page| page.activity == Some(activity)).unwrap()
}

fn labelled<'a>(page: &'a SurfacePage, label: &str) -> &'a SurfaceKey {
    page.keys.iter().find(|key| key.label == label).unwrap_or_else(|| panic!("no “{label}” on {}", page.name))
}

fn all_rooms() -> [RoomId; 6] {
    [ids::boat_hall(), ids::watch_room(), ids::slip_deck(), ids::bunk_cabin(), ids::tidy_cabin(), ids::chart_loft()]
}

#[rstest]
fn no_two_generated_keys_share_a_cell_and_none_leaves_the_grid(
    #[values(0, 1, 2, 3, 4, 5)] room: usize,
    #[values(0, 1, 2, 3, 4, 5, 6, 7, 8)] kind: usize,
) {
    let site = demo::marram_point();
    let surface = made(&site, all_rooms()[room], SurfaceKind::ALL[kind]);
    assert!(!surface.pages.is_empty());
    for page in &surface.pages {
        for (at, key) in page.keys.iter().enumerate() {
            assert!(key.column + key.wide <= surface.columns, "{}", key.label);
            let scrolls = surface.kind.is_glass() || page.name == "On its display";
            assert!(scrolls || key.row < surface.rows, "{}", key.label);
            let other = page.keys[at + 1..].iter().find(|other| key.covers(other));
            assert!(other.is_none(), "{} on {}", key.label, other.unwrap().label);
        }
    }
}

#[test]
fn navigation_goes_to_the_source_volume_to_what_sounds_and_home_has_three_meanings() {
    let site = demo::marram_point();
    let surface = made(&site, ids::boat_hall(), SurfaceKind::Phone);
    let page = page_of(&surface, ids::streaming());
    let home = labelled(page, "Its menu");
    let sends = |gesture| match &home.binding(gesture, None).unwrap().does {
        Does::Command { device, function, .. } => (*device, site.function_name(*device, *function)),
        other => panic!("{other:?}"),
    };
    assert_eq!(sends(Gesture::Tap), (ids::streamer(), "Home".to_owned()));
    assert_eq!(sends(Gesture::DoubleTap).1, "Home twice");
    assert_eq!(sends(Gesture::Hold).1, "Home held");
    let louder = labelled(page, "Louder");
    assert_eq!(louder.bindings[0].held, Held::Repeats);
    let known = Known { activity: Some(ids::streaming()), ..Known::default() };
    let deed = now::deed(&site, ids::boat_hall(), &louder.bindings[0].does, &known).unwrap();
    assert_eq!(deed, PressDoes::Nudge { device: ids::receiver(), steps: 1 });
    let film = page_of(&surface, ids::feature_film());
    assert!(film.keys.iter().all(|key| key.label != "Its menu"), "the disc player has no such key");
}

#[test]
fn what_two_pages_share_stands_in_the_same_place_in_every_room() {
    let site = demo::marram_point();
    let mut places = std::collections::BTreeMap::new();
    for room in all_rooms() {
        let surface = made(&site, room, SurfaceKind::Phone);
        for page in surface.pages.iter().filter(|page| page.activity.is_some()) {
            for key in &page.keys {
                let Some(Role::Term { name }) = &key.role else { continue };
                if ["Back", "OK", "Volume up", "Volume down", "Play", "Pause", "Stop", "Home"].contains(&name.as_str())
                {
                    let place = places.entry(name.clone()).or_insert((key.column, key.row));
                    assert_eq!(*place, (key.column, key.row), "{name} on {}", page.name);
                }
            }
        }
    }
    assert!(places.len() >= 6, "{places:?}");
}

#[test]
fn hand_made_keys_survive_what_is_generated_anew_and_what_was_taken_away_stays_away() {
    let site = demo::marram_point();
    let mut surface = made(&site, ids::boat_hall(), SurfaceKind::Phone);
    let page = surface.pages.iter_mut().find(|page| page.activity == Some(ids::streaming())).unwrap();
    let at = page.keys.iter().position(|key| key.label == "OK").unwrap();
    page.keys[at].label = "Take it".to_owned();
    let back = labelled(page, "Back");
    let backs = (back.column, back.row);
    (page.keys[at].column, page.keys[at].row) = backs;
    page.keys[at].by_hand = true;
    let gone = page.keys.iter().position(|key| key.label == "Pause").unwrap();
    page.without.push(page.keys.remove(gone).role.unwrap());
    let mine = page.keys.iter().find(|key| key.label == "Take it").unwrap().clone();
    let again = generate(&site, ids::boat_hall(), &surface, &mut counter());
    let page = page_of(&again, ids::streaming());
    assert!(page.keys.contains(&mine));
    let term = |name: &str| Some(Role::Term { name: name.to_owned() });
    assert!(page.keys.iter().all(|key| key.role != term("Pause") && key.label != "OK"));
    // “Back” stood where the hand has put something else: it went elsewhere, and is still there.
    assert_ne!((labelled(page, "Back").column, labelled(page, "Back").row), backs);
    assert_eq!(generate(&site, ids::boat_hall(), &again, &mut counter()), again, "nothing else changes");
}

#[test]
fn a_hard_key_means_something_else_in_each_activity() {
    let site = demo::marram_point();
    let surface = made(&site, ids::boat_hall(), SurfaceKind::HandRemote);
    let play = labelled(&surface.pages[0], "Play");
    let plays = |activity| match play.binding(Gesture::Tap, Some(activity)).map(|binding| &binding.does) {
        Some(Does::Command { device, .. }) => Some(*device),
        _ => None,
    };
    assert_eq!(plays(ids::feature_film()), Some(ids::disc_player()));
    assert_eq!(plays(ids::streaming()), Some(ids::streamer()));
}

#[test]
fn the_keys_of_a_hand_remote_in_kit_are_found_by_what_is_written_on_them() {
    let site = demo::marram_point();
    let surface = site.room(ids::chart_loft()).unwrap().surface(ids::loft_keys()).unwrap();
    let says = |name: &str| {
        let profile = site.profile_of(ids::loft_remote()).unwrap();
        let function = profile.functions.iter().find(|f| f.name == name).unwrap().id;
        surface
            .hard_key(function)
            .and_then(|key| key.binding(Gesture::Tap, Some(ids::loft_film())))
            .map(|b| b.does.clone())
    };
    assert_eq!(says("Off"), Some(Does::RoomOff));
    assert_eq!(says("Louder"), Some(Does::Volume { device: None, steps: 1, unit: LoudUnit::Steps }));
    assert!(matches!(says("See"), Some(Does::Activity { .. })));
    assert_eq!(says("Hear"), Some(Does::Activity { activity: ids::loft_music() }));
}

#[test]
fn the_display_of_a_remote_lists_what_can_be_watched_and_its_keys_stand_behind() {
    let site = demo::marram_point();
    let surface = made(&site, ids::watch_room(), SurfaceKind::DisplayRemote);
    let labels: Vec<&str> = surface.pages[0].keys.iter().map(|key| key.label.as_str()).collect();
    assert_eq!(labels, ["Television", "Harbour News", "Tideline", "Five louder", "Next channel but two"]);
    assert!(surface.pages[0].keys.iter().all(|key| key.wide == surface.columns));
    assert_eq!(labelled(&surface.pages[1], "Louder").bindings[0].held, Held::Repeats);
    assert_eq!(generate(&site, ids::watch_room(), &surface, &mut counter()), surface);
}

#[rstest]
#[case::one(1, 1)]
#[case::two(1, 2)]
#[case::four(1, 4)]
#[case::eight(2, 4)]
fn a_keypad_always_ends_with_finish(#[case] columns: u8, #[case] rows: u8) {
    let site = demo::marram_point();
    let small = Surface { columns, rows, ..blank(SurfaceKind::Keypad) };
    let surface = generate(&site, ids::boat_hall(), &small, &mut counter());
    let keys = &surface.pages[0].keys;
    assert_eq!(keys.len(), usize::from(columns * rows));
    let last = keys.last().unwrap();
    let off = last.bindings.iter().find(|binding| binding.does == Does::RoomOff).unwrap();
    assert_eq!(off.gesture, if keys.len() == 1 { Gesture::Hold } else { Gesture::Tap });
}

#[test]
fn a_power_key_does_one_of_two_things_by_what_is_known() {
    let site = demo::marram_point();
    let does = Does::Power { device: ids::projector() };
    let mut known = Known::default();
    let unknown = now::deed(&site, ids::boat_hall(), &does, &known).unwrap_err();
    assert_eq!(unknown, Bar::Unsure { device: ids::projector() });
    assert_eq!(unknown.exactly(&site), "Nobody knows whether Projector is on.");
    for (on, name) in [(true, "Power off"), (false, "Power on")] {
        known.on.insert(ids::projector(), on);
        let Ok(PressDoes::Send { device, function, .. }) = now::deed(&site, ids::boat_hall(), &does, &known) else {
            panic!()
        };
        assert_eq!(site.function_name(device, function), name);
    }
}

#[test]
fn a_key_says_why_it_would_do_nothing() {
    let site = demo::marram_point();
    let surface = made(&site, ids::boat_hall(), SurfaceKind::Phone);
    let page = page_of(&surface, ids::feature_film());
    let why = |label: &str, known: &Known| {
        let key = now::key(&site, ids::boat_hall(), &surface, labelled(page, label), known);
        key.meanings[0].barred.clone().unwrap_or_default()
    };
    let mut known = Known { activity: Some(ids::feature_film()), ..Known::default() };
    assert_eq!(why("Stop", &known), "The disc player is not set up for this yet.");
    assert_eq!(why("Play", &known), "");
    known.on.insert(ids::disc_player(), false);
    assert_eq!(why("Play", &known), "The disc player is off. Start what you would like first.");
    assert_eq!(why("Before", &known), "Nothing was on before this.");
    known.before = Some(ids::streaming());
    let before = now::deed(&site, ids::boat_hall(), &Does::Before, &known);
    assert_eq!(before, Ok(PressDoes::Run { to: Situation::In { activity: ids::streaming() } }));
}

#[test]
fn keys_are_lit_by_what_is_known() {
    let site = demo::marram_point();
    let room = site.room(ids::boat_hall()).unwrap();
    let look = room.lighting.looks[0].clone();
    let lit = |lit: &Lit, known: &Known| now::is_lit(&site, room.id, lit, known);
    let mut known = Known { activity: Some(ids::streaming()), ..Known::default() };
    assert!(lit(&Lit::Activity { activity: ids::streaming() }, &known));
    assert!(!lit(&Lit::Off, &known));
    assert!(!lit(&Lit::Look { look: look.id }, &known));
    known.levels = look.levels.iter().map(|level| (level.zone, f64::from(level.percent))).collect();
    assert!(lit(&Lit::Look { look: look.id }, &known));
    assert!(!lit(&Lit::Muted, &known));
    known.muted.insert(ids::receiver());
    assert!(lit(&Lit::Muted, &known));
    let zone = look.levels[0].zone;
    assert!(lit(&Lit::Level { zone, above_percent: 59 }, &known));
    assert!(!lit(&Lit::Level { zone, above_percent: 60 }, &known));
    known.app.insert(ids::streamer(), "Tideline".to_owned());
    assert!(lit(&Lit::App { device: ids::streamer(), name: "Tideline".to_owned() }, &known));
}

#[test]
fn coverage_tells_what_is_bound_missing_and_impossible() {
    let site = demo::marram_point();
    let mut surface = made(&site, ids::boat_hall(), SurfaceKind::Phone);
    let of = |surface: &Surface, device: DeviceId, name: &str| {
        let all = cover::cover(&site, ids::boat_hall(), surface);
        all.into_iter().find(|known| known.device == device && known.name == name).unwrap().cover
    };
    assert!(matches!(of(&surface, ids::disc_player(), "Play"), Cover::Bound { presses: 1, gesture: Gesture::Tap, .. }));
    assert!(matches!(of(&surface, ids::streamer(), "Home held"), Cover::Bound { gesture: Gesture::Hold, .. }));
    assert!(matches!(of(&surface, ids::disc_player(), "Stop"), Cover::Impossible { .. }), "it has no code");
    // On the page for when something is wrong: two presses away.
    assert!(matches!(of(&surface, ids::projector(), "Power off"), Cover::Bound { presses: 2, .. }));
    assert_eq!(of(&surface, ids::projector(), "Source"), Cover::ByActivities);
    for page in &mut surface.pages {
        page.keys.retain(|key| key.label != "Eject");
    }
    assert_eq!(of(&surface, ids::disc_player(), "Eject"), Cover::Missing);
}

fn titles(findings: &[Finding]) -> Vec<&str> {
    findings.iter().map(|finding| finding.title.as_str()).collect()
}

#[test]
fn a_generated_phone_has_nothing_wrong_with_it_but_remarks() {
    let site = demo::marram_point();
    for room in all_rooms() {
        let surface = made(&site, room, SurfaceKind::Phone);
        let findings = find::of(&site, room, &surface);
        let worse: Vec<_> = findings.iter().filter(|finding| finding.weight < Weight::Remark).collect();
        assert!(worse.is_empty(), "{worse:#?}");
    }
}

#[rstest]
#[case::does_nothing("Key does nothing", "“AUX”")]
#[case::two_meanings("Two meanings", "“Play”")]
#[case::slow_tap("Slow tap", "350 ms")]
#[case::small("Small key", "10.0 × 28.3 mm")]
#[case::faint("Faint label", "contrast of")]
#[case::contradiction("Label says otherwise", "switches Cabin disc player on when it is off")]
#[case::less("Less than before", "are on no key")]
#[case::names("Names collide", "“screen”")]
#[case::alike("Names collide", "“cabin disc” sounds like")]
fn the_mistakes_of_the_cabin_are_found(#[case] title: &str, #[case] says: &str) {
    let mut site = demo::marram_point();
    if title == "Small key" {
        // Two columns on 24 mm are 10 mm wide: just enough. Three are not.
        let room = site.rooms.iter_mut().find(|room| room.id == ids::bunk_cabin()).unwrap();
        room.surfaces[0].columns = 3;
    }
    let says = if title == "Small key" { "6.0 × 28.3 mm" } else { says };
    let findings = find::findings(&site, ids::bunk_cabin());
    let found = findings.iter().any(|finding| finding.title == title && finding.text.contains(says));
    assert!(found, "{findings:#?}");
}

#[test]
fn what_moves_from_a_keypad_without_a_stop_is_a_hazard() {
    let site = demo::marram_point();
    let findings = find::findings(&site, ids::slip_deck());
    let finding = findings.iter().find(|finding| finding.title == "Nothing to stop it").unwrap();
    assert_eq!(finding.weight, Weight::Hazard);
    assert!(finding.text.contains("Awning"), "{}", finding.text);
    let mut mended = site.clone();
    let room = mended.rooms.iter_mut().find(|room| room.id == ids::slip_deck()).unwrap();
    let stop = offer::tap(Does::StopAll);
    room.surfaces[0].pages[0].keys[0].bindings.push(Binding { gesture: Gesture::Hold, ..stop });
    assert!(!titles(&find::findings(&mended, ids::slip_deck())).contains(&"Nothing to stop it"));
}

#[test]
fn a_key_with_a_cue_of_its_own_has_two_meanings() {
    let mut site = demo::marram_point();
    let room = site.rooms.iter_mut().find(|room| room.id == ids::chart_loft()).unwrap();
    let key = room.surfaces[0].pages[0].keys[0].clone();
    let mut cue = room.lighting.cues[0].clone();
    cue.id = Uuid::from_u128(5).into();
    cue.moment =
        crate::model::Moment::Press { device: ids::loft_remote(), function: key.sends.unwrap(), gesture: Gesture::Tap };
    room.lighting.cues.push(cue);
    let findings = find::findings(&site, ids::chart_loft());
    assert!(findings.iter().any(|f| f.title == "Two meanings" && f.text.contains("cue of its own")), "{findings:#?}");
}

#[test]
fn a_guest_starts_a_film_with_two_presses_and_asks_about_sockets() {
    let site = demo::marram_point();
    let mut surface = made(&site, ids::boat_hall(), SurfaceKind::Phone);
    let ways = guest::test(&site, ids::boat_hall(), &surface);
    let film = ways.iter().find(|way| way.activity == ids::feature_film()).unwrap();
    let labels: Vec<&str> = film.presses.iter().map(|press| press.label.as_str()).collect();
    assert_eq!(labels, ["Feature film", "Play"]);
    assert!(film.presses.iter().all(|press| press.unclear.is_none()), "{film:?}");
    surface.pages[0].keys.iter_mut().find(|key| key.label == "Feature film").unwrap().label = "HDMI 3".to_owned();
    let ways = guest::test(&site, ids::boat_hall(), &surface);
    let film = ways.iter().find(|way| way.activity == ids::feature_film()).unwrap();
    assert!(film.presses[0].unclear.as_ref().unwrap().contains("socket"));
    surface.pages[0].keys.retain(|key| key.label != "HDMI 3");
    assert!(titles(&find::of(&site, ids::boat_hall(), &surface)).contains(&"Activity without a key"));
}

#[rstest]
#[case("BD", "abbreviation")]
#[case("Tarnbeck", "maker")]
#[case("", "Nothing is written")]
#[case("Games", "Two keys here")]
#[case("Comfort", "does not say so")]
fn labels_that_need_explaining_are_told(#[case] label: &str, #[case] why: &str) {
    let site = demo::marram_point();
    let mut page = made(&site, ids::boat_hall(), SurfaceKind::Phone).pages.remove(0);
    let key = page.keys.iter_mut().find(|key| key.label == "Feature film").unwrap();
    key.label = label.to_owned();
    let key = key.clone();
    let told = guest::unclear(&site, &page, &key, site.activity(ids::feature_film())).unwrap();
    assert!(told.contains(why), "{told}");
}

#[test]
fn a_page_copied_to_another_room_does_there_what_it_does_here() {
    let site = demo::marram_point();
    let (hall, loft) =
        (made(&site, ids::boat_hall(), SurfaceKind::Phone), made(&site, ids::chart_loft(), SurfaceKind::Phone));
    let page = page_of(&hall, ids::streaming());
    let copied = copy::page(&site, page, ids::chart_loft(), &loft, &mut counter());
    let louder = labelled(&copied.page, "Louder");
    let old = labelled(page, "Louder");
    assert_eq!((louder.column, louder.row), (old.column, old.row));
    assert_eq!(louder.bindings, old.bindings);
    let devices: Vec<DeviceId> = copied
        .page
        .keys
        .iter()
        .flat_map(|key| &key.bindings)
        .filter_map(|binding| match binding.does {
            Does::Command { device, .. } => Some(device),
            _ => None,
        })
        .collect();
    assert!(devices.iter().all(|device| site.device(*device).unwrap().serves(ids::chart_loft())), "{devices:?}");
    assert!(copied.left_out.iter().any(|line| line.starts_with("Screen")), "{:?}", copied.left_out);
}

/// The article that published double metaphone (2000): Smith and Schmidt share XMT (*from memory*).
#[rstest]
#[case::same("Film", "film", Some(Likeness::Same))]
#[case::contained("screen", "terrace screen", Some(Likeness::Contained))]
#[case::no_part_of_a_word("lamp", "lampshade", None)]
#[case::alike("Knight film", "night film", Some(Likeness::SoundsAlike))]
#[case::alike_by_the_less_likely_sound("Smith", "Schmidt", Some(Likeness::SoundsAlike))]
#[case::other("Film", "Music", None)]
fn names_collide_where_people_would_mix_them_up(#[case] a: &str, #[case] b: &str, #[case] why: Option<Likeness>) {
    assert_eq!(voice::collide(a, b), why);
    assert_eq!(voice::collide(b, a), why);
}

#[test]
fn a_suggested_name_collides_with_nothing() {
    let site = demo::marram_point();
    let collisions = voice::collisions(&site, ids::bunk_cabin());
    assert!(!collisions.is_empty());
    for collision in collisions {
        let Some(instead) = collision.instead else { continue };
        let mut changed = site.clone();
        let room = changed.rooms.iter_mut().find(|room| room.id == ids::bunk_cabin()).unwrap();
        room.voice.names.retain(|known| known.of != collision.of);
        room.voice.names.push(Spoken { of: collision.of.clone(), names: vec![instead.clone()] });
        let still = voice::collisions(&changed, ids::bunk_cabin());
        assert!(still.iter().all(|known| known.name != instead), "{instead}: {still:?}");
    }
}

#[test]
fn phrases_tell_what_is_new_and_gone_since_the_voice_service_was_told() {
    let mut site = demo::marram_point();
    let sheet = voice::sheet(&site, ids::watch_room());
    let say = |sheet: &voice::VoiceSheet| sheet.phrases.iter().map(|phrase| phrase.say.clone()).collect::<Vec<_>>();
    assert!(say(&sheet).contains(&"Start Television".to_owned()));
    assert!(sheet.phrases.iter().all(|phrase| phrase.fresh) && sheet.gone.is_empty());
    let room = site.rooms.iter_mut().find(|room| room.id == ids::watch_room()).unwrap();
    room.voice.synced = Some(crate::model::Synced { at: jiff::Timestamp::UNIX_EPOCH, phrases: say(&sheet) });
    assert!(voice::sheet(&site, ids::watch_room()).phrases.iter().all(|phrase| !phrase.fresh));
    let of = Called::Activity { activity: ids::television() };
    let room = site.rooms.iter_mut().find(|room| room.id == ids::watch_room()).unwrap();
    room.voice.names.push(Spoken { of, names: vec!["the news".to_owned()] });
    let sheet = voice::sheet(&site, ids::watch_room());
    assert_eq!(sheet.gone, ["Start Television"]);
    let fresh: Vec<&str> = sheet.phrases.iter().filter(|p| p.fresh).map(|p| p.say.as_str()).collect();
    assert_eq!(fresh, ["Start the news"]);
    assert!(titles(&find::findings(&site, ids::watch_room())).contains(&"Changed since last sync"));
}

#[test]
fn a_device_that_a_voice_service_cannot_list_gets_a_pair_of_scenes() {
    let site = demo::marram_point();
    let phrases = voice::phrases(&site, ids::boat_hall());
    for (say, device) in [("Turn on Projector", ids::projector()), ("Lower Screen", ids::screen())] {
        let phrase = phrases.iter().find(|phrase| phrase.say == say).unwrap();
        assert_eq!(phrase.scene.as_ref().unwrap().device, device);
    }
}

#[test]
fn letters_that_fit_follow_from_the_size_of_the_key_and_of_the_letters() {
    let surface = blank(SurfaceKind::Keypad);
    let mut key = made(&demo::marram_point(), ids::boat_hall(), SurfaceKind::Keypad).pages[0].keys[0].clone();
    // 78 mm less a margin, 3.5 mm capitals that take 0.9 of that each.
    key.label = "Feature film".to_owned();
    let fit = engrave::fit(&surface, &key);
    assert_eq!((fit.letters, fit.lines, fit.fits), (24, 3, true));
    let small = Surface { width_mm: 22, columns: 1, ..surface.clone() };
    let fit = engrave::fit(&small, &key);
    assert_eq!((fit.letters, fit.set), (6, vec!["Feature".to_owned(), "film".to_owned()]));
    assert!(!fit.fits, "seven letters on six");
}

/// Unicode 15.1, chapter Braille Patterns, and ISO 11548-1: letters a to j, the number sign before figures.
#[rstest]
#[case("abc", "⠁⠃⠉")]
#[case("film", "⠋⠊⠇⠍")]
#[case("off", "⠕⠋⠋")]
#[case("wxyz", "⠺⠭⠽⠵")]
#[case("Film 10", "⠋⠊⠇⠍⠀⠼⠁⠚")]
fn labels_are_written_in_uncontracted_braille(#[case] label: &str, #[case] expected: &str) {
    assert_eq!(engrave::braille_text(&engrave::braille(label)), expected);
}

#[rstest]
#[case::engraved(Labels::Engraved, "width=\"80.00mm\"")]
#[case::stickers(Labels::Stickers, "width=\"180.00mm\"")]
#[case::braille(Labels::Braille, "<circle")]
fn sheets_are_drawn_in_millimetres(#[case] labels: Labels, #[case] holds: &str) {
    let site = demo::marram_point();
    let mut surface = made(&site, ids::boat_hall(), SurfaceKind::Keypad);
    surface.pages[0].keys[0].label = "Film <&> more".to_owned();
    let svg = engrave::sheet(&surface, &surface.pages[0], labels);
    assert!(svg.contains(holds), "{svg}");
    assert!(!svg.contains("<&>"), "labels are escaped");
}

#[test]
fn engraving_is_offered_once_nothing_has_changed_for_long_enough() {
    let day = |n: i64| jiff::Timestamp::from_second(n * 86_400 + 10).unwrap();
    let mut surface = made(&demo::marram_point(), ids::boat_hall(), SurfaceKind::Keypad);
    assert!(!engrave::trying(&surface, &[], false, day(9)).offered);
    surface.trial = Some(SurfaceTrial { since: day(100), quiet_days: 14 });
    let tried = engrave::trying(&surface, &[day(90), day(103)], false, day(116));
    assert_eq!((tried.days_in_use, tried.days_quiet, tried.changes, tried.offered), (Some(16), Some(13), 1, false));
    assert!(engrave::trying(&surface, &[day(90), day(103)], false, day(117)).offered);
    assert!(!engrave::trying(&surface, &[], true, day(200)).offered, "looks wait to be reviewed");
}

#[rstest]
#[case::beside_the_grid(|s: &mut Surface| s.pages[0].keys[0].column = 9, "beside the grid")]
#[case::too_often(|s: &mut Surface| s.pages[0].keys[0].bindings[0].does = Does::Volume { device: None, steps: 0, unit: LoudUnit::Steps }, "1 to 30 steps")]
#[case::too_loud(|s: &mut Surface| s.pages[0].keys[0].bindings[0].does = Does::Volume { device: None, steps: 51, unit: LoudUnit::Percent }, "50 %")]
#[case::too_far(|s: &mut Surface| s.pages[0].keys[0].bindings[0].does = Does::Jump { device: None, seconds: -601 }, "1 to 600 s")]
#[case::too_easily(|s: &mut Surface| s.pages[0].keys[0].bindings[0].does = Does::HouseRest, "a key that is held")]
#[case::never_counts(|s: &mut Surface| s.pages[0].keys[0].bindings[0].most_per_s = Some(0), "between 1 and 30")]
#[case::flashes(|s: &mut Surface| s.pages[0].keys[0].bindings[0].held = Held::Repeats, "only commands and volume")]
#[case::no_picture(|s: &mut Surface| s.pages[0].keys[0].picture = Some(crate::model::Picture::id_of(b"none")), "picture that this refers to")]
#[case::no_colour(|s: &mut Surface| s.pages[0].keys[0].tint = Some(Tint { ink: "red".to_owned(), ground: "#ffffff".to_owned() }), "#1c6470")]
#[case::giant(|s: &mut Surface| s.width_mm = 5_000, "10 to 1000 mm")]
#[case::limits(|s: &mut Surface| s.may = Some(May { least_percent: 90, most_percent: 10 }), "darkest")]
fn an_edit_that_makes_no_sense_is_refused_with_a_sentence(#[case] spoil: fn(&mut Surface), #[case] says: &str) {
    let site = demo::marram_point();
    let mut surface = site.room(ids::boat_hall()).unwrap().surfaces[0].clone();
    spoil(&mut surface);
    let surface = crate::model::InRoom::new(ids::boat_hall(), surface);
    let refused = crate::edit::validate(&site, &crate::model::Entity::Surface(surface)).unwrap_err().to_string();
    assert!(refused.contains(says), "{refused}");
}

#[test]
fn a_tidy_room_has_nothing_to_say_about_what_is_pressed_there() {
    let site = demo::marram_point();
    assert_eq!(find::findings(&site, ids::tidy_cabin()), []);
    // Volume keys that no profile counts are keys like any other.
    let phone = &site.room(ids::tidy_cabin()).unwrap().surfaces[0];
    let louder = phone.keys().map(|(_, key)| key).find(|key| key.label == "Louder").unwrap();
    assert!(matches!(louder.bindings[0], Binding { does: Does::Command { .. }, held: Held::Repeats, .. }));
}

/// By hand: 10 % of a range of 60 are 6.0 of its unit, which are 12 steps of 0.5.
#[rstest]
#[case::steps(5, LoudUnit::Steps, false, Some(5))]
#[case::percent(10, LoudUnit::Percent, false, Some(12))]
#[case::percent_down(-10, LoudUnit::Percent, false, Some(-12))]
#[case::at_least_one(1, LoudUnit::Percent, false, Some(1))]
#[case::decibels(3, LoudUnit::Decibels, true, Some(6))]
#[case::no_decibels(3, LoudUnit::Decibels, false, None)]
fn an_amount_of_loudness_becomes_presses(
    #[case] by: i8,
    #[case] unit: LoudUnit,
    #[case] decibels: bool,
    #[case] presses: Option<i8>,
) {
    let (up, down) = (Uuid::from_u128(1).into(), Uuid::from_u128(2).into());
    let volume = Volume {
        up,
        down,
        step_tenths: 5,
        range: 60,
        ceiling: 50,
        after_power_on: None,
        absolute: false,
        mute: None,
        decibels,
    };
    assert_eq!(volume.presses(by, unit), presses);
}

/// A source whose keys jump 10 s back and 30 s on: as near as whole presses come, at least one.
#[rstest]
#[case(-30, 1, 3)]
#[case(-4, 1, 1)]
#[case(90, 2, 3)]
#[case(100, 2, 3)]
#[case(106, 2, 4)]
fn a_jump_of_seconds_becomes_presses(#[case] seconds: i16, #[case] key: u128, #[case] times: u8) {
    let (back, forward) = (Uuid::from_u128(1).into(), Uuid::from_u128(2).into());
    let skips = Skips { back, back_s: 10, forward, forward_s: 30 };
    assert_eq!(skips.presses(seconds), (Uuid::from_u128(key).into(), times));
}

#[test]
fn a_jump_goes_to_the_source_of_what_is_on_and_says_where_it_cannot() {
    let site = demo::marram_point();
    let does = Does::Jump { device: None, seconds: -30 };
    let film = Known { activity: Some(ids::feature_film()), ..Known::default() };
    let missing = now::deed(&site, ids::boat_hall(), &does, &film).unwrap_err();
    assert_eq!(missing.plainly(&site), "The disc player is not set up for this yet.");
    let known = Known { activity: Some(ids::streaming()), ..Known::default() };
    let back = site.profile_of(ids::streamer()).unwrap().skips.unwrap().back;
    let deed = now::deed(&site, ids::boat_hall(), &does, &known);
    assert_eq!(deed, Ok(PressDoes::Send { device: ids::streamer(), function: back, times: 3 }));
    // Laid out anew, a phone has a key for one press of each.
    let phone = made(&site, ids::boat_hall(), SurfaceKind::Phone);
    let page = page_of(&phone, ids::streaming());
    assert_eq!(labelled(page, "10 s back").role, Some(Role::Jump { on: false }));
    assert_eq!(labelled(page, "30 s on").role, Some(Role::Jump { on: true }));
    assert_eq!(now::words(&site, ids::boat_hall(), None, &does), "30 s back");
    assert_eq!(now::deed(&site, ids::boat_hall(), &does, &Known::default()), Err(Bar::NothingPlays));
}

#[test]
fn the_whole_house_goes_to_rest_from_a_key_that_is_held_and_says_what_moves() {
    let site = demo::marram_point();
    let surface = made(&site, ids::boat_hall(), SurfaceKind::Phone);
    let key = labelled(&surface.pages[0], "Whole house to rest");
    assert_eq!(key.binding(Gesture::Tap, None), None, "a tap comes too easily");
    let held = key.binding(Gesture::Hold, None).unwrap();
    let said = now::words(&site, ids::boat_hall(), Some(&surface), &held.does);
    assert!(said.contains("Awning") && said.contains("keep clear"), "{said}");
    assert_eq!(now::deed(&site, ids::boat_hall(), &held.does, &Known::default()), Ok(PressDoes::Rest));
    let alone =
        Site { activities: site.activities.iter().filter(|a| a.room == ids::boat_hall()).cloned().collect(), ..site };
    let surface = made(&alone, ids::boat_hall(), SurfaceKind::Phone);
    assert!(surface.pages[0].keys.iter().all(|key| key.role != Some(Role::HouseRest)), "one room has Finish for that");
}

#[test]
fn a_dimmer_that_looks_set_is_not_told_to_be_impossible_for_want_of_a_code() {
    let site = demo::marram_point();
    let room = site.room(ids::boat_hall()).unwrap();
    let surface = made(&site, room.id, SurfaceKind::Phone);
    let dimmers: Vec<DeviceId> = room.lighting.zones.iter().map(|zone| zone.device).collect();
    let covered = cover::cover(&site, room.id, &surface);
    for known in covered.iter().filter(|known| dimmers.contains(&known.device)) {
        assert!(!matches!(known.cover, Cover::Impossible { .. }), "{known:?}");
    }
}

#[test]
fn glass_has_no_labels_and_other_surfaces_have_them_a_page_at_a_time() {
    let site = demo::marram_point();
    let phone = made(&site, ids::boat_hall(), SurfaceKind::Phone);
    assert_eq!(phone.labelled_pages().count(), 0);
    let display = made(&site, ids::watch_room(), SurfaceKind::DisplayRemote);
    let names: Vec<&str> = display.labelled_pages().map(|page| page.name.as_str()).collect();
    assert_eq!(names, ["Keys"], "nothing is cut into what its display lists");
}
