// @vitest-environment jsdom
import { cleanup, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";
import { device, house, model, show } from "../../../testing/house";
import { GatewaysPart, lookingWords } from "./GatewaysPart";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

describe("how far the search for gateways is", () => {
  it("is told in words, prices as one writes them", () => {
    expect(lookingWords({ part: "weighing", done: 12, of: 432 })).toBe(
      "What each box reaches from each place: 12 of 432.",
    );
    expect(lookingWords({ part: "choosing", best: null, bound: 5800 })).toBe(
      "No set yet; none costs less than 58.",
    );
    expect(lookingWords({ part: "choosing", best: 7450, bound: 5800 })).toBe(
      "The best set so far costs 74.50; none costs less than 58.",
    );
    expect(lookingWords({ part: "comparing" })).toContain("The set is found");
  });
});

const found = {
  boxes: [
    {
      profile: "box",
      room: "hall",
      spot: "shelf",
      at_mm: [0, 0, 0],
      azimuth_deg: 0,
      price: 2900,
      serves: [
        { device: "r", margin_db: 9.4, lead: false },
        { device: "d", margin_db: 0, lead: true },
      ],
    },
  ],
  price: 2900,
  bound: 2900,
  proved: true,
  stopped: false,
  least_db: 9.4,
  apart: [],
  others: [],
  unreached: [],
  unknown: ["p"],
  words: ["One box at 29 reaches everything; no set is cheaper."],
};

const own = () =>
  house({
    profiles: [
      model("receiver", "r"),
      model("display", "d"),
      model("projector", "p"),
      model("gateway", "box"),
    ],
    devices: [device("r", "Receiver"), device("d", "Display"), device("p", "Projector")],
  });

describe("the cheapest set of gateways", () => {
  it("is found for the room or the whole house, with what each box serves, and what was left out", async () => {
    const seen = show(own(), <GatewaysPart />, { answers: { "/gateways": found } });
    await userEvent.click(screen.getByRole("checkbox", { name: "the whole house" }));
    await userEvent.click(screen.getByRole("button", { name: "Find the cheapest set" }));
    const set = await screen.findByTestId("gateway-set");
    expect(set.textContent).toContain("One box at 29 reaches everything; no set is cheaper.");
    expect(within(set).getByRole("listitem").textContent).toContain("Hall, shelf");
    expect(within(set).getByRole("listitem").textContent).toContain("Receiver 9 dB, Display by a lead");
    expect(set.textContent).toContain(
      "Left out, since they are not placed or nothing is known of them: Projector.",
    );
    const asked = seen.asked.find((one) => one.path.endsWith("/gateways"));
    expect(asked?.body).toEqual({ whole_house: true });
  });

  it("is put into the house in one step", async () => {
    const changed = { house: "h", revision: 2, put: [], taken: [], behaves: {}, undo: null, redo: null };
    const seen = show(own(), <GatewaysPart />, {
      answers: {
        "/gateways": found,
        "/gateways/apply": { title: "One gateway put into the house.", made: null, again: false, changed },
      },
    });
    await userEvent.click(screen.getByRole("button", { name: "Find the cheapest set" }));
    await userEvent.click(await screen.findByRole("button", { name: "Put them into the house" }));
    await waitFor(() => expect(seen.said).toEqual(["One gateway put into the house."]));
  });

  it("tells how far it is, and can be cancelled", async () => {
    const seen = show(own(), <GatewaysPart />, {
      answers: { "/gateways/progress": { part: "weighing", done: 3, of: 40 } },
    });
    // A search that does not end by itself.
    const answered = globalThis.fetch;
    vi.stubGlobal("fetch", (request: Request) =>
      new URL(request.url).pathname.endsWith("/gateways")
        ? new Promise((_, fail) =>
            request.signal.addEventListener("abort", () => fail(new DOMException("gone", "AbortError"))),
          )
        : answered(request),
    );
    await userEvent.click(screen.getByRole("button", { name: "Find the cheapest set" }));
    expect(await screen.findByText("What each box reaches from each place: 3 of 40.")).toBeTruthy();
    expect(screen.getByRole("progressbar", { name: "Places weighed" }).getAttribute("max")).toBe("40");
    await userEvent.click(screen.getByRole("button", { name: "Cancel" }));
    await screen.findByRole("button", { name: "Find the cheapest set" });
    expect(screen.queryByTestId("gateway-set")).toBeNull();
    expect(seen.said).toEqual([]);
  });

  it("says why nothing can be worked out", async () => {
    show(own(), <GatewaysPart />, { refuse: "Nothing is placed in this room." });
    await userEvent.click(screen.getByRole("button", { name: "Find the cheapest set" }));
    expect(await screen.findByText("Nothing is placed in this room.")).toBeTruthy();
  });
});
