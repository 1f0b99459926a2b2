// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { OrderRule, Plan, RoomPlans } from "../../api/types";
import { device, house, model, show } from "../../testing/house";
import { OffView } from "./OffView";
import { RulesView } from "./RulesView";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const school = { certain: 4, if_nobody_else: 2, at_risk: 0, slowest_ms: 31_000, sends: 17 };
const couples = { couples: true, on: school, off: { ...school, certain: 6, if_nobody_else: 0 }, changes: [] };
const none = { ...couples, couples: false };
const plan = (texts: string[] = []) =>
  ({ rules: texts.map((text) => ({ text, built_in: true })), steps: [], findings: [] }) as unknown as Plan;

function rooms(rules: OrderRule[]) {
  const view = house({
    profiles: [model("projector", "lamp"), model("screen", "screen")],
    devices: [device("lamp", "Projector"), device("screen", "Screen")],
  });
  const [hall] = view.rooms;
  if (hall) hall.plans = { rules, policy: "safe" } as unknown as RoomPlans;
  return view;
}

const rule: OrderRule = { device: "screen", goes: "after", other: "lamp", when: "starting" };

describe("rules of the order", () => {
  it("are read as sentences, those built in beside them", () => {
    show(rooms([rule]), <RulesView plan={plan(["Projector after Screen is up (built in)."])} />);
    expect(screen.getByText("Screen after Projector, when an activity starts")).toBeDefined();
    expect(screen.getByText("Projector after Screen is up (built in).")).toBeDefined();
  });

  it("say that there is none", () => {
    show(rooms([]), <RulesView plan={plan()} />);
    expect(screen.getByText("No rule bears on this plan.")).toBeDefined();
  });

  it("are added at the end, and the rest of the plan rules stays as it is", async () => {
    const seen = show(rooms([rule]), <RulesView plan={plan()} />);
    fireEvent.click(screen.getByText("Add rule"));
    await waitFor(() => expect(seen.said).toEqual(["Rule added. Undo takes it back."]));
    expect(seen.edits[0]).toMatchObject([
      {
        do: "put",
        entity: {
          entity: "plans",
          value: {
            room: "hall",
            policy: "safe",
            rules: [rule, { device: "lamp", goes: "first", when: "starting" }],
          },
        },
      },
    ]);
  });

  it("are taken away one by one", async () => {
    const seen = show(rooms([rule]), <RulesView plan={plan()} />);
    fireEvent.click(screen.getByLabelText(/^Remove the rule: Screen after Projector/));
    await waitFor(() => expect(seen.said).toEqual(["Rule removed. Undo takes it back."]));
    expect(seen.edits[0]?.[0]?.entity?.value["rules"]).toEqual([]);
  });

  it("say why one was refused, and say nothing else", async () => {
    const why = "Screen and Projector would wait for each other. Remove one of the rules.";
    const seen = show(rooms([]), <RulesView plan={plan()} />, { refuse: why });
    fireEvent.click(screen.getByText("Add rule"));
    expect(await screen.findByText(why)).toBeDefined();
    expect(seen.said).toEqual([]);
  });
});

describe("the two schools of control over HDMI", () => {
  it("stand beside each other with what each proves", async () => {
    show(rooms([]), <RulesView plan={plan()} />, { answers: { "/schools": couples } });
    const row = (await screen.findByText("switched off everywhere")).closest("tr");
    const cells = [...(row?.querySelectorAll("td") ?? [])].map((cell) => cell.textContent);
    expect(cells).toEqual(["6", "0", "0", "0:31.0", "17"]);
  });

  it("are no choice where no device does anything by itself", async () => {
    show(rooms([]), <RulesView plan={plan()} />, { answers: { "/schools": none } });
    expect(await screen.findByText(/No device of this room does anything by itself/)).toBeDefined();
    expect(screen.queryByText("Switch it off in this room")).toBeNull();
  });

  it("are changed by what the server proposes, as one step", async () => {
    const entity = { entity: "device", value: device("lamp", "Projector") };
    const answers = { "/schools": { ...couples, changes: [entity] } };
    const seen = show(rooms([]), <RulesView plan={plan()} />, { answers });
    fireEvent.click(await screen.findByText("Switch it off in this room"));
    await waitFor(() => expect(seen.edits).toHaveLength(1));
    expect(seen.edits[0]).toMatchObject([{ do: "put", base: 1, entity: { value: { id: "lamp" } } }]);
  });
});

describe("the whole house", () => {
  const step = { index: 0, start_ms: 1_500, device: "lamp", name: "Power off", why: "It is to be off." };
  const off = { steps: [step], ready_ms: 9_000, sequential_ms: 20_000, findings: [] };
  const cells = ["certain", "certain", "if-nobody-else", "at-risk"].map((guarantee) => ({ guarantee }));

  it("goes off but for the rooms that are excepted", async () => {
    const seen = show(rooms([]), <OffView />, { answers: { "/off": off } });
    expect(await screen.findByText("Power off")).toBeDefined();
    expect(screen.getByText(/^1 transmissions, all off after 0:09.0/)).toBeDefined();
    const asked = seen.asked.length;
    fireEvent.click(screen.getByLabelText("Loft"));
    await waitFor(() => expect(seen.asked.length).toBeGreaterThan(asked));
    expect(screen.getByLabelText<HTMLInputElement>("Loft").checked).toBe(false);
  });

  it("leaves cupboards out of the choice", () => {
    const view = rooms([]);
    const [, loft] = view.rooms;
    if (loft) loft.rack = true;
    show(view, <OffView />);
    expect(screen.queryByLabelText("Loft")).toBeNull();
    expect(screen.getByLabelText("Hall")).toBeDefined();
  });

  it("is proved room after room, and counts what was found", async () => {
    show(rooms([]), <OffView />, { answers: { "/off": off, "/matrix": { cells } } });
    fireEvent.click(screen.getByText("Prove all rooms"));
    const proof = screen.getByLabelText("Proof of the house");
    await waitFor(() => expect(proof.querySelectorAll("tbody tr")).toHaveLength(2));
    const first = proof.querySelector("tbody tr");
    expect([...(first?.children ?? [])].map((cell) => cell.textContent)).toEqual(["Hall", "2", "1", "1"]);
  });

  it("says where a proof could not be had", async () => {
    show(rooms([]), <OffView />, { answers: { "/off": off } });
    fireEvent.click(screen.getByText("Prove all rooms"));
    expect(await screen.findByText("There is none.")).toBeDefined();
  });
});
