//! What a schedule is made of: sends with their waits, one job a device, and what has to come before what.

/// Ready, end and start times.
pub(super) type Best = (u32, u32, Vec<Vec<u32>>);

/// The media that a command occupies while it is sent, as a set; none where it has a line of its own. Two commands are in each
/// other's way where their sets have one in common.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Media(u64);

impl Media {
    /// How many there can be in one problem.
    pub const MOST: usize = 64;

    /// A line of its own.
    pub const NONE: Self = Self(0);

    /// All of them: what nobody has counted is in everybody's way.
    pub const ALL: Self = Self(u64::MAX);

    /// This one alone, counted from 0.
    #[must_use]
    pub const fn one(medium: u8) -> Self {
        Self(1 << (medium as usize % Self::MOST))
    }

    /// These, and that one.
    #[must_use]
    pub const fn and(self, medium: u8) -> Self {
        Self(self.0 | Self::one(medium).0)
    }

    /// Has it none?
    #[must_use]
    pub const fn is_none(self) -> bool {
        self.0 == 0
    }

    /// Are two commands in each other's way?
    #[must_use]
    pub const fn meets(self, other: Self) -> bool {
        self.0 & other.0 != 0
    }

    /// Each of them.
    pub fn each(self) -> impl Iterator<Item = usize> {
        let mut left = self.0;
        std::iter::from_fn(move || {
            let next = (left != 0).then(|| left.trailing_zeros() as usize);
            left &= left.wrapping_sub(1);
            next
        })
    }
}

/// One command.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Op {
    /// The shared media that it occupies.
    pub media: Media,
    /// How long it occupies the medium, in ms.
    pub send_ms: u32,
    /// The least pause until the job's next command, in ms.
    pub lag_ms: u32,
    /// The greatest such pause, in ms.
    pub within_ms: Option<u32>,
    /// From its end until it can be seen or heard, in ms.
    pub shows_ms: u32,
    /// From its end until it has settled, in ms.
    pub settles_ms: u32,
    /// Does *ready* wait for it?
    pub needed: bool,
    /// It starts then and at no other time, in ms.
    pub pin_ms: Option<u32>,
}

/// Commands that follow each other.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Job {
    /// It cannot start before this, in ms.
    pub head_ms: u32,
    /// In order.
    pub ops: Vec<Op>,
}

/// A command that goes before one of another job.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Before {
    /// Job and place of the first.
    pub first: (usize, usize),
    /// Job and place of the one that waits.
    pub then: (usize, usize),
    /// From the end of the first to the start of the other, in ms.
    pub lag_ms: u32,
}

impl Job {
    /// Does *ready* wait for any of it?
    #[must_use]
    pub fn needed(&self) -> bool {
        self.ops.iter().any(|op| op.needed)
    }

    /// From its start until it can be seen or heard, if nothing else is sent, in ms.
    #[must_use]
    pub fn alone_ms(&self) -> u32 {
        self.head_ms + self.rest(0, |op| op.shows_ms)
    }

    /// From now until all that *ready* waits for is there, if nothing else is sent, in ms.
    pub(super) fn needed_ms(&self) -> u32 {
        let rest = self.ready_rest(0);
        if rest == 0 { 0 } else { self.head_ms + rest }
    }

    /// From the start of command `from` until the last needed tail has passed, if nothing else is sent.
    pub(super) fn ready_rest(&self, from: usize) -> u32 {
        let (mut at, mut latest) = (0, 0);
        for op in &self.ops[from.min(self.ops.len())..] {
            if op.needed {
                latest = latest.max(at + op.send_ms + op.shows_ms);
            }
            at += op.send_ms + op.lag_ms;
        }
        latest
    }

    /// From the start of command `from` until the last tail has passed, if nothing else is sent.
    pub(super) fn rest(&self, from: usize, tail: impl Fn(&Op) -> u32) -> u32 {
        let (mut at, mut latest) = (0, 0);
        for op in &self.ops[from.min(self.ops.len())..] {
            latest = latest.max(at + op.send_ms + tail(op));
            at += op.send_ms + op.lag_ms;
        }
        latest
    }
}
