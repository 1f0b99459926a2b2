import type { HandChange, RoomPlans, Situation, Step } from "../../api/types";
import { situationKey } from "./situations";

/** A change by hand without the cell that it belongs to. */
export type Change = HandChange["change"];

/** The plans of a room where nothing was decided yet. */
export const NO_PLANS: RoomPlans = { policy: "trusting", nobody_else: false, rules: [], hand: [] };

const about = (change: Change) => {
  const nth = change.change === "pin" || change.change === "wait" ? change.nth : 0;
  return `${change.change} ${change.device} ${change.function} ${nth}`;
};

/** The changes of one plan. */
export function changesOf(plans: RoomPlans, from: Situation, to: Situation): HandChange[] {
  return plans.hand.filter(
    (known) => situationKey(known.from) === situationKey(from) && situationKey(known.to) === situationKey(to),
  );
}

/** The plans of a room with a change in one of them; it replaces an earlier one of the same kind. */
export function withChange(plans: RoomPlans, from: Situation, to: Situation, change: Change): RoomPlans {
  const same = (known: HandChange) =>
    situationKey(known.from) === situationKey(from) &&
    situationKey(known.to) === situationKey(to) &&
    about(known.change) === about(change);
  return { ...plans, hand: [...plans.hand.filter((known) => !same(known)), { from, to, change }] };
}

/** The plans of a room without one change. */
export function without(plans: RoomPlans, gone: HandChange): RoomPlans {
  return { ...plans, hand: plans.hand.filter((known) => known !== gone) };
}

/** The command that a change is about, as it stands in a plan. */
export function refersTo(change: Change, step: Step): boolean {
  if (change.device !== step.device || change.function !== step.function) return false;
  return change.change === "pin" || change.change === "wait" ? change.nth === step.nth : true;
}
