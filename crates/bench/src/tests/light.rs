//! Light in the rehearsal room, over the very same dimmer stand-in and broker as everything else.

use super::*;
use crate::mind::{Cause, RunEnd};
use kestrel_core::model::{Gesture, Hand, Playback};
use kestrel_core::room::Want;

fn level(rehearsal: &Rehearsal, device: DeviceId) -> u8 {
    rehearsal.world().view(device).unwrap().level_percent.unwrap()
}

async fn loft() -> Rehearsal {
    let rehearsal = Rehearsal::in_memory(Arc::new(whole()), ids::chart_loft(), 1.0);
    rehearsal.clock().sleep(2_000).await;
    rehearsal
}

/// Arrival, film, pause, a hand on the wall, the way out at night: every level right, by whatever way playback starts.
#[tokio::test(start_paused = true)]
async fn light_follows_however_playback_starts() {
    let rehearsal = loft().await;
    let (lamps, streamer) = (ids::loft_dimmer(), ids::loft_streamer());
    rehearsal.run(Situation::In { activity: ids::loft_film() }).await.unwrap();
    rehearsal.clock().sleep(4_000).await;
    assert_eq!(level(&rehearsal, lamps), 50, "the arrival look comes with the start");
    ended(&rehearsal).await;
    let site = whole();
    let play = function(&site, streamer, "Play");
    rehearsal.hand(&Hand::Key { device: streamer, function: play }).unwrap();
    rehearsal.clock().sleep(6_000).await;
    assert_eq!(level(&rehearsal, lamps), 0, "the maker's own remote");
    rehearsal.hand(&Hand::Level { device: lamps, percent: 20 }).unwrap();
    rehearsal.clock().sleep(60_000).await;
    assert_eq!(level(&rehearsal, lamps), 20, "a hand holds");
    rehearsal.want(streamer, &Want::Transport { to: Playback::Paused, from_ms: None }).await.unwrap();
    rehearsal.clock().sleep(4_000).await;
    assert_eq!(level(&rehearsal, lamps), 25, "until the next cue");
    rehearsal.want(streamer, &Want::Transport { to: Playback::Playing, from_ms: Some(5_230_000) }).await.unwrap();
    rehearsal.clock().sleep(8_000).await;
    assert_eq!(level(&rehearsal, lamps), 25, "the credits");
    rehearsal.run(Situation::Off).await.unwrap();
    rehearsal.clock().sleep(2_000).await;
    assert_eq!(level(&rehearsal, lamps), 35, "the way out");
    assert!(level(&rehearsal, ids::shelf_strip()) == 30, "the strip gets its level by E1.31");
}

/// A key of the wall keypad starts the film: the run says that a cue asked for it.
#[tokio::test(start_paused = true)]
async fn a_key_on_the_wall_starts_a_macro() {
    let rehearsal = loft().await;
    let key = function(&whole(), ids::loft_keypad(), "Key 1");
    rehearsal.hand(&Hand::Press { device: ids::loft_keypad(), function: key, gesture: Gesture::Tap }).unwrap();
    rehearsal.clock().sleep(1_000).await;
    let run = ended(&rehearsal).await;
    assert_eq!((run.to, run.cause), (Situation::In { activity: ids::loft_film() }, Cause::Cued));
    assert_eq!(run.end, Some(RunEnd::Ready));
}

/// By night a step on the stairs lights them, by day it does not.
#[tokio::test(start_paused = true)]
async fn stairs_are_lit_at_night_only() {
    for (time, expected) in [("2027-01-15T23:00", 35), ("2027-06-21T14:00", 0)] {
        let rehearsal = loft().await;
        rehearsal.set_time(time).unwrap();
        rehearsal.hand(&Hand::Trip { device: ids::stair_sensor(), on: true }).unwrap();
        rehearsal.clock().sleep(3_000).await;
        assert_eq!(level(&rehearsal, ids::loft_dimmer()), expected, "{time}");
    }
    let rehearsal = loft().await;
    assert!(rehearsal.set_time("tea time").unwrap_err().to_string().contains("is no time"));
}

/// Half past ten on a Sunday: the speaker says so, and returns to its volume; with guests it keeps quiet.
#[tokio::test(start_paused = true)]
async fn a_cue_of_the_clock_speaks_unless_there_are_guests() {
    for guests in [false, true] {
        let rehearsal = loft().await;
        rehearsal.set_time("2027-01-17T22:29").unwrap();
        let switch = rehearsal.view().light.switches[0].switch;
        rehearsal.set_switch(switch, guests);
        rehearsal.clock().sleep(61_000).await;
        let said = rehearsal.world().log().iter().any(|line| line.meaning.contains("half past ten"));
        assert_eq!(said, !guests);
    }
}

/// Whoever asks again for the film that runs does not arrive: the light stays.
#[tokio::test(start_paused = true)]
async fn asking_again_for_what_is_on_is_no_arrival() {
    let rehearsal = loft().await;
    let film = Situation::In { activity: ids::loft_film() };
    rehearsal.run(film).await.unwrap();
    ended(&rehearsal).await;
    rehearsal.hand(&Hand::Cast { device: ids::loft_streamer() }).unwrap();
    rehearsal.clock().sleep(6_000).await;
    assert_eq!(level(&rehearsal, ids::loft_dimmer()), 0, "cast from a phone");
    rehearsal.run(film).await.unwrap();
    ended(&rehearsal).await;
    rehearsal.clock().sleep(4_000).await;
    assert_eq!(level(&rehearsal, ids::loft_dimmer()), 0);
}

/// What comes by itself comes at its time, however soon after it was decided.
#[tokio::test(start_paused = true)]
async fn off_after_a_pause_comes_on_time() {
    let mut site = whole();
    let streamer = ids::loft_streamer();
    let room = site.rooms.iter_mut().find(|room| room.id == ids::chart_loft()).unwrap();
    room.lighting.cues[2].also = vec![kestrel_core::model::Also::PauseAndOff { device: streamer, after_s: 7 }];
    let rehearsal = Rehearsal::in_memory(Arc::new(site), ids::chart_loft(), 1.0);
    rehearsal.clock().sleep(2_000).await;
    rehearsal.run(Situation::In { activity: ids::loft_film() }).await.unwrap();
    ended(&rehearsal).await;
    rehearsal.hand(&Hand::Cast { device: streamer }).unwrap();
    rehearsal.clock().sleep(10_000).await;
    rehearsal.want(streamer, &Want::Transport { to: Playback::Paused, from_ms: None }).await.unwrap();
    rehearsal.clock().sleep(6_000).await;
    assert_ne!(rehearsal.view().run.unwrap().to, Situation::Off);
    rehearsal.clock().sleep(2_500).await;
    let run = rehearsal.view().run.unwrap();
    assert_eq!((run.to, run.cause), (Situation::Off, Cause::Cued));
}

/// The time and the mode switches belong to an evening: played again, the same cues fire.
#[tokio::test(start_paused = true)]
async fn a_recorded_evening_keeps_its_time_and_its_switches() {
    let rehearsal = loft().await;
    rehearsal.record_from_here().await;
    rehearsal.set_time("2027-01-17T22:29").unwrap();
    let switch = rehearsal.view().light.switches[0].switch;
    rehearsal.set_switch(switch, true);
    let (events, _) = rehearsal.recorded().unwrap();
    let again = loft().await;
    assert_eq!(again.play(&events).await, Vec::<String>::new());
    let light = again.view().light;
    assert_eq!((light.time.as_str(), light.switches[0].on), ("2027-01-17T22:29", true));
}
