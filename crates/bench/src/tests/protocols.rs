//! Stand-ins and drivers against each other, and against clients that the project did not write.

use super::*;
use crate::drive::http::Http;
use crate::drive::json::Json;
use crate::drive::lines::Lines;
use crate::drive::mqtt::Mqtt;
use crate::drive::pjlink::Pjlink;
use crate::drive::strip::Strip;
use crate::drive::{Address, DriverError, typed_address};
use crate::net::Listener;
use crate::standin::Standin;
use crate::standin::e131::{Packet, SLOTS};
use kestrel_core::model::{Faults, Gesture, Hand, Playback};
use kestrel_core::room::Want;
use kestrel_signal::ip::IpCommand;
use std::time::Duration;
use tokio::io::AsyncReadExt;

/// The Chart Loft on a network, with the stand-in of one device on it.
struct Bench {
    world: World,
    net: Net,
    address: Address,
    device: DeviceId,
}

impl Bench {
    async fn new(net: Net, device: DeviceId) -> Self {
        let world = World::new(Arc::new(whole()), ids::chart_loft(), Clock::new(1.0), 1);
        let standin = Standin { world: world.clone(), device };
        let (tcp, listener) = net.listen().await.unwrap();
        let (udp, datagrams) = net.datagrams().await.unwrap();
        tokio::spawn(standin.clone().listen(listener));
        tokio::spawn(standin.take_datagrams(datagrams));
        Self { world, net, address: Address { tcp, udp }, device }
    }

    fn clock(&self) -> &Clock {
        self.world.clock()
    }

    fn broken(&self, faults: Faults) {
        self.world.set_faults(self.device, faults);
    }

    fn pjlink(&self, password: &str) -> Pjlink {
        Pjlink::new(&self.net, self.address.tcp, self.clock(), password.to_owned())
    }

    fn lines(&self) -> Lines {
        Lines::new(&self.net, self.address.tcp, self.clock(), true)
    }
}

/// The client of crates.io (`pjlink` 0.2) drives the stand-in over the port of the standard, password included.
#[tokio::test(flavor = "multi_thread")]
async fn an_independent_pjlink_client_drives_the_projector() {
    let world = World::new(Arc::new(whole()), ids::chart_loft(), Clock::new(20.0), 1);
    let socket = TcpListener::bind("127.0.0.77:4352").await.unwrap();
    let standin = Standin { world: world.clone(), device: ids::loft_projector() };
    tokio::spawn(standin.listen(Listener::Socket(socket)));
    let client = async |work: fn(pjlink::PjlinkDevice) -> String| {
        let device = pjlink::PjlinkDevice::new_with_password("127.0.0.77", "chart-loft").unwrap();
        tokio::task::spawn_blocking(move || work(device)).await.unwrap()
    };
    assert_eq!(client(|device| device.get_class().unwrap()).await, "1");
    assert_eq!(client(|device| device.get_manufacturer().unwrap()).await, "Tarnbeck");
    assert_eq!(client(|device| device.get_device_name().unwrap()).await, "Loft projector");
    let power = |device: pjlink::PjlinkDevice| match device.get_power_status().unwrap() {
        pjlink::PowerStatus::Off => "off".to_owned(),
        pjlink::PowerStatus::On => "on".to_owned(),
        pjlink::PowerStatus::Cooling => "cooling".to_owned(),
        pjlink::PowerStatus::Warmup => "warm-up".to_owned(),
    };
    assert_eq!(client(power).await, "off");
    client(|device| device.power_on().map(|_| String::new()).unwrap()).await;
    assert_eq!(client(power).await, "warm-up");
    world.clock().sleep(18_000).await;
    assert_eq!(client(power).await, "on");
    client(|device| device.set_input(pjlink::InputType::Digital(2)).map(|_| String::new()).unwrap()).await;
    world.clock().sleep(3_000).await;
    let shown = |device: pjlink::PjlinkDevice| match device.get_input().unwrap() {
        pjlink::InputType::Digital(number) => format!("digital {number}"),
        _ => "another".to_owned(),
    };
    assert_eq!(client(shown).await, "digital 2");
    client(|device| device.power_off().map(|_| String::new()).unwrap()).await;
    assert_eq!(client(power).await, "cooling");
    let wrong = pjlink::PjlinkDevice::new_with_password("127.0.0.77", "harbour").unwrap();
    assert!(tokio::task::spawn_blocking(move || wrong.get_class()).await.unwrap().is_err());
}

/// JBMIA, PJLink specification 1.04, 4.1 to 4.12: answers and errors of class 1, byte for byte.
#[rstest]
#[case::standby("%1POWR ?\r", "%1POWR=0\r")]
#[case::lower_case("%1powr ?\r", "%1POWR=0\r")]
#[case::no_input_in_standby("%1INPT ?\r", "%1INPT=ERR3\r")]
#[case::inputs("%1INST ?\r", "%1INST=31 32\r")]
#[case::out_of_range("%1POWR 7\r", "%1POWR=ERR2\r")]
#[case::no_such_input("%1INPT 39\r", "%1INPT=ERR2\r")]
#[case::unknown("%1ABCD ?\r", "%1ABCD=ERR1\r")]
#[case::no_header("hello\r", "%1ERR1\r")]
#[case::errors("%1ERST ?\r", "%1ERST=000000\r")]
#[case::class("%1CLSS ?\r", "%1CLSS=1\r")]
#[tokio::test(start_paused = true)]
async fn pjlink_answers_as_the_specification_says(#[case] command: &str, #[case] answer: &str) {
    let mut site = whole();
    site.devices.iter_mut().find(|d| d.id == ids::loft_projector()).unwrap().network.password.clear();
    let world = World::new(Arc::new(site), ids::chart_loft(), Clock::new(1.0), 1);
    let net = Net::pipes();
    let (address, listener) = net.listen().await.unwrap();
    tokio::spawn(Standin { world, device: ids::loft_projector() }.listen(listener));
    let mut stream = net.connect(address).await.unwrap();
    let expected = format!("PJLINK 0\r{answer}");
    stream.write_all(command.as_bytes()).await.unwrap();
    let mut heard = vec![0; expected.len()];
    stream.read_exact(&mut heard).await.unwrap();
    assert_eq!(String::from_utf8(heard).unwrap(), expected);
}

/// JBMIA, PJLink specification, 5.1: the example of the authentication: digits 498e4a67, password JBMIAProjectorLink.
#[test]
fn the_digest_is_that_of_the_specifications_example() {
    let digest = kestrel_signal::ip::pjlink_digest("498e4a67", "JBMIAProjectorLink");
    assert_eq!(digest, "5d8409bc1c3fa39749434aa3a5c38682");
}

#[tokio::test(start_paused = true)]
async fn the_pjlink_driver_checks_what_comes_back() {
    let bench = Bench::new(Net::pipes(), ids::loft_projector()).await;
    let driver = bench.pjlink("chart-loft");
    assert_eq!(driver.poll().await.unwrap().power.as_deref(), Some("off"));
    driver.command(&IpCommand::Pjlink { command: "POWR 1".to_owned() }).await.unwrap();
    let refused = driver.command(&IpCommand::Pjlink { command: "INPT 32".to_owned() }).await.unwrap_err();
    assert_eq!(refused.to_string(), "the device refused: it cannot do that at this time");
    bench.clock().sleep(20_000).await;
    assert_eq!(driver.poll().await.unwrap().input.as_deref(), Some("31"));
    // A connection that idles is closed by the projector; the driver makes another.
    bench.clock().sleep(40_000).await;
    assert_eq!(driver.poll().await.unwrap().power.as_deref(), Some("on"));
    bench.broken(Faults { wrong_digest: true, ..Faults::default() });
    assert_eq!(bench.pjlink("chart-loft").poll().await, Err(DriverError::Password));
    assert_eq!(bench.pjlink("wrong").poll().await, Err(DriverError::Password));
    bench.broken(Faults { silent: true, ..Faults::default() });
    assert_eq!(bench.pjlink("chart-loft").poll().await, Err(DriverError::DeviceSilent(3)));
    bench.broken(Faults { closes: true, ..Faults::default() });
    assert_eq!(driver.poll().await, Err(DriverError::DeviceClosed));
}

#[rstest]
#[case::sockets(Net::Sockets)]
#[case::pipes(Net::pipes())]
#[tokio::test]
async fn text_lines_are_answered_pushed_and_refused(#[case] net: Net) {
    let bench = Bench::new(net, ids::loft_receiver()).await;
    bench.clock().set_rate(20.0);
    let driver = bench.lines();
    let mut reports = driver.reports();
    assert_eq!(driver.poll().await.unwrap().power.as_deref(), Some("off"));
    driver.want(&Want::Power { on: true }).await.unwrap();
    let pushed = tokio::time::timeout(Duration::from_secs(5), reports.recv()).await.unwrap().unwrap();
    assert_eq!(pushed.power.as_deref(), Some("starting"));
    bench.clock().sleep(6_000).await;
    driver.want(&Want::Volume { tenths: 355 }).await.unwrap();
    let report = driver.poll().await.unwrap();
    assert_eq!((report.power.as_deref(), report.volume_tenths), (Some("on"), Some(355)));
    let error = driver.want(&Want::Volume { tenths: 9_990 }).await.unwrap_err().to_string();
    assert_eq!(error, "the device refused: its scale ends at 98");
}

#[tokio::test(start_paused = true)]
async fn garbled_late_and_lost_answers_are_told_apart() {
    let bench = Bench::new(Net::pipes(), ids::loft_receiver()).await;
    let driver = bench.lines();
    bench.broken(Faults { slow_ms: 1_000, ..Faults::default() });
    let before = bench.clock().now_ms();
    assert!(driver.poll().await.is_ok());
    assert!(bench.clock().now_ms() - before >= 1_000);
    bench.broken(Faults { garbled_percent: 100, ..Faults::default() });
    assert!(matches!(driver.poll().await, Err(DriverError::Answer { .. })));
    bench.broken(Faults { lost_percent: 100, ..Faults::default() });
    assert_eq!(bench.lines().poll().await, Err(DriverError::DeviceSilent(3)));
    bench.broken(Faults::default());
    assert!(driver.poll().await.is_ok());
    // A restart cuts the connection; the next question is asked on a new one.
    bench.world.restart(bench.device);
    assert_eq!(driver.poll().await.unwrap().power.as_deref(), Some("off"));
}

#[rstest]
#[case::garbage(ids::loft_receiver(), b"\xff\xfe\x00\r", b"?\r")]
#[case::half_a_line(ids::loft_receiver(), b"?pow", b"?\r")]
#[case::not_json(ids::loft_streamer(), b"{\"do\"\n", b"{\"error\":")]
#[tokio::test(start_paused = true)]
async fn garbage_is_answered_and_the_connection_stays(
    #[case] device: DeviceId,
    #[case] bytes: &[u8],
    #[case] starts: &[u8],
) {
    let bench = Bench::new(Net::pipes(), device).await;
    let mut stream = bench.net.connect(bench.address.tcp).await.unwrap();
    stream.write_all(bytes).await.unwrap();
    let mut heard = vec![0; starts.len()];
    stream.read_exact(&mut heard).await.unwrap();
    assert_eq!(heard, starts);
}

#[tokio::test(start_paused = true)]
async fn a_megabyte_without_an_end_is_refused() {
    let bench = Bench::new(Net::pipes(), ids::loft_receiver()).await;
    let mut stream = bench.net.connect(bench.address.tcp).await.unwrap();
    let sent = async {
        for _ in 0..1_000 {
            if stream.write_all(&[b'x'; 1_024]).await.is_err() {
                return;
            }
        }
    };
    sent.await;
    // The next connection is served.
    assert!(bench.lines().poll().await.is_ok());
}

#[rstest]
#[case::sockets(Net::Sockets)]
#[case::pipes(Net::pipes())]
#[tokio::test]
async fn a_display_is_woken_by_a_packet_and_told_the_rest_over_http(#[case] net: Net) {
    let bench = Bench::new(net, ids::loft_display()).await;
    bench.clock().set_rate(20.0);
    let driver = Http::new(&bench.net, bench.address, bench.clock());
    assert_eq!(driver.poll().await.unwrap().power.as_deref(), Some("off"));
    driver.command(&IpCommand::WakeOnLan { mac: "02:4d:50:00:00:99".to_owned() }).await.unwrap();
    for _ in 0..20 {
        assert_eq!(driver.poll().await.unwrap().power.as_deref(), Some("off"), "that was for another device");
    }
    driver.command(&IpCommand::WakeOnLan { mac: "02:4d:50:00:00:28".to_owned() }).await.unwrap();
    // The packet needs no answer: it is asked until it has arrived.
    while driver.poll().await.unwrap().power.as_deref() == Some("off") {}
    assert_eq!(driver.poll().await.unwrap().power.as_deref(), Some("starting"));
    bench.clock().sleep(10_000).await;
    driver.want(&Want::Message { text: "The film begins".to_owned() }).await.unwrap();
    assert_eq!(bench.world.view(bench.device).unwrap().message.as_deref(), Some("The film begins"));
    let put = |path: &str, body: &str| IpCommand::Http {
        verb: kestrel_signal::ip::Verb::Put,
        path: path.to_owned(),
        body: body.to_owned(),
    };
    let error = driver.command(&put("/nowhere", "{}")).await.unwrap_err().to_string();
    assert_eq!(error, "the device refused: there is no such path");
    let error = driver.command(&put("/input", r#"{"input":"Attic"}"#)).await.unwrap_err().to_string();
    assert_eq!(error, "the device refused: there is no such input");
}

/// What the view of a request shows is what goes out, byte for byte.
#[rstest]
#[case::asks(kestrel_signal::ip::Verb::Get, "/state", "")]
#[case::tells(kestrel_signal::ip::Verb::Put, "/input", r#"{"input":"Disc"}"#)]
#[case::tells_nothing(kestrel_signal::ip::Verb::Post, "/standby", "")]
#[tokio::test]
async fn a_request_is_sent_as_it_is_shown(
    #[case] verb: kestrel_signal::ip::Verb,
    #[case] path: &str,
    #[case] body: &str,
) {
    let command = IpCommand::Http { verb, path: path.to_owned(), body: body.to_owned() };
    let listener = tokio::net::TcpListener::bind("127.0.0.1:0").await.unwrap();
    let address = listener.local_addr().unwrap();
    let expected = command.bytes_to(&address.to_string()).unwrap();
    let many = expected.len();
    let heard = tokio::spawn(async move {
        let (mut stream, _) = listener.accept().await.unwrap();
        let mut bytes = vec![0; many];
        stream.read_exact(&mut bytes).await.unwrap();
        stream.write_all(b"HTTP/1.1 200 OK\r\ncontent-length: 0\r\n\r\n").await.unwrap();
        // Nothing comes behind it.
        let mut more = Vec::new();
        stream.read_to_end(&mut more).await.unwrap();
        (bytes, more)
    });
    let bench = Bench::new(Net::Sockets, ids::loft_display()).await;
    let own = Address { tcp: address, ..bench.address };
    Http::new(&Net::Sockets, own, bench.clock()).command(&command).await.unwrap();
    let (bytes, more) = heard.await.unwrap();
    assert_eq!(String::from_utf8_lossy(&bytes), String::from_utf8_lossy(&expected));
    assert_eq!(more, b"");
}

/// ANSI E1.31: the crate `sacn` 0.11 of the registry reads our packets as what they are.
#[tokio::test]
async fn an_independent_receiver_reads_our_levels() {
    let receiver = tokio::net::UdpSocket::bind("127.0.0.1:0").await.unwrap();
    let strip = Strip::new(&Net::Sockets, receiver.local_addr().unwrap(), &Clock::new(1.0));
    strip.want(&Want::Level { percent: 40, fade_ms: 0 }).await.unwrap();
    let mut buffer = [0; 1_024];
    let length = receiver.recv(&mut buffer).await.unwrap();
    let packet = sacn::packet::AcnRootLayerProtocol::parse(&buffer[..length]).unwrap();
    let sacn::packet::E131RootLayerData::DataPacket(data) = packet.pdu.data else { panic!("no data packet") };
    assert_eq!((data.universe, data.priority, data.stream_terminated), (1, 100, false));
    assert_eq!(data.source_name, "Kestrel Dune");
    // The start code, then 512 slots: 40 % of 255 is 102.
    assert_eq!((data.data.property_values.len(), data.data.property_values[1]), (513, 102));
}

#[tokio::test(start_paused = true)]
async fn a_strip_follows_packets_in_their_order() {
    let bench = Bench::new(Net::pipes(), ids::shelf_strip()).await;
    let packet = |sequence, slot| Packet {
        cid: [7; 16],
        source: "test".to_owned(),
        priority: 100,
        sequence,
        terminated: false,
        universe: 1,
        slots: vec![slot; SLOTS],
    };
    let level = async |sequence, slot| {
        bench.net.send_datagram(bench.address.udp, &packet(sequence, slot).bytes()).await.unwrap();
        tokio::time::sleep(Duration::from_millis(1)).await;
        bench.world.view(bench.device).unwrap().level_percent.unwrap()
    };
    assert_eq!(level(5, 255).await, 100);
    assert_eq!(level(4, 0).await, 100, "that one is late");
    assert_eq!(level(6, 51).await, 20);
    let strip = Strip::new(&bench.net, bench.address.udp, bench.clock());
    strip.want(&Want::Level { percent: 80, fade_ms: 2_000 }).await.unwrap();
    bench.clock().sleep(1_000).await;
    let half = bench.world.view(bench.device).unwrap().level_percent.unwrap();
    assert!((35..45).contains(&half), "{half}");
    bench.clock().sleep(1_500).await;
    assert_eq!(bench.world.view(bench.device).unwrap().level_percent, Some(80));
}

#[tokio::test(start_paused = true)]
async fn a_press_on_the_wall_is_reported_and_holds_until_the_next_cue() {
    let bench = Bench::new(Net::pipes(), ids::loft_dimmer()).await;
    let bus = crate::bus::Bus::memory();
    let standin = Standin { world: bench.world.clone(), device: bench.device };
    tokio::spawn(crate::standin::mqtt::serve(standin, bus.clone()));
    tokio::task::yield_now().await;
    let driver = Mqtt::new(bus.clone(), bench.device, bench.clock());
    driver.want(&Want::Level { percent: 30, fade_ms: 0 }).await.unwrap();
    let mut reports = driver.reports();
    bench.world.hand(&Hand::Level { device: bench.device, percent: 90 });
    assert_eq!(reports.recv().await.unwrap().level_percent, Some(90));
    assert_eq!(bench.world.view(bench.device).unwrap().level_percent, Some(90));
    // Garbage on the topic changes nothing.
    let topic = crate::bus::topic(bench.device, "level/set");
    bus.publish(&topic, b"brighter please".to_vec(), false).await.unwrap();
    assert_eq!(driver.poll().await.unwrap().level_percent, Some(90));
    driver.want(&Want::Level { percent: 10, fade_ms: 0 }).await.unwrap();
    assert_eq!(bench.world.view(bench.device).unwrap().level_percent, Some(10));
    bench.broken(Faults { silent: true, ..Faults::default() });
    assert_eq!(driver.poll().await, Err(DriverError::DeviceSilent(3)));
}

/// The same through an ordinary broker, where Debian's is installed.
#[tokio::test]
async fn dimmers_and_the_runtime_meet_at_an_ordinary_broker() {
    let Ok(found) = std::process::Command::new("sh").args(["-c", "command -v mosquitto /usr/sbin/mosquitto"]).output()
    else {
        return;
    };
    let Some(program) = String::from_utf8_lossy(&found.stdout).lines().next().map(str::to_owned) else { return };
    let port = std::net::TcpListener::bind("127.0.0.1:0").unwrap().local_addr().unwrap().port();
    let mut broker = std::process::Command::new(program)
        .args(["-p", &port.to_string()])
        .stderr(std::process::Stdio::null())
        .spawn()
        .unwrap();
    let address = std::net::SocketAddr::from(([127, 0, 0, 1], port));
    let bench = Bench::new(Net::Sockets, ids::loft_dimmer()).await;
    let (devices, runtime) = (crate::bus::Bus::broker(address, "devices"), crate::bus::Bus::broker(address, "runtime"));
    tokio::spawn(crate::standin::mqtt::serve(Standin { world: bench.world.clone(), device: bench.device }, devices));
    let driver = Mqtt::new(runtime, bench.device, bench.clock());
    // Both connect in the background; the first questions may be too early.
    let mut told = driver.want(&Want::Level { percent: 30, fade_ms: 0 }).await;
    for _ in 0..5 {
        if told.is_ok() {
            break;
        }
        told = driver.want(&Want::Level { percent: 30, fade_ms: 0 }).await;
    }
    broker.kill().unwrap();
    broker.wait().unwrap();
    told.unwrap();
    assert_eq!(bench.world.view(bench.device).unwrap().level_percent, Some(30));
}

#[tokio::test(start_paused = true)]
async fn a_player_tells_where_it_is_is_cast_to_and_marks_the_credits() {
    let bench = Bench::new(Net::pipes(), ids::loft_streamer()).await;
    let driver = Json::new(&bench.net, bench.address.tcp, bench.clock());
    let playing = async || driver.poll().await.unwrap().playing.unwrap();
    assert_eq!(playing().await.transport, Playback::Stopped);
    driver.cast("A film from a phone", 5_210_000).await.unwrap();
    let mut reports = driver.reports();
    bench.clock().sleep(4_000).await;
    let now = playing().await;
    assert_eq!((now.transport, now.credits), (Playback::Playing, false));
    assert!((5_213_900..5_214_500).contains(&now.position_ms), "{}", now.position_ms);
    driver.want(&Want::App { name: "Tideline".to_owned() }).await.unwrap();
    assert_eq!(reports.recv().await.unwrap().playing.unwrap().app.as_deref(), Some("Tideline"));
    bench.clock().sleep(7_000).await;
    assert!(playing().await.credits);
    driver.want(&Want::Transport { to: Playback::Paused, from_ms: None }).await.unwrap();
    assert_eq!(playing().await.transport, Playback::Paused);
    let error = driver.want(&Want::App { name: "Nothing".to_owned() }).await.unwrap_err().to_string();
    assert_eq!(error, "the device refused: it has no “Nothing”");
}

#[tokio::test(start_paused = true)]
async fn a_speaker_says_a_line_and_returns_to_what_it_was() {
    let bench = Bench::new(Net::pipes(), ids::loft_speaker()).await;
    let driver = Json::new(&bench.net, bench.address.tcp, bench.clock());
    driver.want(&Want::Say { text: "The film begins".to_owned(), percent: 40 }).await.unwrap();
    assert_eq!(bench.world.view(bench.device).unwrap().message.as_deref(), Some("The film begins"));
    bench.clock().sleep(3_000).await;
    assert_eq!(bench.world.view(bench.device).unwrap().message, None);
}

#[rstest]
#[case::stand_in("", Ok(None))]
#[case::loopback("127.0.0.1:4352", Ok(Some("127.0.0.1:4352")))]
#[case::outside("192.0.2.7:4352", Err("192.0.2.7:4352 is outside this machine"))]
#[case::no_address("the attic", Err("“the attic” is no address to drive"))]
fn an_address_outside_this_machine_has_to_be_allowed(
    #[case] typed: &str,
    #[case] expected: Result<Option<&str>, &str>,
) {
    let mut site = whole();
    let device = site.devices.iter_mut().find(|device| device.id == ids::loft_projector()).unwrap();
    device.network.drive_at = typed.to_owned();
    match (typed_address(&site, ids::loft_projector()), expected) {
        (Ok(found), Ok(wanted)) => assert_eq!(found.map(|address| address.to_string()).as_deref(), wanted),
        (Err(error), Err(starts)) => assert!(error.to_string().starts_with(starts), "{error}"),
        (found, _) => panic!("{found:?}"),
    }
    let device = site.devices.iter_mut().find(|device| device.id == ids::loft_projector()).unwrap();
    device.network.allowed = typed.to_owned();
    let allowed = typed_address(&site, ids::loft_projector());
    assert_eq!(allowed.is_ok(), typed != "the attic");
}

/// A channel by its name, as a command of a plan, and one that the tuner does not have.
#[tokio::test(start_paused = true)]
async fn a_tuner_receives_a_channel_and_refuses_another() {
    let site = whole();
    let rehearsal = Rehearsal::in_memory(Arc::new(site.clone()), ids::chart_loft(), 1.0);
    let send =
        async |name: &str| rehearsal.send_once(ids::loft_tuner(), function(&site, ids::loft_tuner(), name)).await;
    send("Power on").await.unwrap();
    rehearsal.clock().sleep(8_000).await;
    send("Tideline").await.unwrap();
    let app = || rehearsal.world().view(ids::loft_tuner()).unwrap().playing.unwrap().app;
    assert_eq!(app().as_deref(), Some("Tideline"));
    let nowhere = Want::App { name: "Nowhere".to_owned() };
    let refused = rehearsal.want(ids::loft_tuner(), &nowhere).await.unwrap_err().to_string();
    assert!(refused.contains("it has no “Nowhere”"), "{refused}");
    assert_eq!(app().as_deref(), Some("Tideline"));
}

/// Digits by infrared: a number is a channel once it is whole, and half of one is none.
#[tokio::test(start_paused = true)]
async fn digits_are_a_channel_once_they_are_whole() {
    let site = whole();
    let rehearsal = Rehearsal::in_memory(Arc::new(site.clone()), ids::watch_room(), 1.0);
    let tuner = site.devices.iter().find(|device| device.name == "Tuner").unwrap().id;
    let app = || rehearsal.world().view(tuner).unwrap().playing.unwrap().app;
    let send = async |name: &str| {
        rehearsal.send_once(tuner, function(&site, tuner, name)).await.unwrap();
        rehearsal.clock().sleep(500).await;
    };
    send("Power on").await;
    rehearsal.clock().sleep(20_000).await;
    for digit in ["2", "1"] {
        send(digit).await;
    }
    assert_eq!(app(), None);
    send("2").await;
    assert_eq!(app().as_deref(), Some("Tideline"));
    send("OK").await;
    rehearsal.clock().sleep(5_000).await;
    for digit in ["1", "0", "4"] {
        send(digit).await;
    }
    assert_eq!(app().as_deref(), Some("Harbour News"));
}

/// A door that opens and a hand on a keypad are told over MQTT.
#[tokio::test(start_paused = true)]
async fn doors_and_keys_are_told() {
    let site = whole();
    let rehearsal = Rehearsal::in_memory(Arc::new(site.clone()), ids::chart_loft(), 1.0);
    rehearsal.clock().sleep(1_000).await;
    rehearsal.hand(&Hand::Trip { device: ids::loft_door(), on: true }).unwrap();
    let key = |name| function(&site, ids::loft_remote(), name);
    // A cue waits for a double tap on “Pause” and on no other key: two taps on “Off” are two taps, each told at once.
    let presses = [
        ("See", Gesture::Tap),
        ("Louder", Gesture::Hold),
        ("Pause", Gesture::DoubleTap),
        ("Pause", Gesture::Tap),
        ("Off", Gesture::DoubleTap),
    ];
    for (name, gesture) in presses {
        rehearsal.hand(&Hand::Press { device: ids::loft_remote(), function: key(name), gesture }).unwrap();
        rehearsal.clock().sleep(3_000).await;
    }
    let view = rehearsal.view();
    let door = view.drives.iter().find(|drive| drive.device == ids::loft_door()).unwrap();
    assert_eq!(door.told.as_ref().unwrap().tripped, Some(true));
    let pressed: Vec<(FunctionId, Gesture)> = view.pressed.iter().map(|seen| (seen.function, seen.gesture)).collect();
    let expected = [
        (key("See"), Gesture::Tap),
        (key("Louder"), Gesture::Hold),
        (key("Louder"), Gesture::Release),
        (key("Pause"), Gesture::DoubleTap),
        (key("Pause"), Gesture::Tap),
        (key("Off"), Gesture::Tap),
        (key("Off"), Gesture::Tap),
    ];
    assert_eq!(pressed, expected);
    let wrong = Hand::Press { device: ids::loft_door(), function: key("Off"), gesture: Gesture::Tap };
    assert_eq!(rehearsal.hand(&wrong).unwrap(), "nothing: it cannot do that");
}
