//! A model of a kind as one begins it: the keys that such a thing has, and figures that are *common practice*, all of them
//! said to be assumed.

use crate::id::ProfileId;
use crate::model::{
    AfterMains, AfterPowerOn, Basis, Cable, DeviceKind, Feedback, Function, Input, Means, Medium, Motion, Offer,
    Output, Power, Press, Profile, Selection, Span, Times, Wifi,
};
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

/// Spans that a form begins with where a model has none yet; all of them assumed.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct UsualSpans {
    /// From the power of a source until what follows it is on.
    pub follow_delay: Span,
    /// Until a device switches itself off.
    pub auto_standby: Span,
    /// Until a list closes by itself.
    pub closes_after: Span,
    /// From one end to the other.
    pub travel: Span,
    /// Until control over HDMI has reached the other device.
    pub couples_delay: Span,
    /// Between the digits of a number.
    pub digits: Span,
}

/// The spans that a form begins with.
#[must_use]
pub fn spans() -> UsualSpans {
    UsualSpans {
        follow_delay: Span::assumed(500, 2_000),
        auto_standby: Span::assumed(1_200_000, 14_400_000),
        closes_after: Span::assumed(8_000, 12_000),
        travel: TRAVEL,
        couples_delay: Span::assumed(500, 3_000),
        digits: Times::usual_digits(),
    }
}

const TRAVEL: Span = Span::assumed(15_000, 40_000);

/// What stands still and is always on, or has no keys of its own.
fn is_still(kind: DeviceKind) -> bool {
    use DeviceKind as K;
    matches!(kind, K::Gateway | K::Network | K::Sensor | K::Keypad | K::Speakers | K::Light | K::Heater)
}

/// A model of this kind without a name.
#[must_use]
pub fn profile(kind: DeviceKind, fresh: &mut impl FnMut() -> Uuid) -> Profile {
    use DeviceKind as K;
    let moving = matches!(kind, K::Screen | K::Blind);
    let still = is_still(kind);
    let keys: &[&str] = match (moving, still) {
        (true, _) => &["Up", "Down", "Stop"],
        (_, true) => &[],
        _ => &["Power on", "Power off"],
    };
    let functions: Vec<Function> = keys.iter().map(|name| function(name, fresh)).collect();
    let key = |at: usize| functions[at].id;
    let sink = matches!(kind, K::Receiver | K::SoundBar | K::Amplifier | K::Projector | K::Display);
    let gives = matches!(kind, K::DiscPlayer | K::Streamer | K::Console | K::Tuner | K::Receiver);
    Profile {
        id: ProfileId(fresh()),
        maker: String::new(),
        model: String::new(),
        kind,
        offers: offers(kind),
        wifi: (kind == K::Gateway).then_some(Wifi::Only24),
        power: if moving || still { Power::AlwaysOn } else { Power::Discrete { on: key(0), off: key(1) } },
        wake_keys: vec![],
        auto_standby: None,
        after_mains: AfterMains::Off,
        after_power_on: AfterPowerOn::Last,
        selection: Selection::None,
        motion: moving.then(|| Motion {
            up: key(0),
            down: key(1),
            stop: Some(key(2)),
            travel_up: TRAVEL,
            travel_down: TRAVEL,
            reversal_ms: 500,
            stops_between: true,
            hides: false,
        }),
        stops: vec![],
        volume: None,
        skips: None,
        modes: vec![],
        apps: vec![],
        couples: None,
        talks: None,
        times: times(kind, moving || still),
        feedback: Feedback::None,
        inputs: if sink { vec![plug_in(fresh)] } else { vec![] },
        outputs: if gives { vec![plug_out(fresh)] } else { vec![] },
        functions,
        unlisted: vec![],
        optics: None,
    }
}

fn function(name: &str, fresh: &mut impl FnMut() -> Uuid) -> Function {
    Function {
        id: fresh().into(),
        name: name.to_owned(),
        press: Press::default(),
        frames: None,
        answers_to: None,
        means: Means::of_name(name),
        bounces: false,
    }
}

fn plug_in(fresh: &mut impl FnMut() -> Uuid) -> Input {
    Input { id: fresh().into(), name: "HDMI 1".to_owned(), cable: Cable::Hdmi, select: None, reports: None }
}

fn plug_out(fresh: &mut impl FnMut() -> Uuid) -> Output {
    Output { id: fresh().into(), name: "HDMI out".to_owned(), cable: Cable::Hdmi, returns: None }
}

/// How long things take: a lamp is slow, a receiver is quicker than most.
fn times(kind: DeviceKind, none: bool) -> Times {
    let (on, off) = match kind {
        _ if none => (Span::NONE, Span::NONE),
        DeviceKind::Projector => (Span::assumed(20_000, 60_000), Span::assumed(60_000, 120_000)),
        DeviceKind::Receiver => (Span::assumed(4_000, 8_000), Span::assumed(1_000, 3_000)),
        _ => (Span::assumed(5_000, 20_000), Span::assumed(1_000, 5_000)),
    };
    let gap_ms = match kind {
        _ if none => 500,
        DeviceKind::Projector => 1_000,
        _ => 300,
    };
    let (gap_basis, digits) = (Basis::Assumed, Times::usual_digits());
    Times { warm_up: on, picture: on, cool_down: off, input: Span::NONE, gap_ms, gap_basis, digits }
}

/// What a model of a kind usually offers.
fn offers(kind: DeviceKind) -> Vec<Offer> {
    use DeviceKind as K;
    let one = |medium, replies| Offer { medium, replies };
    match kind {
        K::Screen | K::Blind | K::Heater => vec![one(Medium::Rf433, false)],
        K::Gateway => vec![one(Medium::Ir, false), one(Medium::Rf433, false)],
        K::Light | K::Sensor => vec![one(Medium::Mesh, true)],
        K::Network | K::Speakers => vec![],
        _ => vec![one(Medium::Ir, false)],
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::demo;
    use crate::edit::{Edit, apply};
    use crate::model::Entity;

    #[test]
    fn a_model_of_every_kind_is_one_that_a_house_takes() {
        let mut site = demo::marram_point();
        let mut number = 0;
        for kind in DeviceKind::ALL {
            let mut own = profile(kind, &mut || {
                number += 1;
                Uuid::from_u128(number)
            });
            (own.maker, own.model) = ("Ostwick".to_owned(), format!("{kind:?}"));
            assert!(apply(&mut site, &Edit::Put { entity: Entity::Profile(own), base: None }).is_ok(), "{kind:?}");
        }
    }

    #[test]
    fn no_figure_that_one_begins_with_claims_to_be_measured() {
        let mut fresh = Uuid::nil;
        for kind in DeviceKind::ALL {
            let text = serde_json::to_string(&profile(kind, &mut fresh)).unwrap();
            assert!(!text.contains("measured") && !text.contains("confirmed"), "{text}");
        }
        let screen = profile(DeviceKind::Screen, &mut fresh);
        assert_eq!(screen.motion.map(|motion| motion.travel_down), Some(spans().travel));
    }
}
