import type { Looked, ProtocolLook, Reading } from "../../api/types";

const MARK = "irp:";

/** What a protocol is called: one that somebody has described is written with its description. */
export function protocolName(written: string): string {
  return written.startsWith(MARK) ? (written.slice(MARK.length).split("{")[0] ?? written) : written;
}

/** What a drawing calls a field of a description that is not kept yet: “field 1” is the first of its fields. */
export function labelled(looked: Looked): Looked {
  const name = (label: string) => {
    const at = /^field (\d)$/.exec(label)?.[1];
    return at ? (looked.fields[Number(at) - 1]?.name ?? label) : label;
  };
  return { ...looked, parts: looked.parts.map((part) => ({ ...part, label: name(part.label) })) };
}

/** A description as the reading of its own frame, so that it is drawn as any other. */
export function drawnOf(name: string, own: Looked): Reading {
  const looked = labelled(own);
  const fields = Object.fromEntries(looked.fields.map((field) => [field.name, field.default ?? 0]));
  const length = looked.frame.reduce((sum, us) => sum + us, 0);
  const best = {
    protocol: name,
    fields,
    confidence: 1,
    frames_matched: 1,
    held_signs: 0,
    frames_total: 1,
    stretch_us: 0,
    unit_error_percent: 0,
    worst_error_us: 0,
    rms_error_us: 0,
    carrier_hz: looked.carrier_hz,
    period_us: null,
    whole_repeats: false,
    frame_start_us: 0,
    parts: looked.parts,
    errors_us: looked.frame.map(() => 0),
    remarks: [],
  };
  return {
    best,
    candidates: [best],
    why: "",
    cleaned: { durations_us: looked.frame, removed: [] },
    frames: [{ start_us: 0, length_us: length, durations: looked.frame.length, gap_us: null }],
  };
}

/** The fields of a description with their ranges, in words. */
export function fieldWords(looked: Looked): string {
  return looked.fields
    .map(
      (field) => `${field.name} 0–${field.max}${field.default == null ? "" : `, usually ${field.default}`}`,
    )
    .join("; ");
}

/** A description before, at and behind the place of its mistake. */
export function aroundMistake(
  irp: string,
  look: Pick<ProtocolLook, "at"> | undefined,
): [string, string, string] | undefined {
  if (look?.at == null) return undefined;
  const chars = [...irp];
  return [chars.slice(0, look.at).join(""), chars[look.at] ?? " ", chars.slice(look.at + 1).join("")];
}

/** A carrier that was measured is the protocol's own where it is not further off than this, as a share. */
const SAME_CARRIER = 0.01;

/** The carrier to keep with a message: what was captured, where that is not the protocol's own. */
export function carrierOf(measured: number | null | undefined, own: number): { carrier_hz?: number } {
  if (!measured || Math.abs(measured / own - 1) <= SAME_CARRIER) return {};
  return { carrier_hz: measured };
}
