// @vitest-environment jsdom
import { cleanup, fireEvent, screen } from "@testing-library/react";
import { afterEach, describe, expect, it } from "vitest";
import type { Cell } from "../../api/types";
import { device, house, model, show } from "../../testing/house";
import { Limits } from "./Limits";
import { MARK_WORD, markOf, VerdictLine } from "./Verdict";

afterEach(cleanup);

const CELL: Cell = {
  from: { is: "off" },
  to: { is: "in", activity: "film" },
  ready_ms: 4_000,
  hot_ms: null,
  bound_ms: 4_000,
  optimal: true,
  sends: 2,
  policy: "trusting",
  other_ms: null,
  guarantee: "if-nobody-else",
  waits_hold: true,
  verdict: "Certain if nobody else touches it",
  weakest: null,
  together_percent: null,
  states: 12,
  not_proved: null,
  cannot_be_sent: [],
  confirm: [],
  story: null,
  loss: { fails: null, untested: [], raises: [] },
  light: null,
  runnable: true,
};

const KIT = house({
  profiles: [model("display", "m")],
  devices: [device("d", "Display", { profile: "m" })],
});

describe("what stands between a verdict and being relied on", () => {
  it("says nothing where there is nothing", () => {
    show(KIT, <Limits cell={CELL} />);
    expect(screen.queryByRole("list")).toBeNull();
  });

  it("leads to the place where a device is given a gateway, or a key its code", () => {
    const why = "no gateway reaches Display";
    const seen = show(
      KIT,
      <Limits cell={{ ...CELL, cannot_be_sent: [{ device: "d", hitch: "no-gateway", why }] }} />,
    );
    expect(screen.getByText(/Nothing can be sent to Display: no gateway reaches Display/)).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Mend it in Kit" }));
    expect(seen.at).toBe("kit");
    cleanup();
    const again = show(
      KIT,
      <Limits
        cell={{
          ...CELL,
          cannot_be_sent: [{ device: "d", hitch: "no-code", why: "a key of Display has no code" }],
        }}
      />,
    );
    fireEvent.click(screen.getByRole("button", { name: "Learn it in Codes" }));
    expect(again.at).toBe("codes");
  });

  it("says how much of a proof was left out, and what stands all the same", () => {
    const cut = { devices: ["Display", "Receiver"], looked_at: 400_000, left: null, beyond_ours: true };
    show(KIT, <Limits cell={{ ...CELL, not_proved: cut }} />);
    expect(screen.getByText(/400,000 were looked at, more than can be counted were not/)).toBeTruthy();
    expect(screen.getByText(/our own plans leave behind was looked at whole/)).toBeTruthy();
    cleanup();
    show(KIT, <Limits cell={{ ...CELL, not_proved: { ...cut, left: 7, beyond_ours: false } }} />);
    expect(screen.getByText(/7 were not.*none is promised/)).toBeTruthy();
  });

  it("says that a plan for the likeliest part waits for somebody's word", () => {
    show(KIT, <Limits cell={{ ...CELL, confirm: ["d"] }} />);
    expect(screen.getByText(/sent only when somebody says so/)).toBeTruthy();
  });
});

describe("the mark of a verdict", () => {
  it.each([
    [{ guarantee: "certain", waits_hold: true }, "Certain"],
    [{ guarantee: "certain", waits_hold: false }, "if the waits hold"],
    [{ guarantee: "if-nobody-else", waits_hold: true }, "if nobody else"],
    [{ guarantee: "not-proved", waits_hold: true }, "Not proved"],
    [{ guarantee: "at-risk", waits_hold: true }, "At risk"],
  ] as const)("of %o is %s", (part, words) => {
    expect(MARK_WORD[markOf({ ...CELL, ...part })]).toBe(words);
  });

  it("says first that nothing can be sent, whatever the plan is worth", () => {
    const cell = {
      ...CELL,
      cannot_be_sent: [{ device: "d", hitch: "no-gateway" as const, why: "no gateway reaches Display" }],
      verdict: "Cannot be sent: no gateway reaches Display. The plan: Certain",
    };
    expect(MARK_WORD[markOf(cell)]).toBe("Cannot be sent");
    show(KIT, <VerdictLine cell={cell} />);
    expect(screen.getByText(/^Cannot be sent: no gateway reaches Display/)).toBeTruthy();
  });
});
