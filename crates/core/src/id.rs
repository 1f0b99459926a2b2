//! Identifiers: one type for each kind of thing, so that a device's id is never taken for a room's.

use serde::{Deserialize, Serialize};
use std::fmt;
use utoipa::ToSchema;
use uuid::Uuid;

macro_rules! ids {
    ($($(#[$doc:meta])* $name:ident),+ $(,)?) => {$(
        $(#[$doc])*
        #[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
        #[serde(transparent)]
        #[schema(value_type = Uuid)]
        pub struct $name(pub Uuid);

        impl From<Uuid> for $name {
            fn from(id: Uuid) -> Self {
                Self(id)
            }
        }

        impl fmt::Display for $name {
            fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                self.0.fmt(f)
            }
        }
    )+};
}

ids! {
    /// A house.
    HouseId,
    /// A room.
    RoomId,
    /// A device profile: how a kind of device behaves.
    ProfileId,
    /// An input of a profile.
    InputId,
    /// An output of a profile.
    OutputId,
    /// A function of a profile: something that a key or a command does.
    FunctionId,
    /// A device.
    DeviceId,
    /// A cable from an output to an input.
    ConnectionId,
    /// The code of a function of a device.
    CodeId,
    /// A set of codes to try on a device.
    CodeSetId,
    /// An attempt to learn, test or find a code.
    AttemptId,
    /// A photo.
    PhotoId,
    /// An activity.
    ActivityId,
    /// A recorded evening.
    StoryId,
    /// A zone of light.
    ZoneId,
    /// A look.
    LookId,
    /// A line of a cue sheet.
    CueId,
    /// A mode switch.
    SwitchId,
    /// A surface that people press.
    SurfaceId,
    /// A page of a surface.
    PageId,
    /// A key of a surface.
    KeyId,
    /// A finding that was accepted.
    AcceptedId,
    /// A picture, by what is in it.
    PictureId,
    /// A reading of a stopwatch.
    MeasurementId,
    /// A thing that stands somewhere.
    PlacedId,
    /// A protocol that somebody has described.
    DescribedProtocolId,
    /// The result of a test.
    ResultId,
    /// Something that is missing.
    OrderId,
}
