import { z } from "zod";
import type { Device, Profile, Selection, Span } from "../../api/types";
import { parseSeconds, seconds } from "../../ui/time";

/** A key that a form refers to: a function's id, or `new:` and the name of one to be added. */
export type KeyRef = string;

const name = (what: string) =>
  z.string().trim().min(1, `${what}: give it a name.`).max(80, `${what}: at most 80 characters fit.`);

const time = z.string().refine((text) => parseSeconds(text) !== undefined, "Seconds, such as 12 or 29.4.");

const span = z
  .object({
    lo: time,
    hi: time,
    basis: z.enum(["assumed", "profile", "measured"]),
    n: z
      .string()
      .refine((text) => /^[1-9]\d{0,5}$/.test(text.trim()), "How often it was measured, 1 or more."),
  })
  .refine((value) => (parseSeconds(value.lo) ?? 0) <= (parseSeconds(value.hi) ?? 0), {
    path: ["hi"],
    message: "The longest time is shorter than the shortest.",
  });

const key = z.string().min(1, "Choose a key.");

/** The form of a device and its profile: texts as they are typed. */
export const formSchema = z.object({
  name: name("Name"),
  maker: name("Maker"),
  model: name("Model"),
  kind: z.enum([
    "disc-player",
    "streamer",
    "console",
    "tuner",
    "receiver",
    "sound-bar",
    "amplifier",
    "projector",
    "display",
    "screen",
    "blind",
  ]),
  medium: z.enum(["ir", "rf433"]),
  power: z.enum(["always-on", "discrete", "toggle"]),
  on: key,
  off: key,
  toggle: key,
  warmUp: span,
  picture: span,
  coolDown: span,
  inputChange: span,
  gap: time,
  afterPowerOn: z.string(),
  selection: z.enum(["none", "discrete", "cycle", "menu"]),
  open: key,
  next: key,
  previous: key,
  confirm: key,
  opens: z.enum(["current", "first"]),
  ends: z.enum(["wrap", "clamp"]),
  closesAfter: span,
  moves: z.boolean(),
  up: key,
  down: key,
  stop: z.string(),
  travelUp: span,
  travelDown: span,
  inputs: z.array(
    z.object({
      key: z.string(),
      name: name("Input"),
      cable: z.enum(["hdmi", "optical", "analogue", "speaker"]),
      select: z.string(),
    }),
  ),
  outputs: z.array(
    z.object({
      key: z.string(),
      name: name("Output"),
      cable: z.enum(["hdmi", "optical", "analogue", "speaker"]),
    }),
  ),
});

export type KitForm = z.infer<typeof formSchema>;
export type SpanForm = KitForm["warmUp"];

/** Which input is chosen after power-on, as a form value. */
export const LAST = "last";

/** A stop key that does not exist. */
export const NO_KEY = "none";

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

const NONE: Span = { lo_ms: 0, hi_ms: 0, basis: { from: "profile" } };

/** The form as it stands for a device. */
export function toForm(device: Device, profile: Profile): KitForm {
  const find = (label: string) => profile.functions.find((f) => f.name === label)?.id ?? `new:${label}`;
  const { power, selection, motion, times } = profile;
  const menu = selection.how === "menu" ? selection : undefined;
  const cycle = selection.how === "cycle" ? selection : undefined;
  return {
    name: device.name,
    maker: profile.maker,
    model: profile.model,
    kind: profile.kind,
    medium: profile.medium,
    power: power.how,
    on: power.how === "discrete" ? power.on : find("Power on"),
    off: power.how === "discrete" ? power.off : find("Power off"),
    toggle: power.how === "toggle" ? power.key : find("Power"),
    warmUp: spanForm(times.warm_up),
    picture: spanForm(times.picture),
    coolDown: spanForm(times.cool_down),
    inputChange: spanForm(times.input),
    gap: seconds(times.gap_ms).replace(" s", ""),
    afterPowerOn: profile.after_power_on.input === "fixed" ? profile.after_power_on.id : LAST,
    selection: selection.how,
    open: menu?.open ?? find("Source"),
    next: menu?.next ?? cycle?.next ?? find(menu ? "Right" : "Next input"),
    previous: menu?.previous ?? cycle?.previous ?? find(menu ? "Left" : "Previous input"),
    confirm: menu?.confirm ?? find("OK"),
    opens: menu?.opens ?? "first",
    ends: menu?.ends ?? "clamp",
    closesAfter: spanForm(menu?.closes_after ?? { lo_ms: 8000, hi_ms: 12000, basis: { from: "assumed" } }),
    moves: motion !== null && motion !== undefined,
    up: motion?.up ?? find("Up"),
    down: motion?.down ?? find("Down"),
    stop: motion ? (motion.stop ?? NO_KEY) : find("Stop"),
    travelUp: spanForm(
      motion?.travel_up ?? { ...NONE, lo_ms: 15000, hi_ms: 40000, basis: { from: "assumed" } },
    ),
    travelDown: spanForm(
      motion?.travel_down ?? { ...NONE, lo_ms: 15000, hi_ms: 40000, basis: { from: "assumed" } },
    ),
    inputs: profile.inputs.map((input) => ({
      key: input.id,
      name: input.name,
      cable: input.cable,
      select: input.select ?? `new:${input.name}`,
    })),
    outputs: profile.outputs.map((output) => ({ key: output.id, name: output.name, cable: output.cable })),
  };
}

/** The device and the profile that a form stands for; keys that are new are added to the functions. */
export function fromForm(
  form: KitForm,
  device: Device,
  profile: Profile,
): { device: Device; profile: Profile } {
  const functions = [...profile.functions];
  const key = (ref: KeyRef): string => {
    if (!ref.startsWith("new:")) return ref;
    const label = ref.slice(4);
    const known = functions.find((f) => f.name.toLowerCase() === label.toLowerCase());
    if (known) return known.id;
    const added = { id: crypto.randomUUID() as string, name: label };
    functions.push(added);
    return added.id;
  };
  const power: Profile["power"] =
    form.power === "discrete"
      ? { how: "discrete", on: key(form.on), off: key(form.off) }
      : form.power === "toggle"
        ? { how: "toggle", key: key(form.toggle) }
        : { how: "always-on" };
  const inputs = form.inputs.map((input) => ({
    id: input.key,
    name: input.name,
    cable: input.cable,
    select: form.selection === "discrete" ? key(input.select) : null,
  }));
  const fixed = inputs.some((input) => input.id === form.afterPowerOn);
  return {
    device: { ...device, name: form.name },
    profile: {
      ...profile,
      maker: form.maker,
      model: form.model,
      kind: form.kind,
      medium: form.medium,
      power,
      after_power_on: fixed ? { input: "fixed", id: form.afterPowerOn } : { input: "last" },
      selection: selectionValue(form, key),
      motion: form.moves
        ? {
            up: key(form.up),
            down: key(form.down),
            stop: form.stop === NO_KEY ? null : key(form.stop),
            travel_up: spanValue(form.travelUp),
            travel_down: spanValue(form.travelDown),
          }
        : null,
      times: {
        warm_up: form.power === "always-on" ? NONE : spanValue(form.warmUp),
        picture: form.power === "always-on" ? NONE : spanValue(form.picture),
        cool_down: form.power === "always-on" ? NONE : spanValue(form.coolDown),
        input: form.selection === "none" ? NONE : spanValue(form.inputChange),
        gap_ms: parseSeconds(form.gap) ?? 0,
      },
      inputs,
      outputs: form.outputs.map((output) => ({ id: output.key, name: output.name, cable: output.cable })),
      functions,
    },
  };
}

function selectionValue(form: KitForm, key: (ref: KeyRef) => string): Selection {
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

/** A profile of a kind with the figures that are common practice, all of them said to be assumed. */
export function newProfile(kind: Profile["kind"], maker: string, model: string): Profile {
  const moving = kind === "screen" || kind === "blind";
  const assumed = (lo_ms: number, hi_ms: number): Span => ({ lo_ms, hi_ms, basis: { from: "assumed" } });
  const id = () => crypto.randomUUID() as string;
  const functions = (moving ? ["Up", "Down", "Stop"] : ["Power on", "Power off"]).map((label) => ({
    id: id(),
    name: label,
  }));
  const [first = "", second = "", third] = functions.map((f) => f.id);
  const times: Partial<Record<Profile["kind"], [Span, Span]>> = {
    projector: [assumed(20_000, 60_000), assumed(60_000, 120_000)],
    receiver: [assumed(4_000, 8_000), assumed(1_000, 3_000)],
  };
  const [on, off] = times[kind] ?? [assumed(5_000, 20_000), assumed(1_000, 5_000)];
  const sinks: Profile["kind"][] = ["receiver", "sound-bar", "amplifier", "projector", "display"];
  const gives: Profile["kind"][] = ["disc-player", "streamer", "console", "tuner", "receiver"];
  return {
    id: id(),
    maker,
    model,
    kind,
    medium: moving ? "rf433" : "ir",
    power: moving ? { how: "always-on" } : { how: "discrete", on: first, off: second },
    after_power_on: { input: "last" },
    selection: { how: "none" },
    motion: moving
      ? {
          up: first,
          down: second,
          stop: third ?? null,
          travel_up: assumed(15_000, 40_000),
          travel_down: assumed(15_000, 40_000),
        }
      : null,
    times: moving
      ? { warm_up: NONE, picture: NONE, cool_down: NONE, input: NONE, gap_ms: 500 }
      : { warm_up: on, picture: on, cool_down: off, input: NONE, gap_ms: kind === "projector" ? 1000 : 300 },
    inputs: sinks.includes(kind) ? [{ id: id(), name: "HDMI 1", cable: "hdmi", select: null }] : [],
    outputs: gives.includes(kind) ? [{ id: id(), name: "HDMI out", cable: "hdmi" }] : [],
    functions,
  };
}
