//! Fitting a room: a stand-in and a driver for each device on the network, and whoever watches what it tells.

use super::Inner;
use crate::bus::Bus;
use crate::drive::{Address, Drive, DriverError, Report, typed_address};
use crate::standin::gateway::Gateway;
use crate::standin::{Standin, mqtt};
use crate::wires::{GatewayLink, Wires};
use kestrel_core::id::{DeviceId, RoomId};
use kestrel_core::model::{CodeBody, DeviceKind, Feedback, Medium, Site, Talk};
use kestrel_core::space::way::gateway_for;
use std::collections::BTreeMap;
use std::net::SocketAddr;
use std::sync::{Arc, Weak};
use tokio::sync::broadcast::error::RecvError;
use tokio::task::JoinSet;

/// How often a device that tells by itself is asked whether it is still there, in ms.
const ALIVE_MS: u32 = 30_000;

/// What decides how a room is fitted: it is done anew when this changes.
#[derive(Debug, Clone, PartialEq)]
pub struct FitKey(Vec<(DeviceId, Talk, String, String, String, Feedback)>, BTreeMap<(DeviceId, Medium), DeviceId>);

/// A fitted room.
pub struct Fitted {
    pub(super) key: FitKey,
    pub(super) wires: Wires,
    pub(super) handset: Option<SocketAddr>,
    pub(super) tasks: JoinSet<()>,
}

/// What decides how this room is fitted.
pub(super) fn key(site: &Site, room: RoomId) -> FitKey {
    let part = |device: &kestrel_core::model::Device| {
        let network = &device.network;
        let feedback = site.profile_of(device.id).map(|profile| profile.feedback.clone()).unwrap_or_default();
        let reached = if network.allowed.trim() == network.drive_at.trim() { "yes" } else { "no" };
        let at = format!("{} {reached} {}", network.drive_at.trim(), on_the_network(site, device.id));
        (device.id, site.talk_of(device.id), at, network.password.clone(), network.mac.clone(), feedback)
    };
    FitKey(site.devices_in(room).map(part).collect(), through(site, room))
}

/// The gateways that stand in a room.
fn gateways_of(site: &Site, room: RoomId) -> Vec<DeviceId> {
    let gateway = |device: DeviceId| site.profile_of(device).is_some_and(|profile| profile.kind == DeviceKind::Gateway);
    site.devices_in(room).map(|device| device.id).filter(|device| gateway(*device)).collect()
}

/// The gateways through which devices of a room are reached: those that somebody has named, and of several that stand here the
/// one that plans and proofs count on.
fn through(site: &Site, room: RoomId) -> BTreeMap<(DeviceId, Medium), DeviceId> {
    let paths = site.devices_in(room).flat_map(|device| device.paths.iter().map(move |path| (device.id, path)));
    let mut through = BTreeMap::new();
    for (device, path) in paths.filter(|(_, path)| matches!(path.medium, Medium::Ir | Medium::Rf433)) {
        if let Some(gateway) = path.through.filter(|gateway| site.device(*gateway).is_some()) {
            // The preferred one comes first.
            through.entry((device, path.medium)).or_insert(gateway);
        }
    }
    let here = gateways_of(site, room);
    if here.len() > 1 {
        for device in site.devices_in(room) {
            for medium in [Medium::Ir, Medium::Rf433] {
                let best = gateway_for(site, device, medium).ok().filter(|gateway| here.contains(gateway));
                if let Some(gateway) = best {
                    through.entry((device.id, medium)).or_insert(gateway);
                }
            }
        }
    }
    through
}

/// Does anything reach this device over the network, or does it tell something of itself there?
#[must_use]
pub fn on_the_network(site: &Site, device: DeviceId) -> bool {
    let ip = |body: &CodeBody| matches!(body, CodeBody::Ip { .. });
    let talks = site.talk_of(device) != Talk::default();
    let answers = site.profile_of(device).is_some_and(|profile| {
        profile.feedback != Feedback::None || profile.functions.iter().filter_map(|f| f.answers_to.as_ref()).any(ip)
    });
    talks || answers || site.codes.iter().any(|code| code.device == device && ip(&code.body))
}

/// Is what it tells told by a sensor that was added to it?
fn has_sensor(site: &Site, device: DeviceId) -> bool {
    site.profile_of(device).is_some_and(|profile| matches!(profile.feedback, Feedback::Sensor { .. }))
}

impl Fitted {
    pub(super) async fn make(inner: &Arc<Inner>, key: FitKey) -> std::io::Result<Self> {
        let (world, net, clock) = (&inner.world, &inner.net, inner.world.clock());
        let (site, room) = (world.site(), world.room());
        let mut tasks = JoinSet::new();
        // Stand-ins and drivers are two clients of one broker, as they would be in a house.
        let (devices_bus, drivers_bus) = match inner.broker {
            Some(broker) => {
                let name = |who: &str| format!("{who}-{}-{}", room.0.simple(), std::process::id());
                (Bus::broker(broker, &name("devices")), Bus::broker(broker, &name("runtime")))
            }
            None => {
                let bus = Bus::memory();
                (bus.clone(), bus)
            }
        };
        let through = through(&site, room);
        let mut gateways: BTreeMap<DeviceId, Arc<GatewayLink>> = BTreeMap::new();
        let mut first = None;
        let own = gateways_of(&site, room);
        for gateway in own.iter().copied().chain(through.values().copied()).map(Some).chain([None]) {
            // A room without a gateway of its own has one all the same, so that one can begin with a display and a code.
            if gateway.is_some_and(|known| gateways.contains_key(&known)) || (gateway.is_none() && !own.is_empty()) {
                continue;
            }
            let (address, listener) = net.listen().await?;
            tasks.spawn(Gateway::new(world.clone(), gateway, inner.air.clone()).listen(listener));
            let link = Arc::new(GatewayLink::new(net.clone(), address, clock.clone()));
            if gateway.is_none_or(|known| own.first() == Some(&known)) {
                first = Some(link.clone());
            }
            gateways.extend(gateway.map(|known| (known, link)));
        }
        let gateway = first.ok_or_else(|| std::io::Error::other("the room has no gateway"))?;
        let drives = fit_network(world, net, [&devices_bus, &drivers_bus], &mut tasks).await?;
        // A sensor tells in place of the device, whatever the device talks.
        let sensors: BTreeMap<DeviceId, Arc<Drive>> = drives
            .keys()
            .filter(|device| has_sensor(&site, **device))
            .map(|&device| (device, Arc::new(Drive::sensor(&drivers_bus, device, clock))))
            .collect();
        let (gateways, through) = (Arc::new(gateways), Arc::new(through));
        let wires = Wires { gateway, gateways, through, drives: Arc::new(drives), sensors: Arc::new(sensors) };
        for &device in wires.drives.keys() {
            let Ok(eyes) = wires.eyes(device) else { continue };
            if let Some(every_ms) = asked_every(&site, device) {
                tasks.spawn(watch(Arc::downgrade(inner), device, eyes, every_ms));
            }
        }
        Ok(Self { key, wires, handset: None, tasks })
    }
}

/// Stand-ins of what is on the network, each with the driver that speaks to it.
async fn fit_network(
    world: &crate::world::World,
    net: &crate::net::Net,
    [devices_bus, drivers_bus]: [&Bus; 2],
    tasks: &mut JoinSet<()>,
) -> std::io::Result<BTreeMap<DeviceId, Result<Arc<Drive>, DriverError>>> {
    let (site, room, clock) = (world.site(), world.room(), world.clock());
    let mut drives: BTreeMap<DeviceId, Result<Arc<Drive>, DriverError>> = BTreeMap::new();
    for device in site.devices_in(room).filter(|device| on_the_network(&site, device.id)) {
        let standin = Standin { world: world.clone(), device: device.id };
        let sensor = has_sensor(&site, device.id);
        if sensor || site.talk_of(device.id) == Talk::Mqtt {
            tasks.spawn(mqtt::serve(standin.clone(), devices_bus.clone()));
        }
        let (tcp, listener) = net.listen().await?;
        let (udp, datagrams) = net.datagrams().await?;
        tasks.spawn(standin.clone().listen(listener));
        tasks.spawn(standin.take_datagrams(datagrams));
        let drive = typed_address(&site, device.id).map(|typed| {
            let address = typed.map_or(Address { tcp, udp }, |at| Address { tcp: at, udp: at });
            Arc::new(Drive::new(&site, device.id, net, address, clock, drivers_bus))
        });
        drives.insert(device.id, drive);
    }
    Ok(drives)
}

/// How often a device is asked what it is doing, in ms; none where it tells nothing.
fn asked_every(site: &Site, device: DeviceId) -> Option<u32> {
    let profile = site.profile_of(device)?;
    match profile.feedback {
        Feedback::Poll { every_ms, .. } => Some(every_ms.max(100)),
        Feedback::Push { .. } | Feedback::Sensor { .. } => Some(ALIVE_MS),
        Feedback::None => None,
    }
}

/// Asks a device again and again what it is doing, and listens to what it tells by itself.
async fn watch(inner: Weak<Inner>, device: DeviceId, drive: Arc<Drive>, every_ms: u32) {
    let mut reports = drive.reports();
    let Some(clock) = inner.upgrade().map(|inner| inner.world.clock().clone()) else { return };
    let settle_ms = u64::from(inner.upgrade().map_or(0, |inner| {
        inner.world.site().profile_of(device).map_or(0, |profile| profile.times.input.hi_ms.max(profile.times.gap_ms))
    }));
    loop {
        // The answer to a question also comes as what is told by itself; it is the same report.
        let answer = drive.poll().await;
        let Some(own) = inner.upgrade() else { return };
        let now = clock.now_ms();
        match answer {
            Ok(report) => own.hear(device, report, now),
            Err(error) => own.mind().missed(device, &error.to_string(), now),
        }
        own.evaluate();
        drop(own);
        let again = clock.now_ms() + u64::from(every_ms);
        loop {
            let told = async {
                match &mut reports {
                    Some(reports) => reports.recv().await,
                    None => std::future::pending().await,
                }
            };
            tokio::select! {
                () = clock.sleep_until(again) => break,
                told = told => match told {
                    Ok(report) => {
                        let Some(own) = inner.upgrade() else { return };
                        let now = clock.now_ms();
                        if let Some(stroke) = &report.stroke {
                            own.stroke(device, stroke);
                            continue;
                        }
                        own.hear(device, report, now);
                        own.touch();
                        drop(own);
                        // What is on its way to something else is not taken for it.
                        let inner = inner.clone();
                        let clock = clock.clone();
                        tokio::spawn(async move {
                            clock.sleep(settle_ms).await;
                            if let Some(own) = inner.upgrade() {
                                own.evaluate();
                            }
                        });
                    }
                    Err(RecvError::Lagged(_)) => {}
                    Err(RecvError::Closed) => reports = None,
                },
            }
        }
    }
}

impl Inner {
    /// A device tells something: the mind hears it, and the light follows.
    pub(super) fn hear(self: &Arc<Self>, device: DeviceId, report: Report, now_ms: u64) {
        let before = self.mind().heard.get(&device).map(|heard| heard.report.clone());
        self.mind().hear(device, report.clone(), now_ms);
        self.noticed(device, &before.unwrap_or_default(), &report);
    }
}

impl super::Rehearsal {
    /// Where the handset stand-in listens; it is put on the table when it is first needed.
    pub(crate) async fn handset_address(&self) -> std::io::Result<SocketAddr> {
        let mut fitted = self.inner.fitted.lock().await;
        let fitted = fitted.as_mut().ok_or_else(|| std::io::Error::other("the room is not fitted yet"))?;
        if let Some(address) = fitted.handset {
            return Ok(address);
        }
        let (address, mut listener) = self.inner.net.listen().await?;
        let handsets = self.inner.handsets.clone();
        fitted.tasks.spawn(async move {
            let mut connections = JoinSet::new();
            while let Ok(stream) = listener.accept().await {
                let (read, write) = tokio::io::split(stream);
                connections.spawn(handsets.clone().serve(read, write));
                while connections.try_join_next().is_some() {}
            }
        });
        fitted.handset = Some(address);
        Ok(address)
    }
}
