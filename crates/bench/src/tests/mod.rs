//! The bench on a paused clock (pipes) and over real sockets.

use crate::air;
use crate::clock::Clock;
use crate::drive::DriverError;
use crate::drive::gateway::Driver;
use crate::net::Net;
use crate::rehearsal::{Rehearsal, RehearsalError, RunEnd, RunView, StepState};
use crate::standin::gateway::Gateway;
use crate::world::World;
use kestrel_core::demo::{self, ids};
use kestrel_core::id::{DeviceId, FunctionId};
use kestrel_core::model::{CodeBody, Medium, Position, Site, Situation};
use kestrel_core::room::{Outcome, PowerView};
use kestrel_signal::{Message, ProtocolId};
use rstest::rstest;
use std::sync::Arc;
use tokio::io::{AsyncBufReadExt, AsyncWriteExt, BufReader};
use tokio::net::{TcpListener, TcpStream};

fn whole() -> Site {
    demo::with_disc()
}

fn film() -> Situation {
    Situation::In { activity: ids::feature_film() }
}

fn function(site: &Site, device: DeviceId, name: &str) -> FunctionId {
    site.profile_of(device).unwrap().functions.iter().find(|f| f.name == name).unwrap().id
}

/// Waits until the last run has ended.
async fn ended(rehearsal: &Rehearsal) -> RunView {
    let mut changes = rehearsal.changes();
    loop {
        if let Some(run) = rehearsal.view().run.filter(|run| run.end.is_some()) {
            return run;
        }
        changes.changed().await.unwrap();
    }
}

/// All was sent, nothing went wrong, and in truth all is as it should be.
fn arrived(run: &RunView) {
    assert!(matches!(run.end, Some(RunEnd::Ready | RunEnd::Sent)), "{run:?}");
    assert_eq!((&run.troubles, &run.in_truth), (&vec![], &vec![]), "{run:?}");
}

fn power(rehearsal: &Rehearsal, device: DeviceId) -> PowerView {
    rehearsal.view().devices.iter().find(|view| view.device == device).unwrap().power
}

#[tokio::test(start_paused = true)]
async fn a_film_from_off_ends_ready_and_room_off_ends_off() {
    let rehearsal = Rehearsal::in_memory(Arc::new(whole()), ids::boat_hall(), 1.0);
    rehearsal.run(film()).await.unwrap();
    let run = ended(&rehearsal).await;
    // Player and receiver tell of themselves; of the others nothing says so, although all is as it should be.
    let told = vec![ids::disc_player(), ids::receiver()];
    assert_eq!((run.end, &run.confirmed), (Some(RunEnd::Sent), &told));
    assert!(run.unconfirmed.contains(&ids::projector()), "{run:?}");
    arrived(&run);
    assert!(!run.steps.is_empty());
    assert!(run.steps.iter().all(|step| step.state == StepState::Sent));
    let screen = rehearsal.view().devices.into_iter().find(|view| view.device == ids::screen()).unwrap();
    assert_eq!(screen.down_percent, Some(100));
    rehearsal.run(Situation::Off).await.unwrap();
    arrived(&ended(&rehearsal).await);
    assert_eq!(power(&rehearsal, ids::projector()), PowerView::Cooling);
}

#[tokio::test(start_paused = true)]
async fn the_next_film_waits_for_the_lamp_to_cool() {
    let rehearsal = Rehearsal::in_memory(Arc::new(whole()), ids::boat_hall(), 1.0);
    rehearsal.run(film()).await.unwrap();
    ended(&rehearsal).await;
    rehearsal.run(Situation::Off).await.unwrap();
    ended(&rehearsal).await;
    let plan = rehearsal.plan(film());
    let on = plan.steps.iter().find(|step| step.device == ids::projector()).unwrap();
    assert!(on.start_ms > 50_000, "the lamp may still cool for a minute: {}", on.start_ms);
    rehearsal.run(film()).await.unwrap();
    arrived(&ended(&rehearsal).await);
}

#[tokio::test(start_paused = true)]
async fn a_code_that_the_device_does_not_know_ends_wrong_and_says_so() {
    let mut site = whole();
    let code = site.codes.iter_mut().find(|code| code.function == ids::receiver_disc()).unwrap();
    let message = Message::new(ProtocolId::NecExt, [("address", 0x7a11), ("command", 0x77)]).unwrap();
    code.body = CodeBody::of(message);
    // The stream is chosen first, so that the wrong code matters.
    let rehearsal = Rehearsal::in_memory(Arc::new(site), ids::boat_hall(), 1.0);
    rehearsal.run(Situation::In { activity: ids::streaming() }).await.unwrap();
    ended(&rehearsal).await;
    rehearsal.run(film()).await.unwrap();
    let run = ended(&rehearsal).await;
    assert_eq!((run.end, run.derived_anew), (Some(RunEnd::Wrong), 2));
    let says = "Receiver should be on, input Disc and says that it is on, input Stream.";
    assert_eq!(run.troubles.last().unwrap(), says);
    assert_eq!(
        run.in_truth,
        [
            "Receiver should be on, input Disc but is on, input Stream.",
            "Nobody understood nec-ext address=31249 command=119."
        ]
    );
    assert!(run.offers.iter().any(|offer| offer.to == Situation::Off && offer.sends > 0), "{:?}", run.offers);
}

#[tokio::test(start_paused = true)]
async fn a_new_request_supersedes_the_running_one() {
    let rehearsal = Rehearsal::in_memory(Arc::new(whole()), ids::boat_hall(), 1.0);
    rehearsal.run(film()).await.unwrap();
    tokio::time::sleep(std::time::Duration::from_secs(10)).await;
    rehearsal.run(Situation::Off).await.unwrap();
    let run = ended(&rehearsal).await;
    assert_eq!((run.number, run.to), (2, Situation::Off));
    arrived(&run);
}

#[tokio::test(start_paused = true)]
async fn a_reset_never_falls_between_the_planning_of_a_run_and_its_start() {
    let site = Arc::new(whole());
    for _ in 0..20 {
        let rehearsal = Rehearsal::in_memory(site.clone(), ids::boat_hall(), 1.0);
        let on = function(&site, ids::receiver(), "Power on");
        rehearsal.send_once(ids::receiver(), on).await.unwrap();
        // Both at once, in either order: the room is what the last of them made it.
        let (run, ()) = tokio::join!(rehearsal.run(film()), rehearsal.reset());
        run.unwrap();
        match rehearsal.view().run {
            // The reset came first, and the run began in a room that was off.
            Some(_) => arrived(&ended(&rehearsal).await),
            // The run came first, and the reset put everything back.
            None => assert_eq!(power(&rehearsal, ids::receiver()), PowerView::Off),
        }
    }
}

#[tokio::test(start_paused = true)]
async fn stop_halts_the_run_and_what_moves() {
    let rehearsal = Rehearsal::in_memory(Arc::new(whole()), ids::boat_hall(), 1.0);
    rehearsal.run(film()).await.unwrap();
    tokio::time::sleep(std::time::Duration::from_secs(8)).await;
    rehearsal.stop().await.unwrap();
    let view = rehearsal.view();
    let screen = view.devices.iter().find(|view| view.device == ids::screen()).unwrap();
    assert_eq!(screen.moving, None);
    assert!((10..60).contains(&screen.down_percent.unwrap()), "{screen:?}");
    let run = view.run.unwrap();
    assert_eq!(run.end, Some(RunEnd::Stopped));
    assert!(run.steps.iter().any(|step| step.state == StepState::Dropped));
}

#[tokio::test(start_paused = true)]
async fn one_press_reaches_its_device_and_its_belief() {
    let site = Arc::new(whole());
    let rehearsal = Rehearsal::in_memory(site.clone(), ids::boat_hall(), 1.0);
    let on = function(&site, ids::receiver(), "Power on");
    let heard = rehearsal.send_once(ids::receiver(), on).await.unwrap();
    assert_eq!(heard.len(), 1);
    assert_eq!(heard[0].outcome, Outcome::Obeyed { what: "starting up".to_owned() });
    let view = rehearsal.view();
    let belief = view.beliefs.iter().find(|belief| belief.device == ids::receiver()).unwrap();
    assert_eq!(belief.text, "on, any input");
    let down = function(&site, ids::screen(), "Down");
    rehearsal.send_once(ids::screen(), down).await.unwrap();
    let view = rehearsal.view();
    assert_eq!(view.devices.iter().find(|v| v.device == ids::screen()).unwrap().moving, Some(Position::Down));
}

#[tokio::test(start_paused = true)]
async fn what_cannot_be_sent_is_said_before_anything_is() {
    let site = Arc::new(demo::marram_point());
    let rehearsal = Rehearsal::in_memory(site, ids::boat_hall(), 1.0);
    let error = rehearsal.run(film()).await.unwrap_err();
    assert!(matches!(&error, RehearsalError::NotRunnable(why) if why.contains("no code for “Disc”")), "{error}");
    let error = rehearsal.send_once(ids::receiver(), ids::receiver_disc()).await.unwrap_err();
    assert!(error.to_string().starts_with("Receiver has no code for “Disc”"), "{error}");
    assert!(rehearsal.view().wire.is_empty());
}

#[tokio::test(start_paused = true)]
async fn an_edit_keeps_the_room_as_it_is() {
    let mut site = whole();
    let rehearsal = Rehearsal::in_memory(Arc::new(site.clone()), ids::boat_hall(), 1.0);
    rehearsal.run(film()).await.unwrap();
    ended(&rehearsal).await;
    site.devices[0].name = "Box".to_owned();
    rehearsal.refit(Arc::new(site));
    assert_eq!(power(&rehearsal, ids::projector()), PowerView::On);
    assert_eq!(rehearsal.plan(film()).steps.len(), 0, "and nothing has to be sent again");
}

/// The same over a real socket, with the clock at its fastest.
#[tokio::test]
async fn one_press_goes_over_a_real_socket() {
    let site = Arc::new(whole());
    let rehearsal = Rehearsal::start(site.clone(), ids::boat_hall(), 20.0, None).await.unwrap();
    let heard = rehearsal.send_once(ids::projector(), function(&site, ids::projector(), "Power on")).await.unwrap();
    assert_eq!(heard[0].device, ids::projector());
    assert!(rehearsal.view().gateway.starts_with("127.0.0.1:"));
}

async fn gateway(rate: f64) -> (std::net::SocketAddr, World) {
    let world = World::new(Arc::new(whole()), ids::boat_hall(), Clock::new(rate), 1);
    let gateway = Gateway::new(world.clone(), None, air::Air::default());
    let (address, listener) = Net::Sockets.listen().await.unwrap();
    tokio::spawn(gateway.listen(listener));
    (address, world)
}

/// Sends lines to a gateway and gives as many answers.
async fn talk(address: std::net::SocketAddr, lines: &[u8], answers: usize) -> Vec<String> {
    let (read, mut write) = TcpStream::connect(address).await.unwrap().into_split();
    write.write_all(lines).await.unwrap();
    let mut reader = BufReader::new(read).lines();
    let mut heard = Vec::new();
    for _ in 0..answers {
        heard.push(reader.next_line().await.unwrap().unwrap());
    }
    heard
}

#[rstest]
#[case::garbage(b"hello\n", r#"{"id":0,"ok":false,"error":"not a request: expected value at line 1 column 1"}"#)]
#[case::no_durations(
    br#"{"id":3,"do":"send","medium":"ir","carrier_hz":38000,"durations_us":[]}
"#,
    r#"{"id":3,"ok":false,"error":"durations_us needs 1 to 100000 values of 1 to 10000000 µs"}"#
)]
#[case::hello(
    b"\n{\"id\":4,\"do\":\"hello\"}\n",
    r#"{"id":4,"ok":true,"name":"bench gateway","media":["ir","rf433"]}"#
)]
#[case::no_utf8(b"\xff\xfe\n", r#"{"id":0,"ok":false,"error":"not a request: expected value at line 1 column 1"}"#)]
#[tokio::test]
async fn the_gateway_answers_every_line(#[case] line: &[u8], #[case] answer: &str) {
    let (address, world) = gateway(20.0).await;
    assert_eq!(talk(address, line, 1).await, [answer]);
    assert!(world.log().is_empty());
}

#[tokio::test]
async fn a_megabyte_line_is_refused_and_the_next_one_is_served() {
    let (address, _) = gateway(20.0).await;
    let mut lines = vec![b'x'; 2_500_000];
    lines.extend(b"\n{\"id\":9,\"do\":\"hello\"}\n");
    let answers = talk(address, &lines, 2).await;
    assert!(answers[0].contains("1000000 bytes at most"), "{answers:?}");
    assert!(answers[1].contains("\"id\":9,\"ok\":true"), "{answers:?}");
}

#[tokio::test]
async fn sends_on_one_medium_keep_their_order_and_media_overlap() {
    let (address, world) = gateway(20.0).await;
    let driver = Driver::connect(&Net::Sockets, address, world.clock().clone()).await.unwrap();
    let long = vec![400_000, 400_000];
    let (first, second, radio) = tokio::join!(
        driver.send(Medium::Ir, 38_000, &long),
        driver.send(Medium::Ir, 38_000, &[500, 500]),
        driver.send(Medium::Rf433, 0, &[350, 350])
    );
    assert_eq!((first, second, radio), (Ok(()), Ok(()), Ok(())));
    let order: Vec<(Option<Medium>, u32)> = world.log().iter().map(|line| (line.medium, line.length_ms)).collect();
    assert_eq!(order, [(Some(Medium::Rf433), 1), (Some(Medium::Ir), 800), (Some(Medium::Ir), 1)]);
}

#[tokio::test]
async fn a_driver_says_what_is_wrong_with_its_peer() {
    let listener = TcpListener::bind("127.0.0.1:0").await.unwrap();
    let address = listener.local_addr().unwrap();
    let hangs_up = tokio::spawn(async move {
        let _ = listener.accept().await;
    });
    let connect = async || Driver::connect(&Net::Sockets, address, Clock::new(1.0)).await;
    assert!(matches!(connect().await, Err(DriverError::Closed)));
    hangs_up.await.unwrap();
    let error = connect().await.err().unwrap();
    assert!(matches!(error, DriverError::Unreachable { .. }), "{error}");
}

#[tokio::test(start_paused = true)]
async fn a_peer_that_accepts_and_is_silent_is_given_up() {
    let (ours, theirs) = tokio::io::duplex(1024);
    let (read, write) = tokio::io::split(ours);
    let driver = Driver::over(read, write, Clock::new(1.0));
    let error = driver.send(Medium::Ir, 38_000, &[500]).await.unwrap_err();
    assert_eq!(error, DriverError::Silent(3));
    drop(theirs);
}

/// A device is reached through the gateway that was named for it, and through no other one.
#[tokio::test(start_paused = true)]
async fn each_device_is_reached_through_its_own_gateway() {
    let mut site = whole();
    // A second gateway at the back of the Watch Room; the display is reached through that one alone.
    let back: DeviceId = uuid::Uuid::from_u128(31).into();
    let front = site.devices.iter().find(|device| device.name == "Watch gateway").unwrap().clone();
    site.devices.push(kestrel_core::model::Device { id: back, name: "Back gateway".to_owned(), ..front.clone() });
    let display = site.devices.iter_mut().find(|device| device.id == ids::watch_display()).unwrap();
    display.paths.iter_mut().for_each(|path| path.through = Some(back));
    let rehearsal = Rehearsal::in_memory(Arc::new(site.clone()), ids::watch_room(), 1.0);
    let power = function(&site, ids::watch_display(), "Power");
    let heard = rehearsal.send_once(ids::watch_display(), power).await.unwrap();
    assert_eq!(heard.iter().map(|heard| heard.device).collect::<Vec<_>>(), [ids::watch_display()]);
    // The same waveform from the front is out of its reach.
    let code = site.code(ids::watch_display(), power).unwrap();
    let before = rehearsal.world().last_line();
    rehearsal
        .driver()
        .await
        .unwrap()
        .send(Medium::Ir, 38_000, &code.body.send_us(kestrel_core::model::Press::default(), None))
        .await
        .unwrap();
    let lines = rehearsal.world().log();
    let line = lines.iter().find(|line| line.number > before && line.medium == Some(Medium::Ir)).unwrap();
    assert!(line.heard.is_empty(), "{line:?}");
    // Where its gateway has no plug, its command does not go out.
    rehearsal.hand(&kestrel_core::model::Hand::Plug { device: back, plugged: false }).unwrap();
    assert!(rehearsal.send_once(ids::watch_display(), power).await.is_err());
}

mod agreement;
mod evenings;
mod feedback;
mod light;
mod protocols;
mod space;
mod surface;

mod learning {
    use super::*;
    use crate::handset::PressRequest;
    use kestrel_core::model::Press;
    use kestrel_signal::{radio, read};

    fn pressing(device: DeviceId, key: FunctionId, hold_ms: u32) -> PressRequest {
        PressRequest { id: 1, device, key, presses: 1, hold_ms, slip: false }
    }

    async fn bench() -> (Rehearsal, Site) {
        let site = whole();
        (Rehearsal::start(Arc::new(site.clone()), ids::boat_hall(), 20.0, None).await.unwrap(), site)
    }

    #[tokio::test]
    async fn a_key_that_is_pressed_in_front_of_the_learner_is_heard_over_sockets() {
        let (bench, site) = bench().await;
        let request = pressing(ids::receiver(), function(&site, ids::receiver(), "Game"), 300);
        let (heard, pressed) = tokio::join!(bench.learn(), bench.press_handset(&request));
        pressed.unwrap();
        let heard = heard.unwrap();
        assert_eq!(heard.len(), 1);
        let best = read(&heard[0].1).best.unwrap();
        assert_eq!(best.message.to_string(), "nec-ext address=31249 command=51");
        assert!((best.stretch_us - 70.0).abs() < 15.0, "{}", best.stretch_us);
    }

    #[tokio::test]
    async fn nothing_is_heard_in_ten_seconds_when_nobody_presses() {
        assert_eq!(bench().await.0.learn().await.unwrap(), vec![]);
    }

    #[tokio::test]
    async fn two_keys_pressed_at_once_are_both_heard() {
        let (bench, site) = bench().await;
        let [one, other] =
            ["Disc", "Game"].map(|name| pressing(ids::receiver(), function(&site, ids::receiver(), name), 0));
        let (heard, ..) = tokio::join!(bench.learn(), bench.press_handset(&one), bench.press_handset(&other));
        assert_eq!(heard.unwrap().len(), 2);
    }

    #[tokio::test]
    async fn radio_is_swept_while_the_key_is_held_and_then_learned() {
        let (bench, site) = bench().await;
        let down = function(&site, ids::screen(), "Down");
        let (tap, held) = (pressing(ids::screen(), down, 0), pressing(ids::screen(), down, 800));
        let (found, _) = tokio::join!(bench.sweep(), bench.press_handset(&held));
        assert_eq!(found.unwrap(), Some(433_920_000));
        let (found, _) = tokio::join!(bench.sweep(), bench.press_handset(&tap));
        assert_eq!(found.unwrap(), None, "a tap is too short to be swept");
        let (heard, _) = tokio::join!(bench.learn(), bench.press_handset(&tap));
        let heard = heard.unwrap();
        assert_eq!(heard[0].0, Medium::Rf433);
        assert!(radio::read(&heard[0].1).is_ok());
    }

    #[tokio::test]
    async fn a_key_that_the_handset_lacks_is_refused() {
        let (bench, site) = bench().await;
        let wrong = pressing(ids::receiver(), function(&site, ids::screen(), "Down"), 0);
        let error = bench.press_handset(&wrong).await.unwrap_err().to_string();
        assert!(error.contains("no such key"), "{error}");
    }

    #[tokio::test]
    async fn a_payload_that_the_gateway_learned_is_sent_and_a_strange_one_refused() {
        let (bench, site) = bench().await;
        let on = function(&site, ids::receiver(), "Power on");
        let driver = bench.driver().await.unwrap();
        let request = pressing(ids::receiver(), on, 0);
        let (heard, _) = tokio::join!(driver.learn(10_000), bench.press_handset(&request));
        let payload = heard.unwrap().remove(0).payload;
        let body = |text: &str| CodeBody::Opaque {
            payload: kestrel_signal::payload::Payload::parse(text).unwrap(),
            medium: Medium::Ir,
            send_ms: None,
            presses: 1,
        };
        let heard = bench.send_body(ids::receiver(), &body(&payload), Press::default(), None).await.unwrap();
        assert_eq!(heard[0].function, on);
        let error = bench.send_body(ids::receiver(), &body("26000a00"), Press::default(), None).await.unwrap_err();
        assert!(error.to_string().contains("was not learned by this gateway"), "{error}");
    }

    #[tokio::test]
    async fn a_function_is_told_by_how_its_key_is_pressed() {
        let (bench, site) = bench().await;
        for name in ["Home", "Home twice", "Home held"] {
            let heard = bench.send_once(ids::streamer(), function(&site, ids::streamer(), name)).await.unwrap();
            assert_eq!(heard[0].name, name);
        }
    }

    #[tokio::test]
    async fn a_command_over_the_network_is_sent_and_its_answer_checked() {
        let site = whole();
        let bench = Rehearsal::start(Arc::new(site.clone()), ids::slip_deck(), 20.0, None).await.unwrap();
        bench.send_once(ids::deck_display(), function(&site, ids::deck_display(), "Power on")).await.unwrap();
        bench.clock().sleep(12_000).await;
        let mute = function(&site, ids::deck_display(), "Picture mute on");
        let heard = bench.send_once(ids::deck_display(), mute).await.unwrap();
        assert_eq!(heard[0].name, "Picture mute on");
        let CodeBody::Ip { command } = site.code(ids::deck_display(), mute).unwrap().body.clone() else { panic!() };
        let strange = match command {
            kestrel_signal::ip::IpCommand::Payload { transport, form, terminator, checksum, expect, .. } => {
                let text = "MAKE TEA".to_owned();
                kestrel_signal::ip::IpCommand::Payload { transport, form, text, terminator, checksum, expect }
            }
            other => other,
        };
        let body = CodeBody::Ip { command: strange };
        let error = bench.send_body(ids::deck_display(), &body, Press::default(), None).await.unwrap_err().to_string();
        assert!(error.contains("answered “?” where “OK” was expected"), "{error}");
    }

    #[tokio::test]
    async fn an_input_is_selected_and_its_reported_name_read_back() {
        let (bench, site) = bench().await;
        let inputs = &site.model_of(ids::receiver()).unwrap().inputs;
        let off = bench.read_back(ids::receiver(), inputs[1].id).await.unwrap_err().to_string();
        assert!(off.contains("Is it on?"), "{off}");
        bench.send_once(ids::receiver(), function(&site, ids::receiver(), "Power on")).await.unwrap();
        bench.clock().sleep(8_000).await;
        assert_eq!(bench.read_back(ids::receiver(), inputs[1].id).await.unwrap(), "MPLAY");
        let silent = bench.read_back(ids::receiver(), inputs[3].id).await.unwrap_err().to_string();
        assert!(silent.contains("no key of its own"), "{silent}");
        let none = site.model_of(ids::projector()).unwrap().inputs[0].id;
        let error = bench.read_back(ids::projector(), none).await.unwrap_err().to_string();
        assert!(error.contains("tells nothing of itself"), "{error}");
    }

    #[tokio::test]
    async fn hidden_keys_for_on_and_off_work_where_the_remote_has_only_one() {
        let site = whole();
        let bench = Rehearsal::start(Arc::new(site), ids::watch_room(), 20.0, None).await.unwrap();
        let body = |command| {
            let fields = [("address", 0x0707), ("command", command)];
            CodeBody::of(Message::new(ProtocolId::Pd32, fields).unwrap())
        };
        let heard = bench.send_body(ids::watch_display(), &body(0x99), Press::default(), None).await.unwrap();
        assert!(matches!(&heard[0].outcome, Outcome::Obeyed { what } if what == "starting up"));
        assert!(bench.send_body(ids::watch_display(), &body(0x97), Press::default(), None).await.unwrap().is_empty());
    }
}
