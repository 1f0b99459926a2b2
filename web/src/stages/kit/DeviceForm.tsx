import { zodResolver } from "@hookform/resolvers/zod";
import { Copy, Replace, Trash2 } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { useSearchParams } from "react-router";
import { FormProvider, useForm, type FieldPath, type UseFormReturn } from "react-hook-form";
import { RequestError } from "../../api/client";
import { fieldName, overridesOf } from "../../api/overrides";
import { put, useCopy, useEdit } from "../../api/queries";
import type { Device, Profile } from "../../api/types";
import { modelOf, profileOf, useRoom } from "../../shell/context";
import { Choice } from "../../ui/Choice";
import { ProblemNote } from "../../ui/Problem";
import { Behaviour } from "./Behaviour";
import { Comforts } from "./Comforts";
import { Pick, Text } from "./fields";
import { ReplaceSheet } from "./ReplaceSheet";
import { formSchema, fromForm, NO_KEY, toForm, type KitForm } from "./form";
import { draftOf, forget, keepDraft } from "../../ui/draft";

/** What a change of the form is for. */
type Mode = "model" | "device";

/** Keeps what is typed until it is saved or put back, with the versions that it was typed over. */
function useDeviceDraft(
  form: UseFormReturn<KitForm>,
  name: string,
  around: { base: { device: number | undefined; profile: number | undefined }; mode: Mode },
  kept: KitForm | undefined,
) {
  const first = useRef(kept);
  useEffect(() => {
    for (const [field, value] of Object.entries(first.current ?? {}))
      form.setValue(field as FieldPath<KitForm>, value as never, { shouldDirty: true });
    first.current = undefined;
  }, [form]);
  const { base, mode } = around;
  useEffect(() => {
    const watching = form.watch(() => {
      const values = form.getValues();
      const asSaved = JSON.stringify(values) === JSON.stringify(form.formState.defaultValues);
      keepDraft(name, asSaved ? undefined : { values, base, mode });
    });
    return () => watching.unsubscribe();
  }, [form, name, base, mode]);
}

/** Shows what is saved anew where a version of it is, unless something has been typed over it. */
function useFresh(form: UseFormReturn<KitForm>, version: string, saved: () => KitForm) {
  const mounted = useRef(false);
  useEffect(() => {
    if (mounted.current && !form.formState.isDirty) form.reset(saved());
    mounted.current = true;
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only a new version is a reason to reset
  }, [version]);
}

/** The model and the device as the form has them, and what of the device is its own. */
function changedBy(values: KitForm, device: Device, model: Profile, profile: Profile, mode: Mode) {
  const next = fromForm(values, device, profile);
  // A device of its own may need a key that the model does not have yet.
  const keys = next.profile.functions;
  const changed = mode === "model" ? next.profile : { ...model, functions: keys };
  const overrides =
    mode === "model" ? (device.overrides ?? []) : overridesOf(changed, { ...next.profile, functions: keys });
  const needed = mode === "model" || keys.length !== model.functions.length;
  return { profile: needed ? changed : undefined, device: { ...next.device, overrides } };
}

/** The form of a device: its name, and how it behaves, for the model or for this device alone. */
export function DeviceForm({
  device,
  onClose,
  onCopied,
}: {
  device: Device;
  onClose: () => void;
  onCopied: (id: string) => void;
}) {
  const { house, say } = useRoom();
  const edit = useEdit(house.house.id);
  const model = modelOf(house, device);
  const overrides = device.overrides ?? [];
  const [mode, setMode] = useState<Mode>(
    () => draftOf<{ mode: Mode }>(`device:${device.id}`)?.mode ?? (overrides.length > 0 ? "device" : "model"),
  );
  const profile = mode === "device" ? profileOf(house, device) : model;
  // The versions that were on the screen when the form was opened: a later change elsewhere is told.
  const latest = () => ({ device: house.versions[device.id], profile: house.versions[model.id] });
  const name = `device:${device.id}`;
  const [kept] = useState(() =>
    draftOf<{ values: KitForm; base: ReturnType<typeof latest>; mode: Mode }>(name),
  );
  const [base, setBase] = useState(() => kept?.base ?? latest());
  const form = useForm<KitForm>({
    resolver: zodResolver(formSchema),
    defaultValues: toForm(device, profile),
  });
  useDeviceDraft(form, name, { base, mode }, kept?.values);
  const dirty = form.formState.isDirty;
  // A change elsewhere is taken over at once, unless something has been typed here.
  const seen = `${house.versions[device.id]} ${house.versions[model.id]} ${mode}`;
  const [shown, setShown] = useState(seen);
  if (shown !== seen && !dirty && !edit.isPending) {
    setShown(seen);
    setBase(latest());
  }
  useFresh(form, shown, () => toForm(device, profile));
  const screens = useScreens(device);
  const users = house.devices.filter((known) => known.profile === model.id);

  const save = (bases: typeof base) =>
    form.handleSubmit((values) => {
      const next = changedBy(values, device, model, profile, mode);
      edit.mutate(
        [
          ...(next.profile ? [put({ entity: "profile", value: next.profile }, bases.profile)] : []),
          put({ entity: "device", value: next.device }, bases.device),
        ],
        {
          onSuccess: (saved) => {
            say(saved.title);
            // What was just put has the version of this change; what was not touched keeps its own.
            const version = (id: string) =>
              saved.changed.put.find((one) => one.key === id)?.version ?? house.versions[id];
            setBase({ device: version(device.id), profile: version(model.id) });
            form.reset(values);
            forget(name);
          },
        },
      );
    });
  const { remove, asModel } = useDeviceDeeds(edit, device, onClose, () => setMode("model"));

  const takeTheirs = () => {
    form.reset(toForm(device, profile));
    forget(name);
    setBase(latest());
    edit.reset();
  };
  const own = mode === "device";
  return (
    <FormProvider {...form}>
      <form
        aria-label={device.name}
        noValidate
        onSubmit={(event) => void save(base)(event)}
        onKeyDown={(event) => {
          if (event.key === "Escape" && !form.formState.isDirty) onClose();
        }}
        className="max-w-[880px]"
      >
        <div className="grid grid-cols-[repeat(auto-fill,minmax(190px,1fr))] gap-x-4 gap-y-2 pt-1">
          <Text name="name" label="Name in this room" />
          <ChangesFor mode={mode} setMode={setMode} dirty={dirty} users={users.length} />
          {screens.length > 0 && (
            <Pick
              name="behind"
              label="Stands behind"
              options={[[NO_KEY, "nothing"], ...screens.map((one) => [one.id, one.name] as const)]}
            />
          )}
          {!own && <Text name="maker" label="Maker" />}
          {!own && <Text name="model" label="Model" />}
        </div>
        <WhomItConcerns device={device} own={own} users={users} asModel={asModel} pending={edit.isPending} />
        <Behaviour profile={profile} own={own} />
        <Comforts profile={profile} own={own} />

        <div className="mt-3 flex flex-col gap-2">
          <SaveTrouble error={edit.error} onMine={() => void save(latest())()} onTheirs={takeTheirs} />
          <Wrong fields={form.formState.errors} />
          <FormDeeds
            device={device}
            dirty={dirty}
            pending={edit.isPending}
            onBack={() => {
              form.reset();
              forget(name);
              edit.reset();
            }}
            onClose={onClose}
            onCopied={onCopied}
            remove={remove}
          />
        </div>
      </form>
    </FormProvider>
  );
}

/** Says that something further up is wrong, since a long form hides it. */
function Wrong({ fields }: { fields: Partial<Record<FieldPath<KitForm>, unknown>> }) {
  const count = Object.keys(fields).length;
  if (count === 0) return null;
  return (
    <p className="text-[13px] text-stop">
      {count === 1 ? "One field needs" : `${count} fields need`} another look: they are marked above.
    </p>
  );
}

/** Whether a change is for the model or for this device alone. */
function ChangesFor({
  mode,
  setMode,
  dirty,
  users,
}: {
  mode: Mode;
  setMode: (mode: Mode) => void;
  dirty: boolean;
  users: number;
}) {
  return (
    <div>
      <span className="label">Changes are for</span>
      <Choice
        label="Changes are for"
        value={mode}
        disabled={dirty}
        onChange={(value) => setMode(value as Mode)}
        options={[
          {
            value: "model",
            label: users > 1 ? `the model (${users} devices)` : "the model",
          },
          { value: "device", label: "this device alone" },
        ]}
      />
    </div>
  );
}

/** What else a change touches, and where this device differs from its model. */
function WhomItConcerns({
  device,
  own,
  users,
  asModel,
  pending,
}: {
  device: Device;
  own: boolean;
  users: Device[];
  asModel: () => void;
  pending: boolean;
}) {
  const { house } = useRoom();
  const model = modelOf(house, device);
  const overrides = device.overrides ?? [];
  return (
    <>
      {!own && users.length > 1 && (
        <p className="mt-2 text-[13px] text-caution">
          Everything but the name belongs to the model and changes{" "}
          {users.map((known) => known.name).join(" and ")}.
        </p>
      )}
      {overrides.length > 0 && (
        <p className="mt-2 text-[13px]">
          Differs from {model.maker} {model.model} in:{" "}
          {overrides.map((one) => fieldName(one.field)).join(", ")}.{" "}
          <button type="button" className="link text-[13px]" onClick={asModel} disabled={pending}>
            Be as the model again
          </button>
        </p>
      )}
    </>
  );
}

/** Why it could not be saved; where somebody else was quicker, both ways out. */
function SaveTrouble({
  error,
  onMine,
  onTheirs,
}: {
  error: Error | null;
  onMine: () => void;
  onTheirs: () => void;
}) {
  const stale = error instanceof RequestError && error.problem.kind === "stale";
  return (
    <>
      {error && (
        <ProblemNote text={error.message}>
          {stale && (
            <>
              <button type="button" className="link" onClick={onMine}>
                Save mine over it
              </button>
              <button type="button" className="link" onClick={onTheirs}>
                Take the other one
              </button>
            </>
          )}
        </ProblemNote>
      )}
    </>
  );
}

/** Save, put back, close, duplicate, remove. */
function FormDeeds({
  device,
  dirty,
  pending,
  onBack,
  onClose,
  onCopied,
  remove,
}: {
  device: Device;
  dirty: boolean;
  pending: boolean;
  onBack: () => void;
  onClose: () => void;
  onCopied: (id: string) => void;
  remove: () => void;
}) {
  const { house, say } = useRoom();
  const copy = useCopy(house.house.id);
  const [params, setParams] = useSearchParams();
  const [asked, setReplaced] = useState(false);
  // Whoever comes from the list of everything has asked for it there.
  const replaced = asked || (params.get("do") === "replace" && params.get("device") === device.id);
  const keep = () => {
    setReplaced(false);
    const next = new URLSearchParams(params);
    next.delete("do");
    setParams(next, { replace: true });
  };
  return (
    <div className="flex flex-wrap items-center gap-2">
      <button type="submit" className="btn btn-main" disabled={pending || !dirty}>
        Save
      </button>
      <button type="button" className="btn" onClick={onBack} disabled={!dirty}>
        Put back
      </button>
      <button type="button" className="btn" onClick={onClose}>
        Close
      </button>
      <button
        type="button"
        className="btn ml-auto"
        disabled={copy.isPending || dirty}
        onClick={() =>
          copy.mutate(
            { what: "device", id: device.id },
            {
              onSuccess: (saved) => {
                say(saved.title);
                if (saved.made) onCopied(saved.made);
              },
              onError: (error) => say(error.message),
            },
          )
        }
      >
        <Copy aria-hidden size={15} /> Duplicate
      </button>
      <button type="button" className="btn" disabled={dirty} onClick={() => setReplaced(true)}>
        <Replace aria-hidden size={15} /> Replace …
      </button>
      <ReplaceSheet device={device} open={replaced} onClose={keep} />
      <button type="button" className="btn text-stop" onClick={remove}>
        <Trash2 aria-hidden size={15} /> Remove device
      </button>
    </div>
  );
}

/** A device taken away, and one that is as its model again. */
function useDeviceDeeds(
  edit: ReturnType<typeof useEdit>,
  device: Device,
  onClose: () => void,
  onModel: () => void,
) {
  const { house, say } = useRoom();
  const remove = () =>
    edit.mutate([{ do: "remove", kind: "device", id: device.id, base: house.versions[device.id] ?? 0 }], {
      onSuccess: (saved) => {
        say(saved.title);
        onClose();
      },
    });
  const asModel = () =>
    edit.mutate([put({ entity: "device", value: { ...device, overrides: [] } }, house.versions[device.id])], {
      onSuccess: (saved) => {
        say(saved.title);
        onModel();
      },
    });
  return { remove, asModel };
}

/** What a device can stand behind. */
function useScreens(device: Device) {
  const { house } = useRoom();
  const screens = house.devices.filter(
    (known) => known.room === device.room && known.id !== device.id && profileOf(house, known).motion?.hides,
  );
  return screens;
}
