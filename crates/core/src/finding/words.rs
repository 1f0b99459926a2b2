//! Findings in words: the one place where their sentences are made.

use crate::id::{CueId, DeviceId, KeyId, SurfaceId, ZoneId};
use crate::model::{AssumedTime, FindingKind, Likeness, NoWay, Site, cue_words, situation_name};
use crate::words::{and, seconds};

/// What was found, why, and what to do, in a sentence or two.
#[must_use]
pub fn text(site: &Site, kind: &FindingKind) -> String {
    let say = Say { site };
    match kind {
        FindingKind::Earlier { text, .. } => text.clone(),
        _ => say
            .of_kit(kind)
            .or_else(|| say.of_codes(kind))
            .or_else(|| say.of_plans(kind))
            .or_else(|| say.of_cues(kind))
            .or_else(|| say.of_surfaces(kind))
            .unwrap_or_default(),
    }
}

struct Say<'a> {
    site: &'a Site,
}

impl Say<'_> {
    fn device(&self, id: DeviceId) -> String {
        self.site.device_name(id)
    }

    fn activity(&self, id: crate::id::ActivityId) -> String {
        self.site.activity(id).map_or_else(|| "an activity that is gone".to_owned(), |known| known.name.clone())
    }

    fn room(&self, id: crate::id::RoomId) -> &str {
        self.site.room(id).map_or("", |room| room.name.as_str())
    }

    fn zone(&self, id: ZoneId) -> String {
        self.site.zone(id).map_or_else(|| "a zone that is gone".to_owned(), |zone| zone.name.clone())
    }

    /// A line of the cue sheet.
    fn line(&self, id: CueId) -> String {
        let known = self.site.cue(id);
        known.map_or_else(
            || "a cue that is gone".to_owned(),
            |(room, cue)| cue_words::line(self.site, &room.lighting, cue),
        )
    }

    fn surface(&self, id: SurfaceId) -> String {
        self.site.surface(id).map_or_else(|| "a surface that is gone".to_owned(), |known| known.name.clone())
    }

    /// A key and its surface.
    fn key(&self, surface: SurfaceId, key: KeyId) -> String {
        let known = self.site.surface(surface).and_then(|known| known.key(key));
        let label = known.map(|(_, key)| key.label.as_str()).unwrap_or_default();
        let label = if label.is_empty() { "A key without a label".to_owned() } else { format!("“{label}”") };
        format!("{label} on {}", self.surface(surface))
    }

    fn of_kit(&self, kind: &FindingKind) -> Option<String> {
        use FindingKind as K;
        let device = |id: &DeviceId| self.device(*id);
        Some(match kind {
            K::CablesIntoOne { connection } | K::CablesOutOfOne { connection } | K::WrongPlug { connection } => {
                return self.of_plugs(kind, *connection);
            }
            K::SoundTwice { connection } | K::UsedBothWays { connection, .. } => {
                return self.of_return(kind, *connection);
            }
            K::CableLoop { device: id, power } => {
                let why = if *power {
                    "each waits for the other to be switched on"
                } else {
                    "its output comes back to its own input"
                };
                format!("The cables run in a circle through {}: {why}. Remove one of them.", device(id))
            }
            K::NotWired { device: id } => format!("{} is wired to nothing: nobody can see or hear it.", device(id)),
            K::Unreachable { device: id } => format!(
                "The cables from {} end before anything that shows or sounds. Wire it on to a display or a receiver.",
                device(id)
            ),
            K::BluetoothOnly { device: id } => format!(
                "{} is reached by Bluetooth alone: a gateway can neither learn nor send it. Look for another way in, or leave it to its own remote.",
                device(id)
            ),
            K::WrongGateway { device: id, gateway, medium } => format!(
                "{} should be reached through {}, which does not send {}. Choose another gateway.",
                device(id),
                device(gateway),
                medium.name()
            ),
            K::OutOfSight { device: id, gateway } => format!(
                "{} stands where {} cannot see it: infrared does not leave the room. Put an emitter beside it, or a gateway in its room.",
                device(id),
                device(gateway)
            ),
            K::NoGateway { device: id, medium } => format!(
                "No gateway reaches {}: {} needs one{}. Add one in Kit.",
                device(id),
                medium.name(),
                if *medium == crate::model::Medium::Ir { " in the same room" } else { "" }
            ),
            _ => return self.of_sharing(kind),
        })
    }

    /// What a house shares, what is dangerous in it, and what nobody measured.
    fn of_sharing(&self, kind: &FindingKind) -> Option<String> {
        use FindingKind as K;
        let device = |id: &DeviceId| self.device(*id);
        Some(match kind {
            K::BetterPath { device: id, used, better, why } => format!(
                "{} is controlled by {}, though {} is set up too and stands before it in your order. {why}",
                device(id),
                used.name(),
                better.name()
            ),
            K::Heat { device: id } => format!(
                "{} makes heat. Leave it out of macros and schedules: it must never be switched on while nobody is there. Its own switch and the local rules come first.",
                device(id)
            ),
            K::RoomsClash { device: id, mine, room, other } => format!(
                "{} serves this room and {}. {} and {} there want different inputs of it at the same time: whoever starts last wins. Wire a second path, or let only one of them use it.",
                device(id),
                self.room(*room),
                self.activity(*mine),
                self.activity(*other)
            ),
            K::RoomsShare { device: id, mine, room, other } => format!(
                "{} plays for {} here and for {} in {}: it plays one thing at a time, so who changes it in one room changes it in the other.",
                device(id),
                self.activity(*mine),
                self.activity(*other),
                self.room(*room)
            ),
            K::ReadingOutside { device: id, timing, count, lo_ms, hi_ms } => {
                let readings = if *count == 1 { "A reading lies".to_owned() } else { format!("{count} readings lie") };
                format!(
                    "{readings} outside the interval that plans use for {}, {} ({} to {}). Look at them in Handover, and take the new interval over or strike them with a reason.",
                    device(id),
                    timing.words(),
                    seconds(*lo_ms),
                    seconds(*hi_ms)
                )
            }
            K::FailedInHouse { count, first, .. } => {
                let title = crate::model::test_title(self.site, first);
                let more = if *count > 1 { format!(" and {} more", count - 1) } else { String::new() };
                format!(
                    "“{title}”{more} failed in the house, and nothing of it has been changed or tried again since. See Tests in Handover."
                )
            }
            K::ChangedSince { number, count } => {
                let things = if *count == 1 { "1 thing has".to_owned() } else { format!("{count} things have") };
                format!(
                    "{things} been changed since handover {number}. Test what is stale, and hand over again; Papers compares the two."
                )
            }
            K::OutOfReach { device: id, gateway } => format!(
                "{} does not hear {} where both stand. Plan in Kit says why, and what would help: a lead on its window, another spot, an open door.",
                device(id),
                device(gateway)
            ),
            K::BarelyReached { device: id, gateway, tenths_db } => format!(
                "{} hears {} with {:.1} dB to spare, and 6 dB are wanted: dust or a coffee cup may be enough to lose a press. Turn the gateway in Plan, or stick a lead to its window.",
                device(id),
                device(gateway),
                f64::from(*tenths_db) / 10.0
            ),
            K::BehindScreen { device: id, gateway } => format!(
                "{} does not hear {} while a screen is down. Send to it before the screen moves, or stick a lead to its window.",
                device(id),
                device(gateway)
            ),
            K::NothingArrives { device: id, gateway } => format!(
                "Nothing that {} sends gets to where {} stands, not even with doors open and screens up. Turn or move one of them in Plan, stick a lead to its window, or take another gateway.",
                device(gateway),
                device(id)
            ),
            K::ReachUnknown { device: id, placed: false } => format!(
                "{} is not placed on the plan of its room: it may hear its gateway or not, and proofs keep both. Place it in Plan, or stick a lead to its window.",
                device(id)
            ),
            K::ReachUnknown { device: id, placed: true } => format!(
                "Nothing is known of the window of {}: it may hear its gateway or not, and proofs keep both. Type the figures into its model (in space), or stick a lead to its window.",
                device(id)
            ),
            K::RadiosMeet { device: id, other, heard_by } => format!(
                "{} hears the radio of {} and of {}, which stands in another room: what both send at one moment is lost. Macros of two rooms can meet there; give one of them another medium, or let only one send radio.",
                device(heard_by),
                device(id),
                device(other)
            ),
            K::Keystone { device: id, deg } => format!(
                "{} stands {deg}° off square to its picture. Keystone correction would make a rectangle of it again and costs resolution: turn it square and use the shift of its lens.",
                device(id)
            ),
            K::TooSteep { device: id, seat, deg } => format!(
                "From {seat} the top edge of {} is {deg}° up; 35° are the most for a front row (SMPTE EG 18-1994, from memory). Lower the picture, make it smaller, or move the row back.",
                device(id)
            ),
            K::LensDoesNotFit { device: id, why } => format!("{}: {why}", device(id)),
            K::EdgeHidden { device: id, seats, cm } => format!(
                "From {} heads in front hide the bottom edge of {} by up to {cm} cm. Raise the picture or the row.",
                seats.join(", "),
                device(id)
            ),
            K::CableLong { connection, tenths_m, most_m } => {
                let ends = self.site.connections.iter().find(|own| own.id == *connection);
                let name = ends.and_then(|own| self.site.cable(own)).map_or("The", |cable| cable.name());
                let between = ends.map_or_else(String::new, |own| {
                    format!(" from {} to {}", device(&own.from_device), device(&own.to_device))
                });
                format!(
                    "{name} cable{between} is {:.1} m long along walls and ceiling, with a tenth to spare; {most_m} m is usual for a passive one (common practice). Take an active one, or move the devices.",
                    f64::from(*tenths_m) / 10.0
                )
            }
            K::TooDim { device: id, white } => format!(
                "White on {} is {white} cd/m²: cinema white is 48 cd/m² (SMPTE ST 431-1). A smaller picture, more gain or more light would do.",
                device(id)
            ),
            K::Assumed { device: id, time, lo_ms, hi_ms } => {
                let does = match time {
                    AssumedTime::WarmUp => "starts up in",
                    AssumedTime::CoolDown => "cools down in",
                    AssumedTime::Input => "changes input in",
                    AssumedTime::TravelUp => "goes up in",
                    AssumedTime::TravelDown => "goes down in",
                };
                format!(
                    "{} {does} {}–{}. Nobody measured it; a plan waits for the longer time.",
                    device(id),
                    seconds(*lo_ms).trim_end_matches(" s"),
                    seconds(*hi_ms)
                )
            }
            _ => return self.of_network(kind),
        })
    }

    fn of_plugs(&self, kind: &FindingKind, connection: crate::id::ConnectionId) -> Option<String> {
        let site = self.site;
        let cable = site.connections.iter().find(|known| known.id == connection)?;
        let input = site.input(cable.to_device, cable.to_input);
        let name =
            format!("{} on {}", input.map_or("an input", |input| input.name.as_str()), self.device(cable.to_device));
        Some(match kind {
            FindingKind::CablesIntoOne { .. } => {
                format!("Two cables go into {name}. Only one can be plugged in; remove the other.")
            }
            FindingKind::CablesOutOfOne { .. } => format!(
                "Two cables come out of {} on {}. Only one can be plugged in; use another output, or a splitter as a device of its own.",
                site.output(cable.from_device, cable.from_output).map_or("an output", |output| output.name.as_str()),
                self.device(cable.from_device)
            ),
            _ => format!(
                "The plug does not fit: {} gives {}, {name} takes {}. Wire it to another input.",
                self.device(cable.from_device),
                site.cable(cable).map_or("nothing", crate::model::Cable::name),
                input.map_or("nothing", |input| input.cable.name())
            ),
        })
    }

    fn of_return(&self, kind: &FindingKind, connection: crate::id::ConnectionId) -> Option<String> {
        let cable = self.site.connections.iter().find(|known| known.id == connection)?;
        let (here, there) = (self.device(cable.from_device), self.device(cable.to_device));
        Some(match kind {
            FindingKind::UsedBothWays { forward, back, .. } => format!(
                "The cable between {here} and {there} is used both ways: {} sends its picture along it and {} its sound back. {here} has to leave its input for the one and come back for the other; a display that switches by itself does that at the wrong moment.",
                self.activity(*forward),
                self.activity(*back)
            ),
            _ => format!(
                "The sound of {there} comes to {here} twice: back through the HDMI cable and by another one. Take one away, or the input that is chosen is left to chance."
            ),
        })
    }

    fn of_network(&self, kind: &FindingKind) -> Option<String> {
        use FindingKind as K;
        let device = |id: &DeviceId| self.device(*id);
        Some(match kind {
            K::MalformedAddress { device: id, ip } => {
                format!("“{ip}” of {} is no IP address. It has four numbers of 0–255, such as 10.0.4.12.", device(id))
            }
            K::UnusableAddress { device: id, ip } => format!(
                "{ip} of {} cannot be the address of a device: it stands for all, none or this machine.",
                device(id)
            ),
            K::SameAddress { device: id, other, ip } => {
                format!("{} and {} both have the address {ip}. Give one of them another.", device(id), device(other))
            }
            K::MalformedMac { device: id, problem } => format!("{}: {problem}", device(id)),
            K::SameMac { device: id, other, mac } => format!(
                "{} and {} have the same MAC address {mac}. Two devices never do: one was copied from the wrong label.",
                device(id),
                device(other)
            ),
            K::NowhereToSend { device: id } => format!(
                "{} is spoken to on the network and has no address. Enter it in Kit, at Records of the device.",
                device(id)
            ),
            K::NoAddress { device: id } => {
                format!("{} is controlled over the network, but it has no address. Enter it in Addresses.", device(id))
            }
            K::NotReserved { device: id, ip } => format!(
                "The address of {} is not reserved. After a power cut it can get another one, and nothing reaches it any more. Reserve {ip} in the router, and tick it here.",
                device(id)
            ),
            K::NoMac { device: id } => {
                format!("{} is woken over the network; that needs its MAC address. Enter it in Addresses.", device(id))
            }
            K::WrongBand { device: id } => format!(
                "{} has a radio for 2.4 GHz alone and cannot join a 5 GHz network. Join it to the 2.4 GHz one.",
                device(id)
            ),
            _ => return None,
        })
    }

    fn of_codes(&self, kind: &FindingKind) -> Option<String> {
        use FindingKind as K;
        let (device, name) = (
            |id: &DeviceId| self.device(*id),
            |id: &DeviceId, function: &crate::id::FunctionId| self.site.function_name(*id, *function),
        );
        Some(match kind {
            K::BothReact { device: id, function, other, other_function, code } => format!(
                "{} “{}” and {} “{}” are the same code ({code}): both will react to either. Give one of them another address, or shield its window.",
                device(other),
                name(other, other_function),
                device(id),
                name(id, function)
            ),
            K::ToggleNotTwo { device: id, function, first, code } => format!(
                "“{}” and “{}” on {} hold the same code ({code}). They differ in the toggle bit alone, which flips at every press: it is one key that does both, or one was learned from the wrong key.",
                name(id, first),
                name(id, function),
                device(id)
            ),
            K::SameCode { device: id, function, first, code } => format!(
                "“{}” and “{}” on {} hold the same code ({code}). One of them was learned from the wrong key: learn it again.",
                name(id, first),
                name(id, function),
                device(id)
            ),
            K::Swapped { device: id, why, .. } => {
                format!("On and off of {} are swapped: {why}. Exchange them in Codes.", device(id))
            }
            K::TestFailed { device: id, function, effect, note } => {
                let note = if note.is_empty() { String::new() } else { format!(" ({})", note.trim_end_matches('.')) };
                format!(
                    "“{}” of {} was tested, and {}{note}. Learn it again, or send it another way.",
                    name(id, function),
                    device(id),
                    effect.words()
                )
            }
            K::CodeMissing { device: id, function } => format!(
                "{} has no code for “{}”, so no macro that needs it can be sent. Paste a capture of that key in Codes.",
                device(id),
                name(id, function)
            ),
            _ => return None,
        })
    }

    fn of_plans(&self, kind: &FindingKind) -> Option<String> {
        use FindingKind as K;
        let device = |id: &DeviceId| self.device(*id);
        Some(match kind {
            K::NoActivity => "This activity is not in this room any more. Choose another one.".to_owned(),
            K::NoPath { activity, source, sink, picture } => format!(
                "No cable brings the {} of {} to {}. Wire them in Kit, or choose other devices for {}.",
                if *picture { "picture" } else { "sound" },
                device(source),
                device(sink),
                self.activity(*activity)
            ),
            K::TwoInputs { activity, device: id } => format!(
                "{} would need two inputs at once: one for the picture and one for the sound of {}.",
                device(id),
                self.activity(*activity)
            ),
            K::Elsewhere { device: id, .. } => format!(
                "{} does not serve this room. Tick the room at the device in Kit, or choose another device.",
                device(id)
            ),
            K::SettingLeftOut { activity, device: id, mode, value, known } => {
                let why = if *known { "the activity does not use it" } else { "it has no such setting" };
                format!(
                    "{} wants “{mode}: {value}” of {}, but {why}. Take it out of the activity, or mend it in Kit.",
                    self.activity(*activity),
                    device(id)
                )
            }
            K::NoSuchApp { activity, source, app } => format!(
                "{} wants “{app}” of {}, which does not know it. Choose another one in the activity, or add it in Kit.",
                self.activity(*activity),
                device(source)
            ),
            K::Hidden { activity, display, screen } => format!(
                "{} is seen on {}, which stands behind {}: with the screen down nobody sees it. Let {} stay up in this activity.",
                self.activity(*activity),
                device(display),
                device(screen),
                device(screen)
            ),
            K::CutOff { device: id, screen } => format!(
                "{} stands behind {}, which stays down here: infrared does not reach it. Give it another path in Kit, or let the screen up first.",
                device(id),
                device(screen)
            ),
            _ => return self.of_course(kind),
        })
    }

    /// How a plan goes: what cannot be brought about, what a hand has changed, what moves.
    fn of_course(&self, kind: &FindingKind) -> Option<String> {
        use FindingKind as K;
        let device = |id: &DeviceId| self.device(*id);
        Some(match kind {
            K::NoSafeWay { device: id, wish, why } => format!(
                "{} cannot be brought to “{wish}” for certain: {}. See the remedies in Sequences.",
                device(id),
                no_way(why)
            ),
            K::OrderNotKept => "The order rules and the times pinned by hand cannot all be kept with these devices; the plan that is shown leaves the pins, or else the rules, aside. Take one of them out.".to_owned(),
            K::ShorterThanEvidence { device: id, function, ms, evidence_ms } => format!(
                "The pause before “{}” of {} was set to {} by hand; by the evidence it takes up to {}. The proof shows what that can lead to.",
                self.site.function_name(*id, *function),
                device(id),
                seconds(*ms),
                seconds(*evidence_ms)
            ),
            K::LongerThanList { device: id, function, ms, closes_ms } => format!(
                "The pause before “{}” of {} was set to {} by hand; the list closes after {}.",
                self.site.function_name(*id, *function),
                device(id),
                seconds(*ms),
                seconds(*closes_ms)
            ),
            K::KeepClear { device: id, stop: true } => format!(
                "{} moves when a macro runs. Keep people and things clear of it, and its Stop key within reach.",
                device(id)
            ),
            K::KeepClear { device: id, stop: false } => format!(
                "{} moves when a macro runs and has no Stop key. Keep people and things clear of it, and add a stop.",
                device(id)
            ),
            K::AtRisk { from, to, story, .. } => format!(
                "{} → {} is at risk. {story} See its story and the remedies.",
                situation_name(self.site, *from),
                situation_name(self.site, *to)
            ),
            K::WantedTwice { device: id, room, here, there } => format!(
                "{} serves {} too: {here} here and {there} there want it in different states, so both cannot run at once.",
                device(id),
                self.room(*room)
            ),
            K::LooksAlike { one, other } => format!(
                "{} and {} can look the same to what the devices tell, so neither is adopted when both fit. Let the source tell whether it is on, or switch one of the two rules off.",
                situation_name(self.site, *one),
                situation_name(self.site, *other)
            ),
            K::OneName { device: id, name, inputs } => format!(
                "{} reports {} with one name, “{name}”: it cannot be told which of them it shows. Rename one in the device's own settings and read the names back in Kit.",
                device(id),
                and(inputs)
            ),
            _ => return None,
        })
    }

    fn of_cues(&self, kind: &FindingKind) -> Option<String> {
        use FindingKind as K;
        let (line, zone) = (|id: &CueId| self.line(*id), |id: &ZoneId| self.zone(*id));
        Some(match kind {
            K::Fight { cue, other, on, zone: differs } => {
                let when = on.as_ref().map(|day| format!(" (on {day}, for one)")).unwrap_or_default();
                let what = differs.map_or_else(
                    || "one sets a look, the other what was before it".to_owned(),
                    |d| format!("set {} to {} % and {} %", self.zone(d.zone), d.percent, d.other_percent),
                );
                format!(
                    "“{}” and “{}” can come at the same moment{when} and {what}: the lower one on the sheet wins. Give one of them a condition that the other excludes, or one look.",
                    line(cue),
                    line(other)
                )
            }
            K::NeverFires { cue, why } => format!("“{}” never fires: {why}.", line(cue)),
            K::Ring { cues } => {
                let lines: Vec<String> = cues.iter().map(|cue| format!("“{}”", line(cue))).collect();
                format!(
                    "{} lead to each other without end; only the first round is carried out. Take one step out.",
                    lines.join(" → ")
                )
            }
            K::NeverReset { switch, .. } => format!(
                "{switch} is switched on and never off again. Let a cue switch it off, or give it a time after which it goes off by itself."
            ),
            K::NoWayOut => "Looks of this room are dark, and nobody has said which zones light the way out. Name them: Cues ▸ Zones and looks ▸ Way out.".to_owned(),
            K::Dark { cue, zone: id, percent, least_percent, walk_s, arrival } => {
                let leaving = arrival.is_none();
                format!(
                    "“{}” sets {} to {percent} % {} in the dark{}; the way needs {least_percent} %{}. Raise it{}.",
                    line(cue),
                    zone(id),
                    if leaving { "on the way out" } else { "on arrival" },
                    arrival.map(|activity| format!(" ({})", self.activity(activity))).unwrap_or_default(),
                    if leaving { format!(" for {walk_s} s") } else { String::new() },
                    if leaving { format!(", or let it fade over {walk_s} s") } else { String::new() }
                )
            }
            K::SlowLight { cue, zone: id, fade_ms } => format!(
                "“{}” lights {} over {} s on the way out: it should be there within a second.",
                line(cue),
                zone(id),
                f64::from(*fade_ms) / 1000.0
            ),
            K::NothingLit { zone: id, least_percent } => format!(
                "Nothing lights {} on the way out in the dark, and a look of this room dims it. Add a cue: finish · dark outside · a look with {} at {least_percent} % or more.",
                zone(id),
                zone(id)
            ),
            _ => return self.of_zones(kind),
        })
    }

    /// What zones, lamps and loudspeakers do that they should not.
    fn of_zones(&self, kind: &FindingKind) -> Option<String> {
        use FindingKind as K;
        let (line, zone) = (|id: &CueId| self.line(*id), |id: &ZoneId| self.zone(*id));
        Some(match kind {
            K::Flash { cue, other, zone: id } => format!(
                "“{}” and “{}” can change {} more than three times a second, which can cause a seizure. Let one of them fade over half a second.",
                line(cue),
                line(other),
                zone(id)
            ),
            K::NoDimmer { zone: id } => {
                format!("{} is fed by nothing that dims. Choose its dimmer: Cues ▸ Zones and looks.", zone(id))
            }
            K::BelowFloor { look, zone: id, percent, floor_percent } => format!(
                "{look} sets {} to {percent} %: below {floor_percent} % its lamp drops out. Choose 0 % or at least {floor_percent} %.",
                zone(id)
            ),
            K::Loud { cue, device, percent, over_ceiling } => format!(
                "“{}”: {} speaks at {percent} % of its range{}, without a warning. Choose 50 % or less.",
                line(cue),
                self.device(*device),
                if *over_ceiling { ", above its ceiling" } else { "" }
            ),
            K::UnattendedHeat { cue, device } => self.unattended(*cue, &self.device(*device), "heats"),
            K::UnattendedMovement { cue, device, activity } => {
                let name = device.map(|id| self.device(id)).or_else(|| activity.map(|id| self.activity(id)));
                self.unattended(*cue, &name.unwrap_or_default(), "moves")
            }
            K::LookToReview { look, by } => format!(
                "{by} stored other levels in {look}. Keep them or put the old ones back before anything is engraved."
            ),
            _ => return None,
        })
    }

    fn unattended(&self, cue: CueId, name: &str, what: &str) -> String {
        format!(
            "“{}” starts {name}, which {what}, by the clock, whether anybody is there or not. Let somebody press a key for it who sees it.",
            self.line(cue)
        )
    }

    fn of_surfaces(&self, kind: &FindingKind) -> Option<String> {
        use FindingKind as K;
        Some(match kind {
            K::KeyDoesNothing { surface, key } => {
                format!("{} does nothing. Give it something to do, or take it away.", self.key(*surface, *key))
            }
            K::Idle { surface, key, activities } => {
                let names: Vec<String> = activities.iter().map(|id| self.activity(*id)).collect();
                format!("{} does nothing in {}.", self.key(*surface, *key), names.join(", "))
            }
            K::TwoMeanings { surface, key, gesture } => format!(
                "{} means two things when it is {}. Take one of them away, or give it another gesture.",
                self.key(*surface, *key),
                gesture.words()
            ),
            K::HeldTwice { surface, key } => format!(
                "{} goes on while it is held, and has a meaning of its own for a hold: both happen. Choose one.",
                self.key(*surface, *key)
            ),
            K::CueToo { surface, key, gesture } => format!(
                "{} has a cue of its own for being {}, and does something here too: both happen.",
                self.key(*surface, *key),
                gesture.words()
            ),
            K::SlowTap { surface, key } => format!(
                "{} is tapped again and again, and its double tap makes every tap wait for {} ms. Use a hold instead.",
                self.key(*surface, *key),
                crate::model::DOUBLE_MS
            ),
            K::SmallKey { surface, key, wide_tenths, high_tenths, least_tenths } => format!(
                "{} is {} × {} mm: below {} mm fingers miss it. Make it larger, or the grid coarser.",
                self.key(*surface, *key),
                tenths(*wide_tenths),
                tenths(*high_tenths),
                least_tenths / 10
            ),
            K::FaintLabel { surface, key, contrast_tenths, least_tenths } => format!(
                "{} has a contrast of {} to 1; {} to 1 can be read (WCAG 2.2, AA). Choose colours further apart.",
                self.key(*surface, *key),
                tenths(*contrast_tenths),
                tenths(*least_tenths)
            ),
            K::LabelTooLong { surface, key, letters, lines } => {
                let height = self.site.surface(*surface).map_or(0, |known| known.letter_tenths_mm);
                let (label, name) = (self.key(*surface, *key), self.surface(*surface));
                let label = label.trim_end_matches(&format!(" on {name}")).to_owned();
                format!(
                    "{label} does not fit on its key on {name}: {letters} letters on {lines} lines do, {} mm high.",
                    tenths(u32::from(height))
                )
            }
            K::LabelSaysOtherwise { surface, key, does } => {
                format!("{} {does}. Change the label or the key.", self.key(*surface, *key))
            }
            _ => return self.of_use(kind),
        })
    }

    /// Whether a surface can be used: by a guest, by voice, and as well as what was there before.
    fn of_use(&self, kind: &FindingKind) -> Option<String> {
        use FindingKind as K;
        Some(match kind {
            K::NoStop { surface, page, device, known } => format!(
                "{} can be moved from “{page}” of {} and not be stopped there. {}",
                self.device(*device),
                self.surface(*surface),
                if *known {
                    "Put its stop, or a key that stops everything, beside it."
                } else {
                    "It has no stop that is known here: learn one, or leave it to somebody who stands beside it."
                }
            ),
            K::ActivityWithoutKey { surface, activity } => {
                format!("No key of {} starts {}.", self.surface(*surface), self.activity(*activity))
            }
            K::GuestAsks { surface, activity, label, why, .. } => format!(
                "On the way to {} a guest presses “{label}” on {}. {why}",
                self.activity(*activity),
                self.surface(*surface)
            ),
            K::GuestStuck { surface, activity, missing } => format!(
                "A guest gets stuck on the way to {} on {}: {missing}",
                self.activity(*activity),
                self.surface(*surface)
            ),
            K::LessThanBefore { surface, missing } => {
                let count: usize = missing.iter().map(|one| one.functions.len()).sum();
                let list: Vec<String> = missing
                    .iter()
                    .map(|one| format!("{}: {}", self.device(one.device), one.functions.join(", ")))
                    .collect();
                format!(
                    "{count} functions of the old remotes are on no key of {}. {}.",
                    self.surface(*surface),
                    list.join("; ")
                )
            }
            K::DeadKeys { surface, keys } => {
                format!("Keys of {} that do nothing: {}.", self.surface(*surface), keys.join(", "))
            }
            K::NamesCollide { name, with, why, instead, .. } => {
                let verb = match why {
                    Likeness::SoundsAlike => "sounds like",
                    Likeness::Contained => "shares words with",
                    Likeness::Same => "is also the name of",
                };
                let instead = instead.as_ref().map_or_else(String::new, |name| format!(" “{name}” would not."));
                format!("“{name}” {verb} {with}.{instead}")
            }
            K::NotSynced { fresh, gone, .. } => format!(
                "{fresh} phrases are new and {gone} are gone since the voice service was told: synchronise it, then mark that here."
            ),
            _ => return None,
        })
    }
}

fn no_way(why: &NoWay) -> String {
    match why {
        NoWay::Proved { states, minimal } => match states.as_slice() {
            [] => "no sequence of its keys ends right from every state it may be in".to_owned(),
            [only] => format!("from “{only}” no sequence of its keys leads there"),
            [a, b] => format!("no sequence of its keys ends right both from “{a}” and from “{b}”"),
            more if *minimal => format!(
                "no sequence of its keys ends right from all of “{}”, although each smaller part has one",
                more.join("”, “")
            ),
            more => format!(
                "no sequence of its keys ends right from all of {} states that it may be in, such as “{}” (whether fewer of them have none was not found out)",
                more.len(),
                more[..3].join("”, “")
            ),
        },
        NoWay::GaveUp { sets } => format!("the search for a sequence of keys was given up after {sets} sets of states"),
    }
}

/// Tenths of something: 45 → “4.5”.
fn tenths(value: u32) -> String {
    format!("{}.{}", value / 10, value % 10)
}
