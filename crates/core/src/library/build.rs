//! Building blocks of a model.

use super::Model;
use crate::id::{FunctionId, InputId, OutputId, ProfileId};
use crate::model::{
    AfterMains, AfterPowerOn, Basis, Cable, CodeBody, DeviceKind, Feedback, Function, Input, Means, Medium, Offer,
    Output, Power, Press, Profile, Selection, Span, Times,
};
use kestrel_signal::ip::{Checksum, Form, IpCommand, Terminator, Transport};
use kestrel_signal::radio::{RadioCode, Trit, USUAL_UNIT_US};
use kestrel_signal::{Message, ProtocolId};
use uuid::Uuid;

/// Fixed ids: a kind and a number.
fn id<T: From<Uuid>>(kind: u32, number: u32) -> T {
    Uuid::from_u128(0x6b64_0000_0000_7000_8000_0000_0000_0000 | u128::from(kind) << 80 | u128::from(number)).into()
}

/// Keys of handsets that bounce, by model and index: one press is heard as a stump and a press.
const BOUNCES: [(u32, u32); 2] = [(Model::Projector as u32, 3), (Model::CabinDisplay as u32, 4)];

/// The profile of a model.
#[must_use]
pub fn profile_id(model: u32) -> ProfileId {
    id(2, model)
}

/// The function number `index` of a model.
#[must_use]
pub fn function_id(model: u32, index: u32) -> FunctionId {
    id(6, model * 100 + index)
}

/// The input number `index` of a model.
#[must_use]
pub fn input_id(model: u32, index: u32) -> InputId {
    id(4, model * 100 + index)
}

/// The output number `index` of a model.
#[must_use]
pub fn output_id(model: u32, index: u32) -> OutputId {
    id(5, model * 100 + index)
}

/// A key of a model's remote: its name and what it sends.
pub(super) type Key = (&'static str, Option<CodeBody>);

/// Keys of one infrared remote: the fields that all share, then a command each.
pub(super) fn infrared<const N: usize>(
    protocol: ProtocolId,
    shared: &[(&'static str, u32)],
    command: &'static str,
    keys: [(&'static str, u32); N],
) -> Vec<Key> {
    keys.into_iter()
        .map(|(name, value)| {
            let fields = shared.iter().copied().chain([(command, value)]);
            (name, Message::new(protocol, fields).ok().map(|message| CodeBody::Decoded { message }))
        })
        .collect()
}

/// Keys of a radio remote with 20 bits of identity.
pub(super) fn radio<const N: usize>(identity: u32, keys: [(&'static str, u32); N]) -> Vec<Key> {
    let body = |key| RadioCode::ook24(identity, key).ok().map(|code| CodeBody::Radio { code, unit_us: USUAL_UNIT_US });
    keys.into_iter().map(|(name, key)| (name, body(key))).collect()
}

/// Keys of a radio remote with 12 trits, written as 0, 1 and F.
pub(super) fn tristate<const N: usize>(unit_us: u32, keys: [(&'static str, &'static str); N]) -> Vec<Key> {
    let trits = |text: &str| {
        let mut trits = [Trit::Float; 12];
        for (trit, letter) in trits.iter_mut().zip(text.chars()) {
            *trit = match letter {
                '0' => Trit::Zero,
                '1' => Trit::One,
                _ => Trit::Float,
            };
        }
        trits
    };
    keys.into_iter()
        .map(|(name, text)| {
            (name, Some(CodeBody::Radio { code: RadioCode::Tristate12 { trits: trits(text) }, unit_us }))
        })
        .collect()
}

/// Commands over TCP that end in CR and are answered.
pub(super) fn tcp<const N: usize>(keys: [(&'static str, &'static str, &'static str); N]) -> Vec<Key> {
    keys.into_iter()
        .map(|(name, text, answer)| {
            let command = IpCommand::Payload {
                transport: Transport::Tcp,
                form: Form::Text,
                text: text.to_owned(),
                terminator: Terminator::Cr,
                checksum: Checksum::None,
                expect: Some(answer.to_owned()),
            };
            (name, Some(CodeBody::Ip { command }))
        })
        .collect()
}

/// Commands that are one JSON document a line, answered with whether it was done.
pub(super) fn json<const N: usize>(keys: [(&'static str, &'static str); N]) -> Vec<Key> {
    keys.into_iter()
        .map(|(name, text)| {
            let command = IpCommand::Payload {
                transport: Transport::Tcp,
                form: Form::Text,
                text: text.to_owned(),
                terminator: Terminator::Lf,
                checksum: Checksum::None,
                expect: Some(r#"{"ok":true}"#.to_owned()),
            };
            (name, Some(CodeBody::Ip { command }))
        })
        .collect()
}

/// Keys that nothing is known to send.
pub(super) fn silent<const N: usize>(names: [&'static str; N]) -> Vec<Key> {
    names.into_iter().map(|name| (name, None)).collect()
}

pub(super) fn functions(model: u32, keys: Vec<Key>) -> Vec<Function> {
    (0..)
        .zip(keys)
        .map(|(index, (name, answers_to))| Function {
            id: function_id(model, index),
            name: name.to_owned(),
            press: Press::default(),
            frames: None,
            answers_to,
            means: Means::of_name(name),
            bounces: BOUNCES.contains(&(model, index)),
        })
        .collect()
}

pub(super) fn inputs(model: u32, names: &[(&str, Cable, Option<u32>)]) -> Vec<Input> {
    (0..)
        .zip(names)
        .map(|(index, &(name, cable, select))| Input {
            id: input_id(model, index),
            name: name.to_owned(),
            cable,
            select: select.map(|key| function_id(model, key)),
            reports: None,
        })
        .collect()
}

pub(super) fn outputs(model: u32, names: &[(&str, Cable)]) -> Vec<Output> {
    (0..)
        .zip(names)
        .map(|(index, &(name, cable))| Output {
            id: output_id(model, index),
            name: name.to_owned(),
            cable,
            returns: None,
        })
        .collect()
}

pub(super) const IR: Offer = Offer { medium: Medium::Ir, replies: false };
pub(super) const RF: Offer = Offer { medium: Medium::Rf433, replies: false };
pub(super) const IP: Offer = Offer { medium: Medium::Ip, replies: true };
pub(super) const MESH: Offer = Offer { medium: Medium::Mesh, replies: true };
pub(super) const SERIAL: Offer = Offer { medium: Medium::Serial, replies: true };
pub(super) const TRIGGER: Offer = Offer { medium: Medium::Trigger, replies: false };
pub(super) const BLUETOOTH: Offer = Offer { medium: Medium::Bluetooth, replies: false };

/// A model that is always on, has no inputs and takes no time.
pub(super) fn plain(
    model: u32,
    maker: &str,
    name: &str,
    kind: DeviceKind,
    offers: &[Offer],
    keys: Vec<Key>,
) -> Profile {
    Profile {
        id: profile_id(model),
        maker: maker.to_owned(),
        model: name.to_owned(),
        kind,
        offers: offers.to_vec(),
        stops: vec![],
        wifi: None,
        power: Power::AlwaysOn,
        wake_keys: vec![],
        auto_standby: None,
        after_mains: AfterMains::Off,
        after_power_on: AfterPowerOn::Last,
        selection: Selection::None,
        motion: None,
        volume: None,
        modes: vec![],
        apps: vec![],
        couples: None,
        talks: None,
        times: times(Span::NONE, Span::NONE, Span::NONE, Span::NONE, 200),
        feedback: Feedback::None,
        inputs: vec![],
        outputs: vec![],
        functions: functions(model, keys),
        unlisted: vec![],
    }
}

/// Warm-up, picture, cool-down, input change, and the pause after a command in ms.
pub(super) fn times(warm_up: Span, picture: Span, cool_down: Span, input: Span, gap_ms: u32) -> Times {
    Times { warm_up, picture, cool_down, input, gap_ms, gap_basis: Basis::Profile, digits: Times::usual_digits() }
}
