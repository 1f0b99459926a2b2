// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { KeyNow, SurfaceKey } from "../api/types";
import { house, show } from "../testing/house";
import type { Hands } from "./KeyGrid";
import { LiveKey } from "./LiveKey";
import { NotRight } from "./NotRight";

afterEach(() => {
  cleanup();
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

const key = (part: Partial<SurfaceKey> = {}) =>
  ({ id: "k", label: "Film", column: 0, row: 1, role: null, ...part }) as SurfaceKey;

const means = (gesture: string, words: string, part: object = {}) => ({
  gesture,
  words,
  barred: null,
  page: null,
  ...part,
});

const state = (meanings: object[], part: object = {}) =>
  ({ key: "k", lit: false, way: null, meanings, ...part }) as unknown as KeyNow;

function hands(part: Partial<Hands> = {}) {
  const calls = { press: vi.fn(), tell: vi.fn(), turn: vi.fn() };
  const all = {
    token: "t",
    view: {
      room: "Hall",
      programmer: { name: "Ada", phone: "0" },
      things: [],
      surface: { kind: "phone", pages: [] },
    },
    now: { status: "Off", done_percent: null, activity: null },
    lost: false,
    soon: new Map(),
    ...calls,
    ...part,
  } as unknown as Hands;
  return { all, calls };
}

function shown(own: SurfaceKey, now: KeyNow | undefined, part: Partial<Hands> = {}) {
  const { all, calls } = hands(part);
  show(house(), <LiveKey own={own} now={now} hands={all} />);
  return { ...calls, button: screen.getByRole("button") };
}

describe("a key under a finger", () => {
  it("does what a tap means", async () => {
    const { button, press } = shown(key(), state([means("tap", "starts the film")]));
    await userEvent.click(button);
    expect(press).toHaveBeenCalledTimes(1);
    expect(press.mock.calls[0]?.[1]).toBe("tap");
  });

  it("is pressed by a keyboard and by a reader, too", () => {
    const { button, press } = shown(key(), state([means("tap", "starts the film")]));
    fireEvent.click(button, { detail: 0 });
    expect(press).toHaveBeenCalledTimes(1);
  });

  it("is held for what a hold means, and says so to whoever taps it", async () => {
    const { button, press, tell } = shown(key(), state([means("hold", "everything off")]));
    expect(button.getAttribute("title")).toBe("held: everything off");
    fireEvent.click(button, { detail: 0 });
    expect(tell).toHaveBeenCalledWith("Hold this key: everything off");
    expect(press).not.toHaveBeenCalled();
    vi.useFakeTimers();
    fireEvent.pointerDown(button, { button: 0 });
    vi.advanceTimersByTime(700);
    fireEvent.pointerUp(button);
    expect(press.mock.calls[0]?.[1]).toBe("hold");
  });

  it("turns to a page", () => {
    const { button, press, turn } = shown(
      key(),
      state([means("tap", "shows the lights", { page: "lights" })]),
    );
    fireEvent.click(button, { detail: 0 });
    expect(turn).toHaveBeenCalledWith("lights");
    expect(press).not.toHaveBeenCalled();
  });

  it("is faint with its reason where it would do nothing", () => {
    const barred = "The projector is cooling.";
    const { button, press, tell } = shown(key(), state([means("tap", "starts the film", { barred })]));
    expect(button.getAttribute("aria-disabled")).toBe("true");
    fireEvent.click(button, { detail: 0 });
    expect(tell).toHaveBeenCalledWith(barred);
    expect(press).not.toHaveBeenCalled();
  });

  it("does nothing that nobody has put on it, and nothing while the house is not reached", () => {
    const nothing = shown(key(), state([]));
    fireEvent.click(nothing.button, { detail: 0 });
    expect(nothing.tell).toHaveBeenCalledWith("Nothing here.");
    cleanup();
    const lost = shown(key(), state([means("tap", "starts the film")]), { lost: true });
    fireEvent.click(lost.button, { detail: 0 });
    expect(lost.tell).toHaveBeenCalledWith("No connection to the house.");
  });

  it("is lit by what is known, and says how soon a thing would be there", () => {
    const film = key({ role: { is: "activity", activity: "film" } as never });
    const lit = shown(film, state([means("tap", "starts the film")], { lit: true }));
    expect(lit.button.getAttribute("aria-pressed")).toBe("true");
    expect(lit.button.textContent).toContain("on now");
    cleanup();
    const soon = shown(film, state([means("tap", "starts the film")]), { soon: new Map([["film", 42]]) });
    expect(soon.button.textContent).toContain("ready in 42 s");
    cleanup();
    const never = shown(film, state([means("tap", "starts the film")]), { soon: new Map([["film", null]]) });
    expect(never.button.textContent).toContain("not set up yet");
  });

  it("shows the user's own picture", () => {
    shown(key({ picture: "p" }), state([means("tap", "starts the film")]));
    expect(screen.getByRole("img", { name: "Film" }).getAttribute("src")).toBe("/api/live/t/pictures/p");
  });
});

describe("something that is not right", () => {
  const sheet = (answers: Record<string, unknown>, part: Partial<Hands> = {}, refuse?: string) => {
    const { all, calls } = hands(part);
    const onClose = vi.fn();
    const seen = show(house(), <NotRight hands={all} onClose={onClose} />, {
      answers,
      ...(refuse && { refuse }),
    });
    return { seen, calls, onClose };
  };

  it("is put right from here, after everybody keeps clear of what moves", async () => {
    const { seen, onClose } = sheet({
      "/not-right": { to: "Feature film", moves: ["Screen"], takes_s: 40 },
      "/put-right": {},
    });
    await userEvent.click(screen.getByRole("button", { name: "No picture" }));
    expect(await screen.findByText("Keep clear: Screen may move.")).toBeTruthy();
    expect(screen.getByText(/It takes up to 40 s/)).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "We keep clear: put it right" }));
    await waitFor(() => expect(onClose).toHaveBeenCalled());
    expect(seen.asked.some((asked) => asked.path.endsWith("/put-right"))).toBe(true);
  });

  it("is not promised where nobody can", async () => {
    sheet({ "/not-right": { to: null, moves: [], takes_s: null } });
    await userEvent.click(screen.getByRole("button", { name: "No sound" }));
    expect(await screen.findByText("From here nobody can promise to put it right.")).toBeTruthy();
    expect(screen.getByText(/What you said is written down/)).toBeTruthy();
  });

  it("of the light offers the looks of the room, each once", async () => {
    const look = (id: string, label: string) =>
      key({ id, label, role: { is: "look", look: label } as never });
    const pages = [
      { id: "1", keys: [look("a", "Bright"), look("b", "Dim")] },
      { id: "2", keys: [look("c", "Bright")] },
    ];
    const view = { programmer: {}, things: [], surface: { kind: "phone", pages } } as never;
    const { seen, onClose } = sheet(
      { "/not-right": { to: null, moves: [] }, "/press": { page: null } },
      { view },
    );
    await userEvent.click(screen.getByRole("button", { name: "Too dark or too bright" }));
    expect(screen.getAllByRole("button", { name: "Bright" })).toHaveLength(1);
    await userEvent.click(screen.getByRole("button", { name: "Dim" }));
    await waitFor(() => expect(onClose).toHaveBeenCalled());
    expect(seen.asked.find((asked) => asked.path.endsWith("/press"))?.body).toMatchObject({ key: "b" });
  });

  it("says what went wrong with asking, and whom to call", async () => {
    sheet({}, {}, "The house does not answer.");
    await userEvent.click(screen.getByRole("button", { name: "Something else" }));
    expect(await screen.findByText(/The house does not answer\./)).toBeTruthy();
  });
});
