//! Surfaces drive the room: a key of a phone, and a hard key of a remote or a keypad, do what they are there for.

use super::{Inner, Rehearsal, RehearsalError};
use kestrel_core::id::{DeviceId, FunctionId, KeyId, PageId, RoomId, SurfaceId, ZoneId};
use kestrel_core::light::watch::Happening;
use kestrel_core::model::{Gesture, Held, Press, Site, Situation, SurfaceKey};
use kestrel_core::plan::press_of;
use kestrel_core::surface::now::{Known, PressDoes, deed};
use std::sync::{Arc, PoisonError};
use tokio::sync::broadcast;

/// How often a held key does the same again, in ms.
const AGAIN_MS: u64 = 250;

/// How long one piece of a command that is passed through is held, in ms.
const PIECE_MS: u32 = 300;

/// A key that nobody lets go is let go by itself: the phone may be gone, in ms.
const LONGEST_MS: u64 = 10_000;

/// What concerns other rooms.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Elsewhere {
    /// A level for a zone of another room.
    Level {
        /// The room.
        room: RoomId,
        /// The zone.
        zone: ZoneId,
        /// How bright, in %.
        percent: u8,
        /// How long the fade takes, in ms.
        fade_ms: u32,
    },
    /// The whole house is put to rest.
    Rest,
}

/// A level that a finger sets follows it within this time, in ms.
pub const DIM_MS: u32 = 300;

impl Rehearsal {
    /// What is known of the room, for keys.
    #[must_use]
    pub fn known(&self) -> Known {
        let now = self.clock().now_ms();
        let site = self.inner.world.site();
        let room = self.inner.world.room();
        let mut known = Known::default();
        {
            let mind = self.mind();
            let goes = mind.run.as_ref().filter(|run| run.end.is_none()).map(|run| run.to);
            let is = goes.or(mind.taken_for);
            known.activity = match is {
                Some(Situation::In { activity }) => Some(activity),
                _ => None,
            };
            known.off = goes.is_none() && is == Some(Situation::Off);
            known.before = mind.before.filter(|before| known.activity != Some(*before));
            for device in site.devices_in(room) {
                let Some(profile) = site.profile_of(device.id) else { continue };
                let certain = mind.beliefs.certain(&site, device.id, now);
                let on = if profile.power_keys().is_some() { certain.on } else { None };
                known.on.extend(on.map(|on| (device.id, on)));
                let told = mind.heard.get(&device.id).map(|heard| &heard.report);
                let input = certain.input.and_then(|input| profile.inputs.get(usize::from(input)));
                known.input.extend(input.map(|input| (device.id, input.id)));
                let app =
                    certain.app.and_then(|app| usize::from(app).checked_sub(1)).and_then(|at| profile.apps.get(at));
                let app = told
                    .and_then(|told| told.playing.as_ref())
                    .and_then(|playing| playing.app.clone())
                    .or_else(|| app.map(|app| app.name.clone()));
                known.app.extend(app.map(|app| (device.id, app)));
                let loud = mind.heard.get(&device.id).filter(|heard| heard.lost == 0);
                let loud = loud.and_then(|heard| heard.report.volume_tenths);
                known.loudness.extend(loud.map(|tenths| (device.id, tenths)));
                if told.and_then(|told| told.muted).or(certain.muted) == Some(true) {
                    known.muted.insert(device.id);
                }
                for (mode, value) in profile.modes.iter().zip(certain.modes) {
                    let value = value.and_then(|value| mode.values.get(usize::from(value)));
                    known.modes.extend(value.map(|value| (device.id, mode.name.clone(), value.name.clone())));
                }
            }
        }
        let light = self.inner.light();
        if let Some(own) = site.room(room) {
            let on = own.lighting.switches.iter().filter(|switch| light.is_on(switch.id));
            known.switches.extend(on.map(|switch| switch.id));
            known.levels.extend(own.lighting.zones.iter().map(|zone| (zone.id, light.level(zone.id, now))));
        }
        known
    }

    /// A key of a surface is pressed: what it does now is done. Says which page to turn to.
    ///
    /// # Errors
    /// Why nothing happened.
    pub async fn press_key(
        &self,
        surface: SurfaceId,
        key: KeyId,
        gesture: Gesture,
    ) -> Result<Option<PageId>, RehearsalError> {
        let site = self.inner.world.site();
        let own =
            site.room(self.inner.world.room()).and_then(|room| room.surface(surface)).and_then(|own| own.key(key));
        let gone = || RehearsalError::plain("That key is gone. Load the page again.");
        let (_, key) = own.ok_or_else(gone)?;
        self.press_of_key(&site, key, gesture).await
    }

    async fn press_of_key(
        &self,
        site: &Site,
        key: &SurfaceKey,
        gesture: Gesture,
    ) -> Result<Option<PageId>, RehearsalError> {
        self.let_go(key.id);
        let known = self.known();
        if gesture == Gesture::Hold
            && let Some(binding) = key.binding(Gesture::Tap, known.activity).filter(|tap| tap.held != Held::Once)
        {
            let deed = self.deed(site, &binding.does, &known)?;
            self.hold(key.id, deed, binding.held);
            return Ok(None);
        }
        let Some(binding) = key.binding(gesture, known.activity) else { return Ok(None) };
        if binding.most_per_s.is_some_and(|most| !self.counts(key.id, most)) {
            return Ok(None);
        }
        let deed = self.deed(site, &binding.does, &known)?;
        self.carry(&deed).await
    }

    /// Does one more press of a key count, where so many do in a second?
    fn counts(&self, key: KeyId, most: u8) -> bool {
        let now = self.clock().now_ms();
        let mut twists = self.inner.twists.lock().unwrap_or_else(PoisonError::into_inner);
        let recent = twists.entry(key).or_default();
        recent.retain(|at| at + 1_000 > now);
        let counts = recent.len() < usize::from(most);
        if counts {
            recent.push(now);
        }
        counts
    }

    /// The room is finished with the house: everything off, and the way out is lit as its walk wants it.
    ///
    /// # Errors
    /// Where the plan cannot be sent; the way out is lit all the same.
    pub async fn rest(&self) -> Result<(), RehearsalError> {
        let done = self.run(Situation::Off).await;
        let site = self.inner.world.site();
        let exit = site.room(self.inner.world.room()).and_then(|room| room.lighting.exit.clone());
        for (zone, percent) in exit.iter().flat_map(|exit| exit.zones.iter().map(|zone| (*zone, exit.percent))) {
            if self.inner.light().fade(zone).to < f64::from(percent) {
                self.dim(zone, percent, DIM_MS);
            }
        }
        done
    }

    fn deed(&self, site: &Site, does: &kestrel_core::model::Does, known: &Known) -> Result<PressDoes, RehearsalError> {
        deed(site, self.inner.world.room(), does, known)
            .map_err(|bar| RehearsalError::Barred { exactly: bar.exactly(site), plainly: bar.plainly(site) })
    }

    async fn carry(&self, deed: &PressDoes) -> Result<Option<PageId>, RehearsalError> {
        match deed {
            PressDoes::Run { to } => self.run(*to).await?,
            PressDoes::Stop => self.stop().await?,
            PressDoes::Send { device, function, times } => {
                for _ in 0..*times {
                    self.send_once(*device, *function).await?;
                }
            }
            PressDoes::Nudge { device, steps } => {
                let nudged = self.nudge(*device, *steps).await?;
                if let Some(held) = nudged.held.filter(|_| nudged.sent == 0) {
                    return Err(RehearsalError::plain(held));
                }
            }
            PressDoes::Steps { steps } => {
                let start_ms = self.clock().now_ms();
                for step in steps {
                    self.clock().sleep_until(start_ms + u64::from(step.start_ms)).await;
                    self.send_once(step.device, step.function).await?;
                }
            }
            PressDoes::Rest => {
                // Whoever has all the rooms does it, this one among them.
                let _ = self.inner.elsewhere.send(Elsewhere::Rest);
            }
            PressDoes::Look { look } => self.inner.happened(&Happening::Look { look: *look }),
            PressDoes::Set { switch, on } => self.set_switch(*switch, *on),
            PressDoes::Turn { page } => return Ok(Some(*page)),
        }
        Ok(None)
    }

    /// A key stays down: the same again and again, or the command held in pieces, until it is let go.
    fn hold(&self, key: KeyId, deed: PressDoes, held: Held) {
        let rehearsal = self.watched();
        let clock = self.clock().clone();
        let until_ms = clock.now_ms() + LONGEST_MS;
        let task = tokio::spawn(async move {
            while clock.now_ms() < until_ms {
                let Some(rehearsal) = rehearsal.upgrade() else { return };
                let done = match (&deed, held) {
                    (PressDoes::Send { device, function, .. }, Held::Passes) => {
                        rehearsal.piece(*device, *function).await
                    }
                    _ => rehearsal.carry(&deed).await.map(|_| ()),
                };
                if let Err(error) = done {
                    rehearsal.came_to_nothing(error.to_string());
                    return;
                }
                drop(rehearsal);
                clock.sleep(AGAIN_MS).await;
            }
        });
        let old = self.inner.holds.lock().unwrap_or_else(PoisonError::into_inner).insert(key, task.abort_handle());
        if let Some(old) = old {
            old.abort();
        }
    }

    /// A piece of a command that is held.
    async fn piece(&self, device: DeviceId, function: FunctionId) -> Result<(), RehearsalError> {
        let site = self.inner.world.site();
        let moves = site.moves(device);
        // What moves goes the careful way: it is stopped before it is reversed.
        let Some(code) = site.code(device, function).filter(|_| !moves) else {
            return self.send_once(device, function).await.map(|_| ());
        };
        let (press, _) = press_of(&site, device, function);
        let _writer = self.inner.writer(device).lock_owned().await;
        let held = Press { hold_ms: PIECE_MS.max(press.hold_ms), ..press };
        self.send_believed(device, function, &code.body, held, None).await?;
        self.touch();
        Ok(())
    }

    /// A press came to nothing: the programmer reads why, whoever pressed is told in other words.
    pub fn came_to_nothing(&self, why: String) {
        let now = self.clock().now_ms();
        self.mind().held(now, why);
        self.touch();
    }

    /// Lets go of every key of a surface that is held: its link is gone, or its page.
    pub fn release(&self, surface: SurfaceId) {
        let site = self.inner.world.site();
        let own = site.room(self.inner.world.room()).and_then(|room| room.surface(surface));
        for key in own.into_iter().flat_map(|own| own.keys()).map(|(_, key)| key.id) {
            self.let_go(key);
        }
    }

    /// Lets go of every key that is held.
    pub fn release_all(&self) {
        for (_, task) in std::mem::take(&mut *self.inner.holds.lock().unwrap_or_else(PoisonError::into_inner)) {
            task.abort();
        }
    }

    fn let_go(&self, key: KeyId) {
        if let Some(task) = self.inner.holds.lock().unwrap_or_else(PoisonError::into_inner).remove(&key) {
            task.abort();
        }
    }

    /// A zone is dimmed from a surface, or by a look of another room.
    pub fn dim(&self, zone: ZoneId, percent: u8, fade_ms: u32) {
        self.inner.happened(&Happening::Dim { zone, percent, fade_ms });
    }

    /// Levels for zones of other rooms, as looks of this one set them.
    #[must_use]
    pub fn elsewhere(&self) -> broadcast::Receiver<Elsewhere> {
        self.inner.elsewhere.subscribe()
    }
}

impl Inner {
    /// Does a surface care for a double tap on a hard key?
    pub(super) fn surface_cares(&self, site: &Site, device: DeviceId, function: FunctionId) -> bool {
        let surfaces = site.room(self.world.room()).map(|room| room.surfaces.as_slice()).unwrap_or_default();
        let keys =
            surfaces.iter().filter(|surface| surface.device == Some(device)).filter_map(|s| s.hard_key(function));
        keys.flat_map(|key| &key.bindings).any(|binding| binding.gesture == Gesture::DoubleTap)
    }

    /// A hard key does what the surface says that stands for its device.
    pub(super) fn hard_key(self: &Arc<Self>, device: DeviceId, function: FunctionId, gesture: Gesture) {
        let site = self.world.site();
        let Some(room) = site.room(self.world.room()) else { return };
        let surfaces = room.surfaces.iter().filter(|surface| surface.device == Some(device));
        for key in surfaces.filter_map(|surface| surface.hard_key(function)) {
            let (rehearsal, site, key) = (Rehearsal { inner: self.clone() }, site.clone(), key.clone());
            tokio::spawn(async move {
                match rehearsal.press_of_key(&site, &key, gesture).await {
                    Ok(_) => rehearsal.touch(),
                    Err(error) => rehearsal.came_to_nothing(error.to_string()),
                }
            });
        }
    }
}
