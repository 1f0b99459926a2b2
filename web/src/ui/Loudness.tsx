import type { LoudUnit } from "../api/types";
import { Figure, Pick } from "./Inline";

const UNITS: readonly (readonly [LoudUnit, string])[] = [
  ["steps", "steps louder"],
  ["percent", "% of the scale louder"],
  ["decibels", "dB louder"],
];

/** How much louder, in what; softer where it is negative. */
export function LoudnessParts({
  steps,
  unit,
  onChange,
}: {
  steps: number;
  unit: LoudUnit | undefined;
  onChange: (next: { steps: number; unit: LoudUnit }) => void;
}) {
  const own = unit ?? "steps";
  return (
    <>
      <Figure label="Steps" unit="" value={steps} onChange={(to) => onChange({ steps: to, unit: own })} />
      <Pick
        label="Counted in"
        value={own}
        options={UNITS}
        onChange={(to) => onChange({ steps, unit: to as LoudUnit })}
      />
    </>
  );
}

/** An amount in words: “3 steps louder”, “10 % softer”. */
export function loudnessWords(steps: number, unit: LoudUnit | undefined): string {
  const by = Math.abs(steps);
  const amount =
    unit === "percent"
      ? `${by} %`
      : unit === "decibels"
        ? `${by} dB`
        : `${by} ${by === 1 ? "step" : "steps"}`;
  return `${amount} ${steps > 0 ? "louder" : "softer"}`;
}
