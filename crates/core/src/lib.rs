//! The job's rules and computation: signals, devices, wiring, plans, the simulated room.
//!
//! Everything here is a plain value or a pure function of one. There is no I/O, no clock, no
//! async and no SQL: time is passed in, and a [`site::Site`] is the whole of a house as one value.
//!
//! Modules stand in the order in which a programmer works through a house: what there is ([`kit`]), what
//! the remotes send ([`kestrel_signal`]) and what is known of each function ([`codes`]), what the devices do with
//! it ([`device`]), how they are wired ([`wiring`]), and how a room is brought from here to there
//! ([`plan`]), and whether that holds whatever state it is in ([`prove`]). [`room`] is the same physics run
//! forwards: a simulated room that receives waveforms; [`adopt`] reads back what it is in, [`story`] is an
//! evening in it. [`cue`] is the light that follows, [`surface`] what people press. [`commission`] is the visit to the house, with
//! [`evidence`] of what was measured, [`papers`] and [`compare`] what is handed over, [`service`] the call a year later. [`edit`] is the one way in which a site changes,
//! [`file`] how it is kept as one document.

pub mod adopt;
pub mod begin;
pub mod check;
pub mod codes;
pub mod commission;
pub mod compare;
pub mod cue;
pub mod demo;
pub mod device;
pub mod edit;
pub mod evidence;
pub mod file;
pub mod finding;
pub mod id;
pub mod kit;
pub mod library;
pub mod light;
pub mod model;
pub mod next;
pub mod papers;
pub mod plan;
pub mod prove;
pub mod room;
pub mod service;
pub mod sheet;
pub mod space;
pub mod summary;
pub mod surface;
pub mod upgrade;
pub mod wiring;
pub mod words;
