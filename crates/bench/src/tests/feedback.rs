//! What devices report while the house drives them is a reading, and lies where the device really was.

use super::{ended, film, whole};
use crate::rehearsal::Rehearsal;
use kestrel_core::demo::ids;
use kestrel_core::model::{SeenIn, Situation, Timing};
use std::sync::Arc;

#[tokio::test(start_paused = true)]
async fn a_run_times_the_devices_that_report() {
    let site = Arc::new(whole());
    let rehearsal = Rehearsal::in_memory(site.clone(), ids::boat_hall(), 1.0);
    // The first answers have come: what is not known to be off is not timed.
    rehearsal.clock().sleep(10_000).await;
    rehearsal.run(film()).await.unwrap();
    ended(&rehearsal).await;
    rehearsal.clock().sleep(120_000).await;
    rehearsal.run(Situation::Off).await.unwrap();
    ended(&rehearsal).await;
    rehearsal.clock().sleep(300_000).await;
    let told = rehearsal.take_readings();
    let of = |device, timing| told.iter().filter(|(own, _)| (own.device, own.timing) == (device, timing)).count();
    assert_eq!(of(ids::disc_player(), Timing::WarmUp), 1, "{told:?}");
    assert_eq!(of(ids::receiver(), Timing::CoolDown), 1, "{told:?}");
    assert_eq!(of(ids::projector(), Timing::WarmUp), 0, "it tells nothing: {told:?}");
    for (own, seen) in &told {
        assert_eq!(*seen, SeenIn::Rehearsed);
        let profile = site.profile_of(own.device).unwrap();
        let span = own.timing.span(&profile).unwrap();
        assert!(own.ms >= span.lo_ms && own.ms - own.early_ms <= span.hi_ms, "{own:?} in {span:?}");
    }
    assert_eq!(rehearsal.take_readings(), [], "once");
}

#[tokio::test(start_paused = true)]
async fn a_number_is_one_number_until_its_entry_closes() {
    let site = Arc::new(whole());
    let rehearsal = Rehearsal::in_memory(site.clone(), ids::watch_room(), 1.0);
    let tuner = site.devices.iter().find(|device| device.name == "Tuner").unwrap().id;
    let closes = site.profile_of(tuner).unwrap().times.digits;
    assert_eq!(rehearsal.numbers(tuner, closes.lo_ms / 2, 3).await.unwrap(), 3);
    assert_eq!(rehearsal.numbers(tuner, closes.hi_ms + 100, 3).await.unwrap(), 0);
    let none = rehearsal.numbers(site.devices_in(ids::watch_room()).next().unwrap().id, 500, 1).await;
    assert!(none.unwrap_err().to_string().contains("no channel of two digits"));
}
