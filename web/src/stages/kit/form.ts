import { z } from "zod";
import { usualModel } from "../../api/rules";
import type { Device, DeviceKind, Profile } from "../../api/types";
import { name, NO_KEY, partFields, partsForm, partsValue, type KeyRef } from "./parts";
import { KINDS } from "./words";

export { LAST, NO_KEY, type KeyRef, type SpanForm } from "./parts";

/** The form of a device and its profile: texts as they are typed. */
export const formSchema = z.object({
  name: name("Name"),
  maker: name("Maker"),
  model: name("Model"),
  kind: z.enum(KINDS.map(([kind]) => kind) as [DeviceKind, ...DeviceKind[]]),
  wifi: z.enum(["none", "2.4-only", "both"]),
  behind: z.string(),
  ...partFields,
});

export type KitForm = z.infer<typeof formSchema>;

/** The form as it stands for a device. */
export function toForm(device: Device, profile: Profile): KitForm {
  return {
    name: device.name,
    maker: profile.maker,
    model: profile.model,
    kind: profile.kind,
    wifi: profile.wifi ?? "none",
    behind: device.behind ?? NO_KEY,
    ...partsForm(profile),
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
  const { maker, model, kind } = form;
  const wifi = form.wifi === "none" ? null : form.wifi;
  const parts = partsValue(form, profile, key);
  return {
    device: { ...device, name: form.name, behind: form.behind === NO_KEY ? null : form.behind },
    profile: { ...profile, maker, model, kind, wifi, ...parts, functions },
  };
}

/** A profile of a kind with the figures that are common practice, all of them said to be assumed. */
export function newProfile(kind: Profile["kind"], maker: string, model: string): Profile {
  return { stops: [], ...usualModel(kind), maker, model };
}
