//! Single fields in which a device differs from its model.

use crate::id::FunctionId;
use crate::model::{
    AfterMains, AfterPowerOn, App, Basis, Couples, Feedback, Mode, Motion, NamedStop, Power, Profile, Selection, Span,
    Volume, Wifi,
};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

macro_rules! overrides {
    ($($(#[$doc:meta])* $name:ident($type:ty) = $($place:ident).+;)+) => {
        /// One field of a profile with the value that a device has instead.
        #[derive(Debug, Clone, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
        #[serde(rename_all = "kebab-case", tag = "field", content = "value")]
        pub enum Override { $($(#[$doc])* $name($type),)+ }

        impl Override {
            /// Where each field stands in a profile: its name in JSON, and the path to its value.
            #[must_use]
            pub fn places() -> Vec<(String, Vec<&'static str>)> {
                vec![$((kebab(stringify!($name)), stringify!($($place).+).split('.').map(str::trim).collect()),)+]
            }

            /// Puts the value in its place.
            pub fn apply(&self, profile: &mut Profile) {
                match self { $(Self::$name(value) => profile.$($place).+ = value.clone(),)+ }
            }

            /// Every field of `own` that differs from `model`.
            #[must_use]
            pub fn differences(model: &Profile, own: &Profile) -> Vec<Self> {
                let mut found = Vec::new();
                $(if model.$($place).+ != own.$($place).+ {
                    found.push(Self::$name(own.$($place).+.clone()));
                })+
                found
            }
        }
    };
}

overrides! {
    /// How power is switched.
    Power(Power) = power;
    /// Keys that switch it on and never off.
    WakeKeys(Vec<FunctionId>) = wake_keys;
    /// When it switches itself off.
    AutoStandby(Option<Span>) = auto_standby;
    /// What it does when mains come back.
    AfterMains(AfterMains) = after_mains;
    /// Which input is chosen once it is on.
    AfterPowerOn(AfterPowerOn) = after_power_on;
    /// How an input is chosen.
    Selection(Selection) = selection;
    /// How it moves.
    Motion(Option<Motion>) = motion;
    /// Where it can stop between its ends.
    Stops(Vec<NamedStop>) = stops;
    /// How loud it is.
    Volume(Option<Volume>) = volume;
    /// Its settings.
    Modes(Vec<Mode>) = modes;
    /// What it runs or receives.
    Apps(Vec<App>) = apps;
    /// What control over HDMI makes it do.
    Couples(Option<Couples>) = couples;
    /// From power-on until commands are accepted.
    WarmUp(Span) = times.warm_up;
    /// From power-on until there is a picture or sound.
    Picture(Span) = times.picture;
    /// From power-off until power keys are accepted again.
    CoolDown(Span) = times.cool_down;
    /// From the choice of an input until it shows.
    InputChange(Span) = times.input;
    /// The pause after every command, in ms.
    Gap(u32) = times.gap_ms;
    /// Where the pause comes from.
    GapBasis(Basis) = times.gap_basis;
    /// The pause between digits.
    Digits(Span) = times.digits;
    /// What it tells of itself.
    Feedback(Feedback) = feedback;
    /// Which bands its radio network has.
    Wifi(Option<Wifi>) = wifi;
}

/// The name of a variant as it is written in JSON.
fn kebab(name: &str) -> String {
    let dashed = name.char_indices().map(|(at, c)| {
        let dash = if at > 0 && c.is_ascii_uppercase() { "-" } else { "" };
        format!("{dash}{}", c.to_ascii_lowercase())
    });
    dashed.collect()
}

/// The model with a device's own fields in place.
#[must_use]
pub fn with_overrides(model: &Profile, overrides: &[Override]) -> Profile {
    let mut own = model.clone();
    overrides.iter().for_each(|field| field.apply(&mut own));
    own
}
