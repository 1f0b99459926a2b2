//! What a house is: plain data and its accessors. Everything that computes takes a [`Site`] made of this.
//!
//! An *entity* ([`Entity`]) is what people edit as one thing; each has an id, a version and a history of its own.

mod about;
mod activity;
mod adoption;
mod code;
mod code_set;
pub mod cue_words;
mod device;
mod entities;
mod entity;
mod feedback;
mod found;
mod gesture;
mod hand;
mod house;
mod light;
mod list;
mod means;
mod measure;
mod network;
mod overrides;
mod path;
mod picture;
mod plans;
mod profile;
mod protocol;
mod records;
mod result;
mod secrets;
mod site;
mod situation;
mod space;
mod standing;
mod standpoint;
mod story;
mod surface;
mod surface_kind;
mod test_words;
mod tested;
mod transport;
mod voice;

pub use about::About;
pub use activity::{Activity, Arrival, Extras, Favourite, Move, Setting, Shortcut};
pub use adoption::{Adoption, Amendment, LOST_POLLS_MAX};
pub use code::{Code, CodeBody, RADIO_HZ};
pub use code_set::{CodeSet, SetKey};
pub use device::{Connection, Device};
pub use entities::{entities, find, parts};
pub use entity::{Entity, EntityKey, EntityKind, InRoom, RoomCard, RoomLight, gateways_first};
pub use feedback::{Feedback, Sense, Tell};
pub use found::{AssumedTime, Disagreement, FindingKind, Likeness, MissingFunctions, NoWay};
pub use gesture::{DOUBLE_MS, Gesture, HOLD_MS};
pub use hand::Hand;
pub use house::{Accepted, House, NAME_MAX, Programmer, Rehearsing, Room};
pub use light::{
    Also, Cue, Curve, ExitPath, Level, Light, Lighting, Look, ModeSwitch, Moment, Provided, StoredLook, Zone,
};
pub use list::List;
pub use means::Means;
pub use measure::{Burst, Ends, Measurement, READING_MAX_MS, READINGS_MAX, SeenIn, Timing};
pub use network::{Link, Network, Talk};
pub use overrides::{Override, with_overrides};
pub use path::{ControlPath, Medium, Offer, PathClass, Tries, Wifi};
pub use picture::{PICTURE_MAX, Picture, SOUND_MAX};
pub use plans::{Goes, HandChange, OrderRule, PlanChange, Policy, RoomPlans, When};
pub use profile::{
    AfterMains, AfterPowerOn, App, Basis, Cable, Couples, DeviceKind, Function, Input, ListEnds, ListOpens, LoudUnit,
    Mode, ModeValue, Motion, Mute, NamedStop, Output, Power, Press, Profile, Reach, STOPS_MAX, Selection, Skips, Span,
    TimedStop, Times, Unlisted, Volume,
};
pub use protocol::DescribedProtocol;
pub use records::{NOTE_MAX, PHOTOS_MAX, Photo, Records};
pub use result::{Order, OrderState, Outcome, RestingFact, TestOf, TestResult};
pub use secrets::{Secrets, keep_secrets, leaving};
pub use site::Site;
pub use situation::{Situation, situation_name};
pub use space::{
    Cupboard, Emits, FiguresFrom, FloorPlan, Hears, Lamp, Lens, Material, Opening, OpeningKind, Optics, PictureSurface,
    Placed, Radio, SIDE_LEAST_MM, SIDE_MAX_MM, Seat, Spot, Wall,
};
pub use standing::{Effect, MODES, Position, Standing};
pub use standpoint::{Degrees, Standpoint};
pub use story::{Deed, EVENTS_MAX, End, Faults, LENGTH_MAX_MS, SLOW_MAX_MS, Stand, Story, StoryEvent};
pub use surface::{
    Binding, Does, GAP_MM, Held, LISTED, Lit, May, Role, Surface, SurfaceKey, SurfacePage, SurfaceTrial, Tint,
};
pub use surface_kind::{SurfaceKind, SurfaceSize};
pub use test_words::test_title;
pub use tested::{TestEffect, Tested};
pub use transport::Playback;
pub use voice::{Called, Spoken, Synced, Voice};
