//! Ids of the demo house that tests and the walk through the product refer to. They are fixed: a kind and a number.

use crate::id::{ActivityId, DeviceId, FunctionId, HouseId, RoomId, SurfaceId};
use uuid::Uuid;

/// Fixed ids: a kind and a number.
pub(super) fn id<T: From<Uuid>>(kind: u32, number: u32) -> T {
    Uuid::from_u128(0x6b64_0000_0000_7000_8000_0000_0000_0000 | u128::from(kind) << 80 | u128::from(number)).into()
}

fn device_id(number: u32) -> DeviceId {
    id(3, number)
}

fn room_id(number: u32) -> RoomId {
    id(1, number)
}

macro_rules! named {
    ($($(#[$doc:meta])* $name:ident: $type:ty = $value:expr;)+) => {
        $($(#[$doc])* #[must_use] pub fn $name() -> $type { $value })+
    };
}

named! {
    /// Marram Point.
    house: HouseId = id(0, 1);
    /// Boat Hall.
    boat_hall: RoomId = room_id(1);
    /// Watch Room.
    watch_room: RoomId = room_id(2);
    /// Slip Deck.
    slip_deck: RoomId = room_id(3);
    /// Bunk Cabin.
    bunk_cabin: RoomId = room_id(4);
    /// Bunk Cabin, tidy.
    tidy_cabin: RoomId = room_id(5);
    /// Chart Loft, where everything is on the network.
    chart_loft: RoomId = room_id(7);
    /// The cupboard with equipment for several rooms.
    cupboard: RoomId = room_id(6);
    /// The projector.
    projector: DeviceId = device_id(1);
    /// The screen.
    screen: DeviceId = device_id(2);
    /// The receiver.
    receiver: DeviceId = device_id(3);
    /// The disc player.
    disc_player: DeviceId = device_id(4);
    /// The streamer.
    streamer: DeviceId = device_id(5);
    /// The amplifier.
    amplifier: DeviceId = device_id(6);
    /// The game console.
    console: DeviceId = device_id(7);
    /// The gateway of the Boat Hall.
    hall_gateway: DeviceId = device_id(9);
    /// The display whose power can only be toggled.
    watch_display: DeviceId = device_id(10);
    /// The tuner in the cupboard.
    tuner: DeviceId = device_id(12);
    /// The display on the deck.
    deck_display: DeviceId = device_id(13);
    /// The heater.
    heater: DeviceId = device_id(15);
    /// The display of the Bunk Cabin.
    cabin_display: DeviceId = device_id(16);
    /// The disc player of the Bunk Cabin.
    cabin_disc_player: DeviceId = device_id(34);
    /// The gateway of the Bunk Cabin.
    cabin_gateway: DeviceId = device_id(35);
    /// The display of the Chart Loft, on HTTP.
    loft_display: DeviceId = device_id(40);
    /// The receiver of the Chart Loft, on text lines.
    loft_receiver: DeviceId = device_id(41);
    /// The streamer of the Chart Loft.
    loft_streamer: DeviceId = device_id(42);
    /// The projector of the Chart Loft, on PJLink.
    loft_projector: DeviceId = device_id(43);
    /// The speaker of the Chart Loft.
    loft_speaker: DeviceId = device_id(44);
    /// The dimmer of the Chart Loft, on MQTT.
    loft_dimmer: DeviceId = device_id(45);
    /// The LED strip of the Chart Loft, on E1.31.
    shelf_strip: DeviceId = device_id(46);
    /// The motion sensor of the Chart Loft.
    stair_sensor: DeviceId = device_id(47);
    /// The gateway of the Chart Loft.
    loft_gateway: DeviceId = device_id(48);
    /// The tuner of the Chart Loft, on JSON lines.
    loft_tuner: DeviceId = device_id(49);
    /// The door sensor of the Chart Loft.
    loft_door: DeviceId = device_id(50);
    /// The wall keypad of the Chart Loft.
    loft_keypad: DeviceId = device_id(51);
    /// The hand remote of the Chart Loft.
    loft_remote: DeviceId = device_id(52);
    /// *Disc* on the receiver.
    receiver_disc: FunctionId = id(6, 302);
    /// The generated phone of the Boat Hall.
    hall_phone: SurfaceId = id(16, 1);
    /// The remote of the Bunk Cabin with its mistakes.
    toy_remote: SurfaceId = id(16, 4);
    /// The hand remote of the Chart Loft with its keys.
    loft_keys: SurfaceId = id(16, 3);
    /// The keypad of the Slip Deck that cannot stop the awning.
    deck_keypad: SurfaceId = id(16, 5);
    /// *Feature film*.
    feature_film: ActivityId = id(9, 1);
    /// *Streaming*.
    streaming: ActivityId = id(9, 2);
    /// *Loft film* on the projector of the Chart Loft.
    loft_film: ActivityId = id(9, 10);
    /// *Loft television* on its display.
    loft_television: ActivityId = id(9, 11);
    /// *Loft music*, without a picture.
    loft_music: ActivityId = id(9, 12);
    /// *Loft news*, a channel of the tuner.
    loft_news: ActivityId = id(9, 13);
    /// *Television* in the Watch Room.
    television: ActivityId = id(9, 4);
}
