//! The protocols that a reader tries, as a value.

use super::{BuiltIn, FieldError, Protocol, ProtocolId};
use std::sync::LazyLock;

/// A set of protocols, in the order in which they are tried.
///
/// A protocol that is not built in, eight bits in pulse distance behind a short leader, added to the set of a reader:
/// ```
/// use kestrel_signal::layout::{Layout, Part};
/// use kestrel_signal::protocol::{Coding, DescribedId, FieldSpec, Period, Turn, Values};
/// use kestrel_signal::{Capture, Message, Misfit, Protocol, ProtocolId, Protocols, read, read_among};
///
/// struct Doorbell;
///
/// impl Coding for Doorbell {
///     fn valid(&self, _: &Values) -> Result<(), &'static str> {
///         Ok(())
///     }
///
///     fn layout(&self, values: &Values, _: Turn) -> Layout {
///         let mut frame = Layout::new(400.0);
///         frame.pair(6, 2, Part::Leader);
///         (0..8).for_each(|bit| frame.distance_bit(bit, "key", values[0] >> bit & 1 == 1));
///         frame.push(true, 1, Part::Stop);
///         frame
///     }
///
///     fn decode(&self, frame: &[u32]) -> Result<Values, Misfit> {
///         if frame.len() != 19 {
///             return Err(Misfit::Count { expected: 19, found: frame.len() });
///         }
///         let bits = frame[3..].iter().step_by(2).take(8).enumerate();
///         Ok([bits.map(|(bit, &space)| u32::from(space > 800) << bit).sum(), 0, 0, 0, 0])
///     }
/// }
///
/// let doorbell = Protocol {
///     id: ProtocolId::Described(DescribedId(uuid::Uuid::from_u128(7))),
///     carrier_hz: 36_000,
///     unit_us: 400.0,
///     flip_us: 400.0,
///     fields: &[FieldSpec { name: "key", max: 255, default: None }],
///     period: Period::Silence(20_000.0),
///     least_frames: 2,
///     check_bits: 0,
///     source: "a doorbell that was taken apart",
///     coding: &Doorbell,
/// }
/// .make_known();
/// let ring = Message::of(doorbell, [("key", 0xa5)])?;
/// let mut heard = ring.encode(3);
/// heard.pop();
/// let capture = Capture::new(heard, None)?;
/// assert!(read(&capture).best.is_none(), "no protocol that is built in fits");
/// let known = Protocols::built_in().clone().with(doorbell);
/// assert_eq!(read_among(&capture, &known).best.expect("it is known now").message, ring);
/// // It is written by its id, and read back by it.
/// assert_eq!(Message::new(ring.protocol_id(), [("key", 0xa5)])?, ring);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone)]
pub struct Protocols(Vec<&'static Protocol>);

static BUILT_IN: LazyLock<Protocols> =
    LazyLock::new(|| Protocols(BuiltIn::ALL.into_iter().map(BuiltIn::protocol).collect()));

impl Protocols {
    /// Those that come with this crate.
    #[must_use]
    pub fn built_in() -> &'static Self {
        &BUILT_IN
    }

    /// The same set with one more protocol, in place of one with the same id.
    #[must_use]
    pub fn with(mut self, protocol: &'static Protocol) -> Self {
        self.0.retain(|known| known.id != protocol.id);
        self.0.push(protocol);
        self
    }

    /// The protocols in their order.
    pub fn iter(&self) -> impl ExactSizeIterator<Item = &'static Protocol> {
        self.0.iter().copied()
    }

    /// The protocol of this id.
    #[must_use]
    pub fn get(&self, id: ProtocolId) -> Option<&'static Protocol> {
        self.iter().find(|known| known.id == id)
    }

    /// That there is no protocol of this name, and which there are.
    pub(super) fn unknown(&self, name: &str) -> FieldError {
        let known: Vec<String> = self.iter().map(|known| known.id.to_string()).collect();
        FieldError::Protocol { name: name.chars().take(60).collect(), known: known.join(", ") }
    }
}
