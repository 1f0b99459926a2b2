import type { DeviceKind, Profile, Rules, SurfaceKind } from "./types";
import rules from "./rules.json";

/** Rules, defaults and figures of the trade: said once, in the core, and written here by `npm run api`. */
export const RULES = rules as unknown as Rules;

/** A kind of surface with what it starts with. */
export function surfaceRule(kind: SurfaceKind) {
  const rule = RULES.surfaces.find((known) => known.kind === kind);
  if (!rule) throw new Error(`there is no rule for a ${kind}`);
  return rule;
}

/** A model of a kind as one begins it, with ids of its own. */
export function usualModel(kind: DeviceKind): Profile {
  const model = RULES.models.find((known) => known.kind === kind);
  if (!model) throw new Error(`there is no model of a ${kind}`);
  const fresh = new Map<string, string>();
  const id = (text: string) => {
    const own = fresh.get(text) ?? crypto.randomUUID();
    fresh.set(text, own);
    return own;
  };
  const isId = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/;
  const renumbered = JSON.stringify(model, (_, value: unknown) =>
    typeof value === "string" && isId.test(value) ? id(value) : value,
  );
  return JSON.parse(renumbered) as Profile;
}
