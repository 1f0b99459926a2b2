import { useState } from "react";

/** One choice: its value and what it is called. */
export type Option = readonly [string, string];

/** A plain drop-down list, small enough to stand in a line. */
export function Pick({
  label,
  value,
  options,
  blank = "choose",
  className = "max-w-64",
  onChange,
}: {
  label: string;
  value: string;
  options: readonly Option[];
  className?: string;
  /** What stands there while nothing is chosen. */
  blank?: string;
  onChange: (value: string) => void;
}) {
  const known = options.some(([id]) => id === value);
  return (
    <select
      className={`field w-auto ${className}`}
      aria-label={label}
      value={known ? value : ""}
      onChange={(event) => onChange(event.target.value)}
    >
      {!known && <option value="">{blank}</option>}
      {options.map(([id, name]) => (
        <option key={id} value={id}>
          {name}
        </option>
      ))}
    </select>
  );
}

/** A number with its unit. */
export function Figure({
  label,
  unit,
  value,
  whole = true,
  onChange,
}: {
  label: string;
  unit: string;
  value: number;
  /** Does it count whole ones only? */
  whole?: boolean;
  onChange: (value: number) => void;
}) {
  return (
    <label className="flex items-center gap-1">
      <span className="sr-only">{label}</span>
      <input
        type="number"
        className="field w-20 text-right font-mono"
        value={value}
        step="any"
        onChange={(event) => {
          const typed = Number(event.target.value) || 0;
          onChange(whole ? Math.round(typed) : typed);
        }}
      />
      <span className="text-muted">{unit}</span>
    </label>
  );
}

/** A field that is saved when one leaves it. */
export function Field({
  label,
  value,
  className,
  type = "text",
  onSave,
}: {
  label: string;
  value: string;
  className: string;
  type?: "text" | "number";
  onSave: (value: string) => void;
}) {
  const [text, setText] = useState(value);
  return (
    <input
      className={`field ${className}`}
      type={type}
      step="any"
      aria-label={label}
      value={text}
      onChange={(event) => setText(event.target.value)}
      onBlur={() => text !== value && onSave(text)}
      onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
    />
  );
}
