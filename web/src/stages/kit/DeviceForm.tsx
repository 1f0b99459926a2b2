import { zodResolver } from "@hookform/resolvers/zod";
import { Plus, Trash2 } from "lucide-react";
import { useEffect, useState } from "react";
import {
  Controller,
  FormProvider,
  useFieldArray,
  useForm,
  useFormContext,
  useWatch,
  type FieldPath,
} from "react-hook-form";
import { RequestError } from "../../api/client";
import { put, useEdit } from "../../api/queries";
import type { Device, Profile } from "../../api/types";
import { useRoom } from "../../shell/context";
import { Choice } from "../../ui/Choice";
import { ProblemNote } from "../../ui/Problem";
import { formSchema, fromForm, LAST, NO_KEY, toForm, type KitForm } from "./form";
import { CABLES, KINDS, MEDIA } from "./words";

/** The form of a device: its name, and how its model behaves. */
export function DeviceForm({
  device,
  profile,
  onClose,
}: {
  device: Device;
  profile: Profile;
  onClose: () => void;
}) {
  const { house, say } = useRoom();
  const edit = useEdit(house.house.id);
  // The versions that were on the screen when the form was opened: a later change elsewhere is told.
  const [base, setBase] = useState({
    device: house.versions[device.id],
    profile: house.versions[profile.id],
  });
  const form = useForm<KitForm>({
    resolver: zodResolver(formSchema),
    defaultValues: toForm(device, profile),
  });
  const dirty = form.formState.isDirty;
  // A change elsewhere is taken over at once, unless something has been typed here.
  const seen = `${house.versions[device.id]} ${house.versions[profile.id]}`;
  const [shown, setShown] = useState(seen);
  if (shown !== seen && !dirty && !edit.isPending) {
    setShown(seen);
    setBase({ device: house.versions[device.id], profile: house.versions[profile.id] });
  }
  useEffect(() => {
    if (!form.formState.isDirty) form.reset(toForm(device, profile));
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only a new version is a reason to reset
  }, [shown]);
  const [power, selection, moves] = useWatch({
    control: form.control,
    name: ["power", "selection", "moves"],
  });
  const users = house.devices.filter((known) => known.profile === profile.id);

  const save = (bases: typeof base) =>
    form.handleSubmit((values) => {
      const next = fromForm(values, device, profile);
      edit.mutate(
        [
          put({ entity: "profile", value: next.profile }, bases.profile),
          put({ entity: "device", value: next.device }, bases.device),
        ],
        {
          onSuccess: (saved) => {
            say(saved.title);
            const versions = saved.house.versions;
            setBase({ device: versions[device.id], profile: versions[profile.id] });
            form.reset(values);
          },
        },
      );
    });
  const remove = () =>
    edit.mutate([{ do: "remove", kind: "device", id: device.id, base: house.versions[device.id] ?? 0 }], {
      onSuccess: (saved) => {
        say(saved.title);
        onClose();
      },
    });

  const stale = edit.error instanceof RequestError && edit.error.problem.kind === "stale";
  const latest = () => ({ device: house.versions[device.id], profile: house.versions[profile.id] });
  return (
    <FormProvider {...form}>
      <form
        aria-label={`${device.name}`}
        noValidate
        onSubmit={(event) => void save(base)(event)}
        onKeyDown={(event) => {
          if (event.key === "Escape" && !form.formState.isDirty) onClose();
        }}
        className="max-w-[880px]"
      >
        <div className="grid grid-cols-[repeat(auto-fill,minmax(190px,1fr))] gap-x-4 gap-y-2 pt-1">
          <Text name="name" label="Name in this room" />
          <Text name="maker" label="Maker" />
          <Text name="model" label="Model" />
          <Pick name="kind" label="What it is" options={KINDS} />
          <Pick name="medium" label="Commands reach it by" options={MEDIA} />
          <Text name="gap" label="Pause after a command (s)" />
        </div>
        {users.length > 1 && (
          <p className="mt-2 text-[13px] text-caution">
            Everything but the name belongs to the model and changes{" "}
            {users.map((known) => known.name).join(" and ")}.
          </p>
        )}

        <Part title="Power">
          <Pick
            name="power"
            label="How it is switched"
            options={[
              ["discrete", "A key for on, one for off"],
              ["toggle", "One key for both"],
              ["always-on", "It is always on"],
            ]}
          />
          {power === "discrete" && <KeyPick name="on" label="On" profile={profile} fallback="Power on" />}
          {power === "discrete" && <KeyPick name="off" label="Off" profile={profile} fallback="Power off" />}
          {power === "toggle" && (
            <KeyPick name="toggle" label="On and off" profile={profile} fallback="Power" />
          )}
        </Part>
        {power !== "always-on" && (
          <div className="mt-1 grid grid-cols-[repeat(auto-fill,minmax(300px,1fr))] gap-x-4 gap-y-2">
            <SpanFields name="warmUp" label="From on until it takes commands" />
            <SpanFields name="picture" label="From on until picture or sound" />
            <SpanFields name="coolDown" label="From off until power keys work again" />
          </div>
        )}

        <Part title="Inputs">
          <Pick
            name="selection"
            label="How an input is chosen"
            options={[
              ["none", "There is nothing to choose"],
              ["discrete", "A key for each"],
              ["cycle", "One key steps through them"],
              ["menu", "From a list on the screen"],
            ]}
          />
          {selection === "cycle" && (
            <KeyPick name="next" label="Next" profile={profile} fallback="Next input" />
          )}
          {selection === "cycle" && (
            <KeyPick
              name="previous"
              label="Previous"
              profile={profile}
              fallback="Previous input"
              none="there is none"
            />
          )}
          {selection === "menu" && (
            <KeyPick name="open" label="Opens the list" profile={profile} fallback="Source" />
          )}
          {selection === "menu" && (
            <KeyPick name="next" label="Next entry" profile={profile} fallback="Right" />
          )}
          {selection === "menu" && (
            <KeyPick name="previous" label="Previous entry" profile={profile} fallback="Left" />
          )}
          {selection === "menu" && (
            <KeyPick name="confirm" label="Takes the entry" profile={profile} fallback="OK" />
          )}
          {selection === "menu" && (
            <Pick
              name="opens"
              label="The list opens"
              options={[
                ["first", "at its first entry"],
                ["current", "at the present input"],
              ]}
            />
          )}
          {selection === "menu" && (
            <Pick
              name="ends"
              label="At its ends it"
              options={[
                ["clamp", "stops"],
                ["wrap", "goes on at the other end"],
              ]}
            />
          )}
          {power !== "always-on" && selection !== "none" && <AfterPowerOn />}
        </Part>
        {selection !== "none" && (
          <div className="mt-1 grid grid-cols-[repeat(auto-fill,minmax(300px,1fr))] gap-x-4 gap-y-2">
            <SpanFields name="inputChange" label="Until a chosen input shows" />
            {selection === "menu" && (
              <SpanFields name="closesAfter" label="The list closes by itself after" />
            )}
          </div>
        )}
        <div className="mt-2 grid gap-4 md:grid-cols-2">
          <Sockets name="inputs" profile={profile} />
          <Sockets name="outputs" profile={profile} />
        </div>

        <Part title="Movement">
          <label className="flex min-h-8 items-center gap-2 self-end">
            <input type="checkbox" className="size-4" {...form.register("moves")} />
            It moves (screen, blind, awning)
          </label>
          {moves && <KeyPick name="down" label="Down" profile={profile} fallback="Down" />}
          {moves && <KeyPick name="up" label="Up" profile={profile} fallback="Up" />}
          {moves && (
            <KeyPick name="stop" label="Stop" profile={profile} fallback="Stop" none="there is none" />
          )}
        </Part>
        {moves && (
          <div className="mt-1 grid grid-cols-[repeat(auto-fill,minmax(300px,1fr))] gap-x-4 gap-y-2">
            <SpanFields name="travelDown" label="The whole way down" />
            <SpanFields name="travelUp" label="The whole way up" />
          </div>
        )}

        <div className="mt-3 space-y-2">
          {edit.error && (
            <ProblemNote text={edit.error.message}>
              {stale && (
                <>
                  <button type="button" className="link" onClick={() => void save(latest())()}>
                    Save mine over it
                  </button>
                  <button
                    type="button"
                    className="link"
                    onClick={() => {
                      form.reset(toForm(device, profile));
                      setBase(latest());
                      edit.reset();
                    }}
                  >
                    Take the other one
                  </button>
                </>
              )}
            </ProblemNote>
          )}
          <div className="flex flex-wrap items-center gap-2">
            <button type="submit" className="btn btn-main" disabled={edit.isPending || !dirty}>
              Save
            </button>
            <button
              type="button"
              className="btn"
              onClick={() => {
                form.reset();
                edit.reset();
              }}
              disabled={!dirty}
            >
              Put back
            </button>
            <button type="button" className="btn" onClick={onClose}>
              Close
            </button>
            <button type="button" className="btn ml-auto text-stop" onClick={remove}>
              <Trash2 aria-hidden size={15} /> Remove device
            </button>
          </div>
        </div>
      </form>
    </FormProvider>
  );
}

function Part({ title, children }: { title: string; children: React.ReactNode }) {
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

function Text({ name, label }: { name: FieldPath<KitForm>; label: string }) {
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

function Pick({
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
function KeyPick({
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

function AfterPowerOn() {
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

type SpanName = "warmUp" | "picture" | "coolDown" | "inputChange" | "closesAfter" | "travelUp" | "travelDown";

/** A duration: shortest, longest, and where the figures come from. */
function SpanFields({ name, label }: { name: SpanName; label: string }) {
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
          ]}
        />
      )}
    />
  );
}

/** The inputs or the outputs: a line each, added and removed. */
function Sockets({ name, profile }: { name: "inputs" | "outputs"; profile: Profile }) {
  const { control, setValue, getValues } = useFormContext<KitForm>();
  const inputs = useFieldArray({ control, name: "inputs" });
  const outputs = useFieldArray({ control, name: "outputs" });
  const { fields, remove } = name === "inputs" ? inputs : outputs;
  const selection = useWatch({ control, name: "selection" });
  const input = name === "inputs";
  const add = () => {
    const key = crypto.randomUUID();
    const label = input ? `HDMI ${fields.length + 1}` : "HDMI out";
    if (input) inputs.append({ key, name: label, cable: "hdmi", select: `new:${label}` });
    else outputs.append({ key, name: label, cable: "hdmi" });
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
