import { Plus, Trash2 } from "lucide-react";
import type { ReactNode } from "react";
import { Controller, useFieldArray, useFormContext, useWatch, type FieldPath } from "react-hook-form";
import type { Profile } from "../../api/types";
import { Choice } from "../../ui/Choice";
import { LAST, NO_KEY, type KitForm } from "./form";
import { CABLES } from "./words";

export function Part({ title, children }: { title: string; children: ReactNode }) {
  return (
    <fieldset className="mt-3 border-t border-rule pt-1.5">
      <legend className="pr-2 font-semibold">{title}</legend>
      <div className="grid grid-cols-[repeat(auto-fill,minmax(190px,1fr))] gap-x-4 gap-y-2">{children}</div>
    </fieldset>
  );
}

/** The first error message at a path of the form. */
function useMessage(name: FieldPath<KitForm>): string | undefined {
  const { getFieldState, formState } = useFormContext<KitForm>();
  return getFieldState(name, formState).error?.message;
}

export function Text({ name, label }: { name: FieldPath<KitForm>; label: string }) {
  const { register } = useFormContext<KitForm>();
  const message = useMessage(name);
  return (
    <label>
      <span className="label">{label}</span>
      <input
        className="field"
        autoComplete="off"
        aria-invalid={message !== undefined}
        aria-describedby={message ? `${name}-error` : undefined}
        {...register(name)}
      />
      {message && (
        <span id={`${name}-error`} className="text-[13px] text-stop">
          {message}
        </span>
      )}
    </label>
  );
}

export function Pick({
  name,
  label,
  options,
}: {
  name: FieldPath<KitForm>;
  label: string;
  options: readonly (readonly [string, string])[];
}) {
  const { control } = useFormContext<KitForm>();
  return (
    <div>
      <span className="label">{label}</span>
      <Controller
        control={control}
        name={name}
        render={({ field }) => (
          <Choice
            label={label}
            value={String(field.value)}
            onChange={field.onChange}
            options={options.map(([value, text]) => ({ value, label: text }))}
          />
        )}
      />
    </div>
  );
}

/** Chooses a function; one that does not exist yet can be added under its usual name. */
export function KeyPick({
  name,
  label,
  profile,
  fallback,
  none,
}: {
  name: FieldPath<KitForm>;
  label: string;
  profile: Profile;
  fallback: string;
  none?: string;
}) {
  const known = profile.functions.some((f) => f.name.toLowerCase() === fallback.toLowerCase());
  const options: [string, string][] = profile.functions.map((f) => [f.id, f.name]);
  if (!known && fallback) options.push([`new:${fallback}`, `${fallback} (new key)`]);
  if (none) options.push([NO_KEY, none]);
  return <Pick name={name} label={label} options={options} />;
}

export function AfterPowerOn() {
  const { control } = useFormContext<KitForm>();
  const inputs = useWatch({ control, name: "inputs" });
  return (
    <Pick
      name="afterPowerOn"
      label="After power-on it shows"
      options={[[LAST, "the input of last time"], ...inputs.map((input) => [input.key, input.name] as const)]}
    />
  );
}

type SpanName =
  | "warmUp"
  | "picture"
  | "coolDown"
  | "inputChange"
  | "closesAfter"
  | "travelUp"
  | "travelDown"
  | "followDelay"
  | "autoStandby"
  | "couplesDelay"
  | "digits";

/** A duration: shortest, longest, and where the figures come from. */
export function SpanFields({ name, label }: { name: SpanName; label: string }) {
  const { register, control } = useFormContext<KitForm>();
  const basis = useWatch({ control, name: `${name}.basis` });
  const lo = useMessage(`${name}.lo`);
  const hi = useMessage(`${name}.hi`);
  const n = useMessage(`${name}.n`);
  const message = lo ?? hi ?? (basis === "measured" ? n : undefined);
  return (
    <fieldset>
      <legend className="label">{label}</legend>
      <div className="flex items-center gap-1.5">
        <input
          aria-label={`${label}: shortest, in seconds`}
          aria-invalid={lo !== undefined}
          className="field w-16 text-right font-mono"
          inputMode="decimal"
          {...register(`${name}.lo`)}
        />
        <span aria-hidden>–</span>
        <input
          aria-label={`${label}: longest, in seconds`}
          aria-invalid={hi !== undefined}
          className="field w-16 text-right font-mono"
          inputMode="decimal"
          {...register(`${name}.hi`)}
        />
        <span>s</span>
        <div className="w-28">
          <BasisPick name={name} label={label} />
        </div>
        {basis === "measured" && (
          <>
            <input
              aria-label={`${label}: how often measured`}
              aria-invalid={n !== undefined}
              className="field w-12 text-right font-mono"
              inputMode="numeric"
              {...register(`${name}.n`)}
            />
            <span aria-hidden>×</span>
          </>
        )}
      </div>
      {basis === "measured" && (
        <p className="text-[13px] text-muted">
          Counts as far as readings of this device in Handover bear it out.
        </p>
      )}
      {message && <p className="text-[13px] text-stop">{message}</p>}
    </fieldset>
  );
}

function BasisPick({ name, label }: { name: SpanName; label: string }) {
  const { control } = useFormContext<KitForm>();
  return (
    <Controller
      control={control}
      name={`${name}.basis`}
      render={({ field }) => (
        <Choice
          label={`${label}: where the figures come from`}
          value={field.value}
          onChange={field.onChange}
          options={[
            { value: "assumed", label: "assumed" },
            { value: "profile", label: "profile" },
            { value: "measured", label: "measured" },
            { value: "confirmed", label: "confirmed" },
          ]}
        />
      )}
    />
  );
}

/** The inputs or the outputs: a line each, added and removed. */
export function Sockets({ name, profile }: { name: "inputs" | "outputs"; profile: Profile }) {
  const { control, setValue, getValues } = useFormContext<KitForm>();
  const inputs = useFieldArray({ control, name: "inputs" });
  const outputs = useFieldArray({ control, name: "outputs" });
  const { fields, remove } = name === "inputs" ? inputs : outputs;
  const selection = useWatch({ control, name: "selection" });
  const input = name === "inputs";
  const add = () => {
    const key = crypto.randomUUID();
    const label = input ? `HDMI ${fields.length + 1}` : "HDMI out";
    if (input) inputs.append({ key, name: label, cable: "hdmi", select: `new:${label}`, reports: "" });
    else outputs.append({ key, name: label, cable: "hdmi", returns: NO_KEY });
    // The way of choosing follows the number of inputs until someone has said otherwise.
    if (input && fields.length === 1 && getValues("selection") === "none") setValue("selection", "discrete");
  };
  return (
    <div>
      <div className="flex items-center">
        <h4 className="label">{input ? "Inputs, in the order of its list" : "Outputs"}</h4>
        <button type="button" className="link ml-3 text-[13px]" onClick={add}>
          <Plus aria-hidden size={13} /> Add {input ? "input" : "output"}
        </button>
      </div>
      {fields.length === 0 && <p className="text-[13px] text-muted">none</p>}
      <ul className="flex flex-col gap-1">
        {fields.map((field, index) => (
          <li key={field.id} className="flex items-start gap-1.5">
            <SocketName name={name} index={index} />
            <div className="w-28 shrink-0">
              <Controller
                control={control}
                name={`${name}.${index}.cable`}
                render={({ field: cable }) => (
                  <Choice
                    label={`Plug of ${input ? "input" : "output"} ${index + 1}`}
                    value={cable.value}
                    onChange={cable.onChange}
                    options={CABLES.map(([value, text]) => ({ value, label: text }))}
                  />
                )}
              />
            </div>
            {input && selection === "discrete" && <SelectKey index={index} profile={profile} />}
            {!input && <ReturnPick index={index} />}
            <button
              type="button"
              className="btn shrink-0 border-transparent px-2"
              aria-label={`Remove ${input ? "input" : "output"} ${index + 1}`}
              onClick={() => remove(index)}
            >
              <Trash2 aria-hidden size={15} />
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}

function SocketName({ name, index }: { name: "inputs" | "outputs"; index: number }) {
  const { register } = useFormContext<KitForm>();
  const message = useMessage(`${name}.${index}.name`);
  return (
    <div className="min-w-0 flex-1">
      <input
        aria-label={`Name of ${name === "inputs" ? "input" : "output"} ${index + 1}`}
        aria-invalid={message !== undefined}
        className="field"
        {...register(`${name}.${index}.name`)}
      />
      {message && <p className="text-[13px] text-stop">{message}</p>}
    </div>
  );
}

/** The key that chooses an input; the usual one has the input's name. */
function SelectKey({ index, profile }: { index: number; profile: Profile }) {
  const { control } = useFormContext<KitForm>();
  const label = useWatch({ control, name: `inputs.${index}.name` });
  const known = profile.functions.some((f) => f.name.toLowerCase() === label.toLowerCase());
  return (
    <div className="w-32 shrink-0">
      <Controller
        control={control}
        name={`inputs.${index}.select`}
        render={({ field }) => {
          const value = field.value.startsWith("new:") && !known ? `new:${label}` : field.value;
          const options = profile.functions.map((f) => ({ value: f.id, label: f.name }));
          if (!known) options.push({ value: `new:${label}`, label: `${label} (new key)` });
          return (
            <Choice
              label={`Key of input ${index + 1}`}
              value={value}
              onChange={field.onChange}
              options={options}
            />
          );
        }}
      />
    </div>
  );
}

/** A box to tick. */
export function Tick({ name, label }: { name: FieldPath<KitForm>; label: string }) {
  const { register } = useFormContext<KitForm>();
  return (
    <label className="flex min-h-8 items-center gap-2 self-end">
      <input type="checkbox" className="size-4" {...register(name)} />
      {label}
    </label>
  );
}

/** The input as which sound comes back through an output. */
function ReturnPick({ index }: { index: number }) {
  const { control } = useFormContext<KitForm>();
  const inputs = useWatch({ control, name: "inputs" });
  const cable = useWatch({ control, name: `outputs.${index}.cable` });
  const returning = inputs.filter((input) => input.cable === "return-audio");
  if (cable !== "hdmi" || returning.length === 0) return null;
  return (
    <div className="w-36 shrink-0">
      <Controller
        control={control}
        name={`outputs.${index}.returns`}
        render={({ field }) => (
          <Choice
            label={`Sound back through output ${index + 1}`}
            value={field.value}
            onChange={field.onChange}
            options={[
              { value: NO_KEY, label: "no sound back" },
              ...returning.map((input) => ({ value: input.key, label: `back as ${input.name}` })),
            ]}
          />
        )}
      />
    </div>
  );
}
