//! The drawing of a room: its plan and its section at a true scale, with what stands where.

use super::html::{escaped, table};
use crate::id::{DeviceId, RoomId};
use crate::model::{FloorPlan, OpeningKind, Site, Wall};
use crate::space::scene::{optics, placed};
use crate::words::metres;
use std::fmt::Write as _;

/// The width of the paper that a drawing may take, in mm.
const PAPER_MM: u32 = 165;

/// Scales, the largest first: so many mm are one on paper.
const SCALES: [u32; 5] = [20, 25, 50, 100, 200];

/// Room around a drawing, in mm of the room.
const EDGE: i64 = 250;

/// The drawing of a room that has a plan, and a table of what stands where; nothing for another one.
pub(super) fn drawn(site: &Site, room: RoomId) -> String {
    let Some(plan) = site.room(room).map(|own| &own.floor).filter(|plan| plan.is_drawn()) else {
        return String::new();
    };
    let widest = plan.size_mm[0] + 2 * u32::try_from(EDGE).unwrap_or(0);
    let scale = SCALES.into_iter().find(|scale| widest / scale <= PAPER_MM).unwrap_or(SCALES[4]);
    let rows: Vec<Vec<String>> = placed(site, room)
        .map(|own| {
            let mm = |at: i32| metres(u32::try_from(at).unwrap_or(0));
            vec![
                site.device_name(own.device),
                mm(own.at_mm[0]),
                mm(own.at_mm[1]),
                mm(own.at_mm[2]),
                format!("{}°", own.azimuth_deg),
                own.leads.iter().map(|lead| site.device_name(*lead)).collect::<Vec<_>>().join(", "),
            ]
        })
        .collect();
    let head = ["Device", "From the left", "From the top", "Height", "Looks to", "Leads to"];
    let [length, width, height] = plan.size_mm.map(metres);
    format!(
        "<p>Plan and section, 1 : {scale} on A4 printed at 100 %. {length} by {width} by {height}.</p>\n{}{}{}",
        above(site, room, plan, scale),
        section(site, room, plan, scale),
        table(&head, &rows)
    )
}

/// An SVG so large on paper that a mm of it is `scale` mm of the room.
fn sheet(wide: u32, high: u32, scale: u32, inside: &str) -> String {
    let (w, h) = (i64::from(wide) + 2 * EDGE, i64::from(high) + 2 * EDGE + 200);
    let mm = |own: i64| own / i64::from(scale);
    format!(
        "<svg viewBox=\"-{EDGE} -{EDGE} {w} {h}\" width=\"{}mm\" height=\"{}mm\" role=\"img\">{inside}{}</svg>\n",
        mm(w),
        mm(h),
        bar(i64::from(wide) - 1_000, i64::from(high) + 220)
    )
}

/// One metre.
fn bar(x: i64, y: i64) -> String {
    format!(
        "<path d=\"M{x} {} v80 m0 -40 h1000 m0 -40 v80\" fill=\"none\" stroke=\"#000\" stroke-width=\"10\"/><text x=\"{}\" y=\"{}\" font-size=\"120\">1 m</text>",
        y - 40,
        x - 330,
        y + 40
    )
}

fn walls(wide: u32, high: u32) -> String {
    format!("<rect width=\"{wide}\" height=\"{high}\" fill=\"none\" stroke=\"#000\" stroke-width=\"30\"/>")
}

fn above(site: &Site, room: RoomId, plan: &FloorPlan, scale: u32) -> String {
    let [length, width, _] = plan.size_mm;
    let mut out = walls(length, width);
    for own in &plan.openings {
        let (from, to) = (own.from_mm, own.from_mm + own.width_mm);
        let (x1, y1, x2, y2) = match own.wall {
            Wall::Left => (0, from, 0, to),
            Wall::Right => (length, from, length, to),
            Wall::Top => (from, 0, to, 0),
            Wall::Bottom => (from, width, to, width),
        };
        let dash = if own.kind == OpeningKind::Door { " stroke-dasharray=\"60 50\"" } else { "" };
        let _ = write!(
            out,
            "<path d=\"M{x1} {y1}L{x2} {y2}\" stroke=\"#fff\" stroke-width=\"44\"/><path d=\"M{x1} {y1}L{x2} {y2}\" stroke=\"#000\" stroke-width=\"10\"{dash}/>"
        );
    }
    for own in &plan.cupboards {
        let (w, d) = (i64::from(own.size_mm[0]), i64::from(own.size_mm[1]));
        out.push_str(&boxed(i64::from(own.at_mm[0]), i64::from(own.at_mm[1]), w, d, "stroke-dasharray=\"40 30\""));
    }
    for own in &plan.seats {
        let _ = write!(
            out,
            "<circle cx=\"{}\" cy=\"{}\" r=\"90\" fill=\"none\" stroke=\"#000\" stroke-width=\"10\"/>",
            own.eye_mm[0], own.eye_mm[1]
        );
    }
    for own in placed(site, room) {
        let size = own.block().size() * 1_000.0;
        #[expect(clippy::cast_possible_truncation, reason = "a case within a room")]
        let (w, d) = (size.x as i64, size.y as i64);
        let (x, y) = (i64::from(own.at_mm[0]), i64::from(own.at_mm[1]));
        out.push_str(&boxed(x, y, w, d, ""));
        out.push_str(&name(site, own.device, x - w / 2, y + d / 2 + 130));
    }
    sheet(length, width, scale, &out)
}

fn boxed(x: i64, y: i64, w: i64, h: i64, more: &str) -> String {
    let (left, top) = (x - w / 2, y - h / 2);
    format!(
        "<rect x=\"{left}\" y=\"{top}\" width=\"{w}\" height=\"{h}\" fill=\"#fff\" stroke=\"#000\" stroke-width=\"12\" {more}/>"
    )
}

fn name(site: &Site, device: DeviceId, x: i64, y: i64) -> String {
    format!("<text x=\"{x}\" y=\"{y}\" font-size=\"115\">{}</text>", escaped(&site.device_name(device)))
}

fn section(site: &Site, room: RoomId, plan: &FloorPlan, scale: u32) -> String {
    let [length, _, height] = plan.size_mm;
    let z = |mm: i64| i64::from(height) - mm;
    let mut out = walls(length, height);
    for own in placed(site, room) {
        let (w, h) = (i64::from(own.size_mm[1]), i64::from(own.size_mm[2]));
        let (x, up) = (i64::from(own.at_mm[0]), i64::from(own.at_mm[2]));
        let surface = optics(site, own.device).and_then(|own| own.surface).filter(|own| own.comes_down());
        if let Some(surface) = surface {
            // All the way down, as it is when there is a picture.
            let long = i64::from(surface.black_mm + surface.size_mm[1] + surface.below_mm);
            let case = up - h / 2;
            let _ =
                write!(out, "<path d=\"M{x} {}V{}\" stroke=\"#000\" stroke-width=\"24\"/>", z(case), z(case - long));
        }
        out.push_str(&boxed(x, z(up), w, h, ""));
        out.push_str(&name(site, own.device, x - w / 2, z(up) - h / 2 - 40));
    }
    for own in &plan.seats {
        let (x, up) = (i64::from(own.eye_mm[0]), i64::from(own.eye_mm[2]));
        let _ = write!(
            out,
            "<circle cx=\"{x}\" cy=\"{}\" r=\"80\" fill=\"none\" stroke=\"#000\" stroke-width=\"10\"/><path d=\"M{x} {}V{}H{}\" fill=\"none\" stroke=\"#000\" stroke-width=\"12\"/>",
            z(up),
            z(up - 80),
            z(420),
            x - 250
        );
    }
    sheet(length, height, scale, &out)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo::{self, ids};

    #[test]
    fn a_plan_is_drawn_to_scale_with_everything_that_stands_there() {
        let site = demo::marram_point();
        let out = drawn(&site, ids::boat_hall());
        // 6.4 m and 25 cm on either side are 138 mm at 1 : 50.
        assert!(out.contains("1 : 50") && out.contains("width=\"138mm\""), "{out}");
        for own in placed(&site, ids::boat_hall()) {
            assert_eq!(out.matches(&escaped(&site.device_name(own.device))).count(), 3, "plan, section and table");
        }
        assert_eq!(out.matches("1 m</text>").count(), 2, "a scale bar each");
        assert_eq!(drawn(&site, ids::slip_deck()), "", "no plan, no drawing");
    }

    #[test]
    fn a_long_room_is_drawn_smaller() {
        let mut site = demo::marram_point();
        site.rooms.find_mut(|room| room.id == ids::boat_hall()).unwrap().floor.size_mm[0] = 20_000;
        assert!(drawn(&site, ids::boat_hall()).contains("1 : 200"));
    }
}
