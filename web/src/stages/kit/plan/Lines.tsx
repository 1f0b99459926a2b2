import { useState, type ReactNode } from "react";
import type { Three } from "../../../api/types";
import { Field } from "../../../ui/Inline";
import { changed } from "./geometry";
import { LengthField } from "./LengthField";

/** From which edges of the room a place is measured. */
export const AXES = ["From the left", "From the top", "Above the floor"] as const;

/** One line of a list of the plan: its fields, and a button that takes it out. */
export function Line({
  remove,
  onRemove,
  children,
}: {
  /** What is removed, for those who only hear the button. */
  remove: string;
  onRemove: () => void;
  children: ReactNode;
}) {
  return (
    <li className="flex flex-wrap items-end gap-3 border-b border-rule py-1">
      {children}
      <button type="button" className="link" aria-label={`Remove ${remove}`} onClick={onRemove}>
        Remove
      </button>
    </li>
  );
}

/** The name of a line; an empty one is not taken. What was typed is of this name alone: lines move up where one is removed. */
export function NameField({ name, onName }: { name: string; onName: (name: string) => void }) {
  const save = (typed: string) => {
    const next = typed.trim();
    if (next && next !== name) onName(next);
  };
  return (
    <label className="block">
      <span className="label">Name</span>
      <Field key={name} label="Name" className="w-40" value={name} onSave={save} />
    </label>
  );
}

/** Three lengths: a place, or the sides of a box. */
export function ThreeLengths({
  labels,
  value,
  feet,
  least,
  className = "w-24",
  onChange,
}: {
  labels: readonly [string, string, string];
  value: Three;
  feet: boolean;
  least?: number;
  className?: string;
  onChange: (change: (own: Three) => Three) => void;
}) {
  return labels.map((label, axis) => (
    <LengthField
      key={label}
      label={label}
      feet={feet}
      className={className}
      mm={value[axis] ?? 0}
      onMm={(mm) => onChange((own) => changed(own, axis, Math.max(least ?? mm, mm)))}
    />
  ));
}

/** A whole number that is typed; what is none is said, and nothing is lost. */
export function WholeField({
  label,
  value,
  most,
  onValue,
}: {
  label: string;
  value: number;
  most: number;
  onValue: (value: number) => void;
}) {
  const [typed, setTyped] = useState<string>();
  const read = typed === undefined || !/^\d+$/.test(typed.trim()) ? undefined : Number(typed);
  const wrong = typed !== undefined && (read === undefined || read > most);
  return (
    <label className="block">
      <span className="label">{label}</span>
      <input
        className="field w-28"
        inputMode="numeric"
        value={typed ?? String(value)}
        aria-invalid={wrong}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={() => {
          if (wrong || read === undefined) return;
          setTyped(undefined);
          if (read !== value) onValue(read);
        }}
        onKeyDown={(event) => {
          if (event.key === "Enter") event.currentTarget.blur();
          if (event.key === "Escape") setTyped(undefined);
        }}
      />
      {wrong && (
        <span role="alert" className="block text-[13px] text-stop">
          A whole number from 0 to {most}.
        </span>
      )}
    </label>
  );
}
