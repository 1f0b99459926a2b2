import { z } from "zod";
import type { Cable, Feedback, Profile, Selection, Sense, Span, Tell } from "../../api/types";
import { RULES } from "../../api/rules";
import { parseSeconds, seconds } from "../../ui/time";
import { CABLES } from "./words";

// The parts of a profile as a form: each part says its fields once, as they are typed, and how they stand in a profile.

/** A key that a form refers to: a function's id, or `new:` and the name of one to be added. */
export type KeyRef = string;

export const name = (what: string) =>
  z.string().trim().min(1, `${what}: give it a name.`).max(80, `${what}: at most 80 characters fit.`);

const time = z.string().refine((text) => parseSeconds(text) !== undefined, "Seconds, such as 12 or 29.4.");

const span = z
  .object({
    lo: time,
    hi: time,
    basis: z.enum(["assumed", "profile", "measured", "confirmed"]),
    n: z
      .string()
      .refine((text) => /^[1-9]\d{0,5}$/.test(text.trim()), "How often it was measured, 1 or more."),
  })
  .refine((value) => (parseSeconds(value.lo) ?? 0) <= (parseSeconds(value.hi) ?? 0), {
    path: ["hi"],
    message: "The longest time is shorter than the shortest.",
  });

const key = z.string().min(1, "Choose a key.");

const whole = z.string().refine((text) => /^\d{1,5}$/.test(text.trim()), "A whole number.");

const plug = z.enum(CABLES.map(([cable]) => cable) as [Cable, ...Cable[]]);

/** Which input is chosen after power-on, as a form value. */
export const LAST = "last";

/** A stop key that does not exist. */
export const NO_KEY = "none";

export type SpanForm = z.infer<typeof span>;

function spanForm(value: Span): SpanForm {
  const plain = (ms: number) => seconds(ms).replace(" s", "");
  return {
    lo: plain(value.lo_ms),
    hi: plain(value.hi_ms),
    basis: value.basis.from,
    n: value.basis.from === "measured" ? String(value.basis.n) : "1",
  };
}

function spanValue(form: SpanForm): Span {
  return {
    lo_ms: parseSeconds(form.lo) ?? 0,
    hi_ms: parseSeconds(form.hi) ?? 0,
    basis: form.basis === "measured" ? { from: "measured", n: Number(form.n) } : { from: form.basis },
  };
}

const plainSeconds = (ms: number) => seconds(ms).replace(" s", "");

const list = (text: string) =>
  text
    .split(",")
    .map((part) => part.trim())
    .filter((part) => part !== "");

/** What a form begins with where a model has nothing yet. */
const SPANS = RULES.spans;

const NONE: Span = { lo_ms: 0, hi_ms: 0, basis: { from: "profile" } };

/** The key that a profile has under this name, or one that is still to be added. */
const finder = (profile: Profile) => (label: string) =>
  profile.functions.find((f) => f.name === label)?.id ?? `new:${label}`;

/** Gives the id of a key, and adds it to the functions where it is new. */
export type KeyOf = (ref: KeyRef) => string;

/** How it is switched. */
const powerFields = {
  power: z.enum(["always-on", "discrete", "toggle", "network-wake", "follows"]),
  on: key,
  off: key,
  toggle: key,
  wake: key,
  wakeKeys: z.array(z.string()),
  followDelay: span,
  standsBy: z.boolean(),
  autoStandby: span,
  afterMains: z.enum(["off", "on", "last"]),
};

function powerForm(profile: Profile) {
  const find = finder(profile);
  const { power } = profile;
  return {
    power: power.how,
    on: power.how === "discrete" ? power.on : find("Power on"),
    off: power.how === "discrete" || power.how === "network-wake" ? power.off : find("Power off"),
    wake: power.how === "network-wake" ? power.wake : find("Wake"),
    wakeKeys: profile.wake_keys ?? [],
    followDelay: spanForm(power.how === "follows" ? power.delay : SPANS.follow_delay),
    standsBy: Boolean(profile.auto_standby),
    autoStandby: spanForm(profile.auto_standby ?? SPANS.auto_standby),
    afterMains: profile.after_mains ?? ("off" as const),
    toggle: power.how === "toggle" ? power.key : find("Power"),
  };
}

function powerValue(form: PartsForm, key: KeyOf): Profile["power"] {
  return form.power === "discrete"
    ? { how: "discrete", on: key(form.on), off: key(form.off) }
    : form.power === "toggle"
      ? { how: "toggle", key: key(form.toggle) }
      : form.power === "network-wake"
        ? { how: "network-wake", wake: key(form.wake), off: key(form.off) }
        : form.power === "follows"
          ? { how: "follows", delay: spanValue(form.followDelay) }
          : { how: "always-on" };
}

/** How long things take. */
const timesFields = {
  warmUp: span,
  picture: span,
  coolDown: span,
  inputChange: span,
  gap: time,
  gapBasis: z.enum(["assumed", "profile", "measured", "confirmed"]),
  gapN: z.number(),
  digits: span,
};

function timesForm({ times }: Profile) {
  return {
    warmUp: spanForm(times.warm_up),
    picture: spanForm(times.picture),
    coolDown: spanForm(times.cool_down),
    inputChange: spanForm(times.input),
    gap: plainSeconds(times.gap_ms),
    gapBasis: times.gap_basis?.from ?? ("assumed" as const),
    gapN: times.gap_basis?.from === "measured" ? times.gap_basis.n : 1,
    digits: spanForm(times.digits ?? SPANS.digits),
  };
}

function timesValue(form: PartsForm): Profile["times"] {
  const switched = form.power !== "always-on" && form.power !== "follows";
  return {
    warm_up: switched ? spanValue(form.warmUp) : NONE,
    picture: switched ? spanValue(form.picture) : NONE,
    cool_down: switched ? spanValue(form.coolDown) : NONE,
    input: form.selection === "none" ? NONE : spanValue(form.inputChange),
    gap_ms: parseSeconds(form.gap) ?? 0,
    gap_basis: form.gapBasis === "measured" ? { from: "measured", n: form.gapN } : { from: form.gapBasis },
    digits: spanValue(form.digits),
  };
}

/** How its input is chosen, and which one it has after power-on. */
const selectionFields = {
  afterPowerOn: z.string(),
  selection: z.enum(["none", "discrete", "cycle", "menu"]),
  open: key,
  next: key,
  previous: key,
  confirm: key,
  opens: z.enum(["current", "first", "last-used"]),
  ends: z.enum(["wrap", "clamp"]),
  closesAfter: span,
};

function selectionForm(profile: Profile) {
  const find = finder(profile);
  const { selection } = profile;
  const menu = selection.how === "menu" ? selection : undefined;
  const cycle = selection.how === "cycle" ? selection : undefined;
  return {
    afterPowerOn: profile.after_power_on.input === "fixed" ? profile.after_power_on.id : LAST,
    selection: selection.how,
    open: menu?.open ?? find("Source"),
    next: menu?.next ?? cycle?.next ?? find(menu ? "Right" : "Next input"),
    previous: menu?.previous ?? cycle?.previous ?? find(menu ? "Left" : "Previous input"),
    confirm: menu?.confirm ?? find("OK"),
    opens: menu?.opens ?? ("first" as const),
    ends: menu?.ends ?? ("clamp" as const),
    closesAfter: spanForm(menu?.closes_after ?? SPANS.closes_after),
  };
}

function selectionValue(form: PartsForm, key: KeyOf): Selection {
  switch (form.selection) {
    case "none":
      return { how: "none" };
    case "discrete":
      return { how: "discrete" };
    case "cycle":
      return {
        how: "cycle",
        next: key(form.next),
        previous: form.previous === NO_KEY ? null : key(form.previous),
      };
    case "menu":
      return {
        how: "menu",
        open: key(form.open),
        next: key(form.next),
        previous: key(form.previous),
        confirm: key(form.confirm),
        opens: form.opens,
        ends: form.ends,
        closes_after: spanValue(form.closesAfter),
      };
  }
}

/** What moves, and where it may stop. */
const motionFields = {
  moves: z.boolean(),
  up: key,
  down: key,
  stop: z.string(),
  travelUp: span,
  travelDown: span,
  reversal: time,
  stopsBetween: z.boolean(),
  hides: z.boolean(),
  stops: z.array(
    z.object({
      name: name("Stop"),
      key,
      percent: z.string().refine((text) => /^[1-9]\d?$/.test(text.trim()), "1 to 99."),
      /** When it is stopped; none where a key of its own drives it there. */
      timed: z.object({ after_ms: z.number(), late_ms: z.number(), spread_per_mille: z.number() }).nullish(),
    }),
  ),
};

function motionForm(profile: Profile) {
  const find = finder(profile);
  const { motion } = profile;
  return {
    moves: motion !== null && motion !== undefined,
    up: motion?.up ?? find("Up"),
    down: motion?.down ?? find("Down"),
    stop: motion ? (motion.stop ?? NO_KEY) : find("Stop"),
    travelUp: spanForm(motion?.travel_up ?? SPANS.travel),
    travelDown: spanForm(motion?.travel_down ?? SPANS.travel),
    reversal: plainSeconds(motion?.reversal_ms ?? 500),
    stopsBetween: motion?.stops_between ?? true,
    hides: motion?.hides ?? false,
    stops: (profile.stops ?? []).map((stop) => ({
      name: stop.name,
      key: stop.key,
      percent: String(stop.down_percent),
      ...(stop.timed && { timed: stop.timed }),
    })),
  };
}

function motionValue(form: PartsForm, key: KeyOf): Profile["motion"] {
  return form.moves
    ? {
        up: key(form.up),
        down: key(form.down),
        stop: form.stop === NO_KEY ? null : key(form.stop),
        travel_up: spanValue(form.travelUp),
        travel_down: spanValue(form.travelDown),
        reversal_ms: parseSeconds(form.reversal) ?? 0,
        stops_between: form.stopsBetween,
        hides: form.hides,
      }
    : null;
}

function stopsValue(form: PartsForm, key: KeyOf): NonNullable<Profile["stops"]> {
  return form.moves
    ? form.stops.map((stop) => ({
        name: stop.name,
        key: key(stop.key),
        down_percent: Number(stop.percent),
        ...(stop.timed && { timed: stop.timed }),
      }))
    : [];
}

/** Loudness and silence. */
const volumeFields = {
  loud: z.boolean(),
  volumeUp: key,
  volumeDown: key,
  volumeStep: time,
  volumeRange: whole,
  volumeCeiling: whole,
  volumeStart: z
    .string()
    .refine((text) => text.trim() === "" || /^\d+$/.test(text.trim()), "A number, or nothing."),
  volumeAbsolute: z.boolean(),
  volumeDecibels: z.boolean(),
  skips: z.boolean(),
  skipBack: key,
  skipBackSeconds: whole,
  skipForward: key,
  skipForwardSeconds: whole,
  mute: z.enum(["none", "toggle", "discrete"]),
  muteKey: key,
  muteOn: key,
  muteOff: key,
};

function volumeForm(profile: Profile) {
  const find = finder(profile);
  const { volume } = profile;
  return {
    loud: Boolean(volume),
    volumeUp: volume?.up ?? find("Volume up"),
    volumeDown: volume?.down ?? find("Volume down"),
    volumeStep: String((volume?.step_tenths ?? 10) / 10),
    volumeRange: String(volume?.range ?? 100),
    volumeCeiling: String(volume?.ceiling ?? 70),
    volumeStart: volume?.after_power_on == null ? "" : String(volume.after_power_on),
    volumeAbsolute: volume?.absolute ?? false,
    volumeDecibels: volume?.decibels ?? false,
    skips: Boolean(profile.skips),
    skipBack: profile.skips?.back ?? find("Rewind"),
    skipBackSeconds: String(profile.skips?.back_s ?? 10),
    skipForward: profile.skips?.forward ?? find("Forward"),
    skipForwardSeconds: String(profile.skips?.forward_s ?? 30),
    mute: volume?.mute?.how ?? ("none" as const),
    muteKey: volume?.mute?.how === "toggle" ? volume.mute.key : find("Mute"),
    muteOn: volume?.mute?.how === "discrete" ? volume.mute.on : find("Mute on"),
    muteOff: volume?.mute?.how === "discrete" ? volume.mute.off : find("Mute off"),
  };
}

function volumeValue(form: PartsForm, key: KeyOf): NonNullable<Profile["volume"]> {
  return {
    up: key(form.volumeUp),
    down: key(form.volumeDown),
    step_tenths: Math.round(Number(form.volumeStep.replace(",", ".")) * 10),
    range: Number(form.volumeRange),
    ceiling: Number(form.volumeCeiling),
    after_power_on: form.volumeStart.trim() === "" ? null : Number(form.volumeStart),
    absolute: form.volumeAbsolute,
    decibels: form.volumeDecibels,
    mute:
      form.mute === "toggle"
        ? { how: "toggle", key: key(form.muteKey) }
        : form.mute === "discrete"
          ? { how: "discrete", on: key(form.muteOn), off: key(form.muteOff) }
          : null,
  };
}

/** How far one press of a source's own keys jumps. */
function skipsValue(form: PartsForm, key: KeyOf): NonNullable<Profile["skips"]> {
  return {
    back: key(form.skipBack),
    back_s: Number(form.skipBackSeconds),
    forward: key(form.skipForward),
    forward_s: Number(form.skipForwardSeconds),
  };
}

/** Settings, apps and channels. */
const offeredFields = {
  modes: z.array(z.object({ name: name("Setting"), next: z.string(), values: z.string() })),
  apps: z.array(
    z.object({ name: name("App or channel"), by: z.enum(["launch", "digits"]), key, number: z.string() }),
  ),
};

function offeredForm(profile: Profile) {
  return {
    modes: (profile.modes ?? []).map((mode) => ({
      name: mode.name,
      next: mode.next ?? NO_KEY,
      values: mode.values.map((value) => value.name).join(", "),
    })),
    apps: (profile.apps ?? []).map((app) => ({
      name: app.name,
      by: app.reach.by,
      key: app.reach.by === "launch" ? app.reach.function : (profile.functions[0]?.id ?? `new:${app.name}`),
      number: app.reach.by === "digits" ? app.reach.number : "",
    })),
  };
}

function modesValue(form: PartsForm, profile: Profile, key: KeyOf): NonNullable<Profile["modes"]> {
  return form.modes.map((mode) => {
    const known = profile.modes?.find((old) => old.name === mode.name);
    return {
      name: mode.name,
      next: mode.next === NO_KEY ? null : key(mode.next),
      values: list(mode.values).map(
        (value) => known?.values.find((old) => old.name === value) ?? { name: value, select: null },
      ),
    };
  });
}

function appsValue(form: PartsForm, key: KeyOf): NonNullable<Profile["apps"]> {
  return form.apps.map((app) => ({
    name: app.name,
    reach:
      app.by === "launch"
        ? { by: "launch" as const, function: key(app.key) }
        : { by: "digits" as const, number: app.number.trim() },
  }));
}

/** What the others do to it over their cables, and it to them. */
const couplesFields = {
  couples: z.boolean(),
  couplesWakes: z.boolean(),
  couplesWoken: z.boolean(),
  couplesSleeps: z.boolean(),
  couplesPutToSleep: z.boolean(),
  couplesDelay: span,
};

function couplesForm(profile: Profile) {
  return {
    couples: Boolean(profile.couples),
    couplesWakes: profile.couples?.wakes ?? false,
    couplesWoken: profile.couples?.woken ?? false,
    couplesSleeps: profile.couples?.sleeps ?? false,
    couplesPutToSleep: profile.couples?.put_to_sleep ?? false,
    couplesDelay: spanForm(profile.couples?.delay ?? SPANS.couples_delay),
  };
}

function couplesValue(form: PartsForm): Profile["couples"] {
  return form.couples
    ? {
        wakes: form.couplesWakes,
        woken: form.couplesWoken,
        sleeps: form.couplesSleeps,
        put_to_sleep: form.couplesPutToSleep,
        delay: spanValue(form.couplesDelay),
      }
    : null;
}

/** What it tells. */
const feedbackFields = {
  feedback: z.enum(["none", "poll", "push", "sensor"]),
  feedbackEvery: time,
  feedbackTimeOut: time,
  feedbackDelay: time,
  feedbackTells: z.array(z.custom<Tell>()),
  feedbackSenses: z.custom<Sense>(),
};

function feedbackForm(profile: Profile) {
  const feedback: Feedback = profile.feedback ?? { how: "none" };
  return {
    feedback: feedback.how,
    feedbackEvery: plainSeconds(feedback.how === "poll" ? feedback.every_ms : 5_000),
    feedbackTimeOut: plainSeconds(feedback.how === "poll" ? feedback.time_out_ms : 1_000),
    feedbackDelay: plainSeconds(
      feedback.how === "push" || feedback.how === "sensor" ? feedback.delay_ms : 500,
    ),
    feedbackTells:
      feedback.how === "poll" || feedback.how === "push" ? feedback.tells : (["power", "input"] as Tell[]),
    feedbackSenses: feedback.how === "sensor" ? feedback.senses : ("power-draw" as const),
  };
}

function feedbackValue(form: PartsForm): Feedback {
  const delay_ms = parseSeconds(form.feedbackDelay) ?? 0;
  switch (form.feedback) {
    case "none":
      return { how: "none" };
    case "poll":
      return {
        how: "poll",
        every_ms: parseSeconds(form.feedbackEvery) ?? 0,
        time_out_ms: parseSeconds(form.feedbackTimeOut) ?? 0,
        tells: form.feedbackTells,
      };
    case "push":
      return { how: "push", delay_ms, tells: form.feedbackTells };
    case "sensor":
      return { how: "sensor", delay_ms, senses: form.feedbackSenses };
  }
}

/** Its inputs and outputs. */
const plugsFields = {
  inputs: z.array(
    z.object({ key: z.string(), name: name("Input"), cable: plug, select: z.string(), reports: z.string() }),
  ),
  outputs: z.array(z.object({ key: z.string(), name: name("Output"), cable: plug, returns: z.string() })),
};

function plugsForm(profile: Profile) {
  return {
    inputs: profile.inputs.map((input) => ({
      key: input.id,
      name: input.name,
      cable: input.cable,
      select: input.select ?? `new:${input.name}`,
      reports: input.reports ?? "",
    })),
    outputs: profile.outputs.map((output) => ({
      key: output.id,
      name: output.name,
      cable: output.cable,
      returns: output.returns ?? NO_KEY,
    })),
  };
}

function inputsValue(form: PartsForm, key: KeyOf): Profile["inputs"] {
  return form.inputs.map((input) => ({
    id: input.key,
    name: input.name,
    cable: input.cable,
    select: form.selection === "discrete" && input.cable !== "return-audio" ? key(input.select) : null,
    ...(input.reports.trim() ? { reports: input.reports.trim() } : {}),
  }));
}

/** The fields of all parts. */
export const partFields = {
  ...powerFields,
  ...timesFields,
  ...selectionFields,
  ...motionFields,
  ...volumeFields,
  ...offeredFields,
  ...couplesFields,
  ...feedbackFields,
  ...plugsFields,
};

/** The parts of a profile as they are typed. */
export type PartsForm = z.infer<z.ZodObject<typeof partFields>>;

/** The parts of a profile as a form. */
export function partsForm(profile: Profile): PartsForm {
  return {
    ...powerForm(profile),
    ...timesForm(profile),
    ...selectionForm(profile),
    ...motionForm(profile),
    ...volumeForm(profile),
    ...offeredForm(profile),
    ...couplesForm(profile),
    ...feedbackForm(profile),
    ...plugsForm(profile),
  };
}

/** The parts of a profile that a form stands for. */
export function partsValue(form: PartsForm, profile: Profile, key: KeyOf): Partial<Profile> {
  return {
    power: powerValue(form, key),
    wake_keys: form.power === "toggle" || form.power === "discrete" ? form.wakeKeys.map(key) : [],
    auto_standby: form.standsBy ? spanValue(form.autoStandby) : null,
    after_mains: form.afterMains,
    times: timesValue(form),
    after_power_on: form.inputs.some((input) => input.key === form.afterPowerOn)
      ? { input: "fixed" as const, id: form.afterPowerOn }
      : { input: "last" as const },
    selection: selectionValue(form, key),
    motion: motionValue(form, key),
    stops: stopsValue(form, key),
    volume: form.loud ? volumeValue(form, key) : null,
    ...(form.skips ? { skips: skipsValue(form, key) } : profile.skips ? { skips: null } : {}),
    modes: modesValue(form, profile, key),
    apps: appsValue(form, key),
    couples: couplesValue(form),
    feedback: feedbackValue(form),
    inputs: inputsValue(form, key),
    outputs: form.outputs.map((output) => ({
      id: output.key,
      name: output.name,
      cable: output.cable,
      ...(output.returns === NO_KEY ? {} : { returns: output.returns }),
    })),
  };
}
