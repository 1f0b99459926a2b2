//! How long a cable is along walls and ceiling, and what is too long for its kind.

use super::geometry::Block;
use glam::DVec3;

/// To spare for bends and plugs (*common practice*).
pub const SPARE: f64 = 1.10;

/// The length of a cable between two things in a room, in m, with something to spare: from each to the nearest wall and along
/// the walls, never through the air; a thing on the ceiling goes along the ceiling to a wall first.
#[must_use]
pub fn length(room: &Block, from: DVec3, to: DVec3) -> f64 {
    if from == to {
        return 0.0;
    }
    let along = ways(room, from, to).into_iter().fold(f64::INFINITY, f64::min);
    along * SPARE
}

/// Where a cable comes to a wall: how long it is until there, how far along the perimeter that is, and how high.
#[derive(Clone, Copy)]
struct AtWall {
    out: f64,
    along: f64,
    high: f64,
}

/// The ways from a thing to the four walls: straight where it stands at one, else along the floor or the ceiling.
fn at_walls(room: &Block, point: DVec3) -> Vec<AtWall> {
    let (size, at) = (room.size(), point - room.least);
    // How far from the wall, and how far along the perimeter from the corner at the origin, towards x.
    let walls = [
        (at.y, at.x),
        (size.x - at.x, size.x + at.y),
        (size.y - at.y, size.x + size.y + (size.x - at.x)),
        (at.x, 2.0 * size.x + size.y + (size.y - at.y)),
    ];
    let to = |(out, along): (f64, f64)| {
        if out <= NEAR {
            return vec![AtWall { out, along, high: at.z }];
        }
        vec![AtWall { out: out + at.z, along, high: 0.0 }, AtWall { out: out + size.z - at.z, along, high: size.z }]
    };
    walls.into_iter().flat_map(to).collect()
}

fn ways(room: &Block, from: DVec3, to: DVec3) -> Vec<f64> {
    let size = room.size();
    let round = 2.0 * (size.x + size.y);
    let mut all = Vec::new();
    let (starts, ends) = (at_walls(room, from), at_walls(room, to));
    for a in &starts {
        for b in &ends {
            let beside = (a.along - b.along).abs();
            // Square to the edges, as cables are laid: along the wall, and up or down it.
            all.push(a.out + b.out + beside.min(round - beside) + (a.high - b.high).abs());
        }
    }
    // Up to the ceiling, and across it.
    let up = |point: DVec3| room.most.z - point.z;
    let nearest = |point: DVec3| {
        let at = point - room.least;
        at.min(size - at).truncate().min_element()
    };
    let climbs = |point: DVec3| if up(point) < NEAR { up(point) } else { up(point) + nearest(point) };
    all.push(climbs(from) + climbs(to) + (from.x - to.x).abs() + (from.y - to.y).abs());
    all
}

/// What is no further than this from a wall stands at it, and what hangs no lower below the ceiling is on it, in m.
const NEAR: f64 = 0.6;

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    const ROOM: Block = Block { least: DVec3::ZERO, most: DVec3::new(6.4, 4.2, 2.6) };

    #[test]
    fn along_one_wall_it_is_the_way_between_them() {
        let a = DVec3::new(1.0, 0.0, 0.5);
        let b = DVec3::new(4.0, 0.0, 1.5);
        assert!((length(&ROOM, a, b) - (3.0 + 1.0) * SPARE).abs() < 1e-9);
        assert_eq!(length(&ROOM, a, a), 0.0);
    }

    #[test]
    fn to_a_projector_on_the_ceiling_it_climbs_the_wall_and_crosses_the_ceiling() {
        let rack = DVec3::new(0.0, 1.0, 0.5);
        let projector = DVec3::new(4.5, 2.1, 2.3);
        assert!((length(&ROOM, rack, projector) - (2.1 + 0.3 + 4.5 + 1.1) * SPARE).abs() < 1e-9);
    }

    proptest! {
        #[test]
        fn it_is_never_shorter_than_the_air_line_and_the_same_both_ways(
            a in (0.0_f64..6.4, 0.0_f64..4.2, 0.0_f64..2.6), b in (0.0_f64..6.4, 0.0_f64..4.2, 0.0_f64..2.6)
        ) {
            let (a, b) = (DVec3::from(a), DVec3::from(b));
            let own = length(&ROOM, a, b);
            prop_assert!(own + 1e-9 >= a.distance(b), "{own} {}", a.distance(b));
            prop_assert!((own - length(&ROOM, b, a)).abs() < 1e-9);
        }
    }
}
