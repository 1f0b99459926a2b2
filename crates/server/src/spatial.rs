//! The verbs of the room in space: what gateways reach, the cheapest set of them, the picture as its seats see it.

use crate::console::{Failure, print};
use crate::verbs::{json, room, site};
use clap::Args;
use kestrel_core::id::RoomId;
use kestrel_core::library;
use kestrel_core::model::{Profile, Site};
use kestrel_core::space::gateways::{self, money};
use kestrel_core::space::reach::{Reach, Reached, reach, senders};
use kestrel_core::space::scene::Posture;
use kestrel_core::space::seats::{Asked, RoomPicture, pictures};
use serde::Serialize;
use std::fmt::Write as _;

/// `reach`
#[derive(Args)]
pub struct ReachArgs {
    /// The site file (- reads standard input).
    site: String,
    /// Only this room, by name or id.
    #[arg(long)]
    room: Option<String>,
    /// With every screen down.
    #[arg(long)]
    down: bool,
    /// Print one JSON document.
    #[arg(long)]
    json: bool,
}

/// `gateways`
#[derive(Args)]
pub struct GatewaysArgs {
    /// The site file (- reads standard input).
    site: String,
    /// Only this room, by name or id; every room that has a plan otherwise.
    #[arg(long)]
    room: Option<String>,
    /// Print one JSON document.
    #[arg(long)]
    json: bool,
}

/// `picture`
#[derive(Args)]
pub struct PictureArgs {
    /// The site file (- reads standard input).
    site: String,
    /// The room, by name or id.
    #[arg(long)]
    room: String,
    /// How high the bottom edge should be above the floor, in mm; all the way down otherwise.
    #[arg(long)]
    bottom_mm: Option<u32>,
    /// Print one JSON document.
    #[arg(long)]
    json: bool,
}

/// What `reach --json` prints of a gateway.
#[derive(Serialize)]
struct GatewayReach {
    room: String,
    gateway: String,
    reach: Reach,
}

/// The rooms that have a plan, or the one that is wanted.
fn drawn(site: &Site, wanted: Option<&String>) -> Result<Vec<RoomId>, Failure> {
    let all: Vec<RoomId> = match wanted {
        Some(wanted) => vec![room(site, wanted)?],
        None => site.rooms.iter().map(|room| room.id).collect(),
    };
    let plans: Vec<RoomId> =
        all.into_iter().filter(|id| site.room(*id).is_some_and(|room| room.floor.is_drawn())).collect();
    if plans.is_empty() {
        return Err(Failure::Other("no room here has a floor plan: draw one in Kit, Plan".to_owned()));
    }
    Ok(plans)
}

pub fn reach_of(args: &ReachArgs) -> Result<(), Failure> {
    let site = site(&args.site)?;
    let mut all = Vec::new();
    for room in drawn(&site, args.room.as_ref())? {
        let posture = if args.down { Posture::all_down(&site, room) } else { Posture::default() };
        for gateway in senders(&site, room) {
            let Some(reach) = reach(&site, room, gateway, &posture) else { continue };
            let room = site.room(room).map_or_else(String::new, |room| room.name.clone());
            all.push(GatewayReach { room, gateway: site.device_name(gateway), reach });
        }
    }
    if args.json {
        return json(&all);
    }
    let mut out = String::new();
    for own in &all {
        let _ = writeln!(out, "{}, {}", own.room, own.gateway);
        for line in &own.reach.lines {
            let name = site.device_name(line.device);
            let says = match (line.lead, line.margin_db, line.reached) {
                (true, ..) => "by a lead".to_owned(),
                (_, Some(db), Reached::Not) => format!("not reached, {db:.1} dB"),
                (_, Some(db), Reached::Barely) => format!("barely, {db:.1} dB"),
                (_, Some(db), Reached::Reaches) => format!("{db:.1} dB"),
                (_, None, _) => "not reached".to_owned(),
            };
            let _ = writeln!(out, "  {name}: {says}");
        }
        for device in &own.reach.unknown {
            let _ = writeln!(
                out,
                "  {}: no claim, it is not placed or nothing is known of its window",
                site.device_name(*device)
            );
        }
    }
    print(&out);
    Ok(())
}

pub fn gateways_of(args: &GatewaysArgs) -> Result<(), Failure> {
    let site = site(&args.site)?;
    let rooms = drawn(&site, args.room.as_ref())?;
    let models: Vec<&Profile> = site.profiles.iter().chain(library::all()).collect();
    let found = gateways::set(&site, &rooms, &models, &mut |_| true);
    if args.json {
        return json(&found);
    }
    let mut out = String::new();
    for words in &found.words {
        let _ = writeln!(out, "{words}");
    }
    for own in &found.boxes {
        let model = models.iter().find(|model| model.id == own.profile).map_or("a box", |model| &model.model);
        let room = site.room(own.room).map_or("", |room| &room.name);
        let _ = writeln!(out, "  {model}, {room}, {}: {}", own.spot, money(own.price));
        for served in &own.serves {
            let way = if served.lead { "by a lead".to_owned() } else { format!("{:.1} dB", served.margin_db) };
            let _ = writeln!(out, "    {}: {way}", site.device_name(served.device));
        }
    }
    print(&out);
    Ok(())
}

pub fn picture_of(args: &PictureArgs) -> Result<(), Failure> {
    let site = site(&args.site)?;
    let room = room(&site, &args.room)?;
    drawn(&site, Some(&args.room))?;
    let asked = Asked { bottom: args.bottom_mm.map(|mm| f64::from(mm) / 1_000.0), ..Asked::default() };
    let all = pictures(&site, room, asked);
    if args.json {
        return json(&all);
    }
    let mut out = String::new();
    for own in &all {
        told(&site, own, &mut out);
    }
    print(&out);
    Ok(())
}

fn told(site: &Site, own: &RoomPicture, out: &mut String) {
    let [wide, high] = own.size_m;
    let _ =
        writeln!(out, "{}: {wide:.2} by {high:.2} m, bottom edge at {:.2} m", site.device_name(own.on), own.bottom_m);
    if let Some(throw) = &own.throw {
        let [least, most] = throw.ratios;
        let name = site.device_name(throw.projector);
        let _ =
            writeln!(out, "  {name}: {:.2} m, ratio {:.2} ({least:.2} to {most:.2})", throw.distance_m, throw.ratio);
    }
    if let Some(stop) = own.stop.as_ref().filter(|stop| stop.after_ms > 0) {
        let after = f64::from(stop.after_ms) / 1_000.0;
        let _ = writeln!(out, "  stop at {:.1} %, after {after:.1} s, ± {:.1} %", stop.percent, stop.spread_percent);
    }
    for seat in &own.seats {
        let white = seat.white.map(|white| format!(", {white:.0} cd/m²")).unwrap_or_default();
        let _ = writeln!(out, "  {}: {:.0}° wide, {:.0}° up{white}", seat.name, seat.wide_deg, seat.up_deg);
    }
    for remark in &own.remarks {
        let _ = writeln!(out, "  - {remark}");
    }
}
