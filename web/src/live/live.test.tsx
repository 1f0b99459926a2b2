// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, fireEvent, render, screen, waitFor, within } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { KeyNow, LiveNow, LiveView, SurfaceKey, SurfacePage } from "../api/types";
import { Foot } from "./Foot";
import { type Hands, KeyGrid } from "./KeyGrid";
import { aroundLight, figurePlace, finishKey, shownKeys } from "./layout";
import { LiveLight } from "./LiveLight";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

type Role = NonNullable<SurfaceKey["role"]>;

function key(
  label: string,
  role: Role,
  column: number,
  row: number,
  part: Partial<SurfaceKey> = {},
): SurfaceKey {
  return { id: label, label, role, column, row, wide: 1, tall: 1, bindings: [], by_hand: false, ...part };
}

const term = (name: string): Role => ({ is: "term", name });

const PAD: SurfaceKey[] = [
  key("Start", { is: "start" }, 0, 0),
  key("Stop moving", { is: "stop-all" }, 2, 0),
  key("Finish", { is: "room-off" }, 3, 0),
  key("Up", term("Up"), 1, 2),
  key("OK", term("OK"), 1, 3),
  key("Louder", term("Volume up"), 3, 2),
  key("Softer", term("Volume down"), 3, 4),
  key("Film", { is: "look", look: "film" }, 0, 9),
  key("Play", term("Play"), 0, 6),
];

const page = (keys: SurfaceKey[], name = "Streaming"): SurfacePage => ({
  id: name,
  name,
  keys,
  activity: null,
});

const means = (own: SurfaceKey, part: Partial<KeyNow> = {}): KeyNow => ({
  key: own.id,
  lit: false,
  meanings: [{ gesture: "tap", words: own.label, held: "once" }],
  ...part,
});

function hands(
  keys: SurfaceKey[],
  now: Partial<LiveNow> = {},
  view: Partial<LiveView> = {},
): Hands & { told: string[]; pressed: string[] } {
  const told: string[] = [];
  const pressed: string[] = [];
  return {
    told,
    pressed,
    token: "t",
    lost: false,
    soon: new Map<string, number | null>([["film", 40]]),
    turn: (to) => pressed.push(`turn ${to}`),
    tell: (text) => told.push(text),
    press: (own, gesture) => pressed.push(`${own.label} ${gesture}`),
    view: {
      room: "Hall",
      surface: { id: "s", name: "Phone", kind: "phone", columns: 4, pages: [page(keys)] },
      things: [{ activity: "film", source: "disc-player", seen: true }],
      looks: [],
      may: null,
      programmer: { name: "Wren Aldous", phone: "0555" },
      ...view,
    } as unknown as LiveView,
    now: {
      version: "1",
      status: "",
      stops: true,
      zones: [],
      keys: keys.map((own) => means(own)),
      ...now,
    } as LiveNow,
  };
}

function show(what: React.ReactNode) {
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  return render(<QueryClientProvider client={queries}>{what}</QueryClientProvider>);
}

/** A stand-in of the server: what was asked, and its answers by the end of their path. */
function server(answers: Record<string, unknown>): string[] {
  const asked: string[] = [];
  vi.stubGlobal("fetch", async (request: Request) => {
    const path = new URL(request.url, "http://house").pathname;
    const text = await request.text();
    asked.push(`${path.split("/").pop() ?? ""} ${text}`.trim());
    const answer = answers[path.split("/").pop() ?? ""];
    return answer === undefined ? new Response(null, { status: 204 }) : Response.json(answer);
  });
  return asked;
}

describe("the keys of glass", () => {
  it("close up, and leave what ends the room to the foot", () => {
    const shown = shownKeys(page(PAD), true);
    expect(shown.map((own) => own.label)).not.toContain("Finish");
    expect(shown.map((own) => own.label)).not.toContain("Stop moving");
    const rows = [...new Set(shown.map((own) => own.row))].sort((a, b) => a - b);
    expect(rows).toEqual([0, 1, 2, 3, 4, 5]);
    const up = shown.find((own) => own.label === "Up");
    expect(shown.find((own) => own.label === "OK")?.row).toBe((up?.row ?? 0) + 1);
  });

  it("stand as they are on what has hard keys", () => {
    expect(shownKeys(page(PAD), false)).toEqual(PAD);
  });

  it("leave the place between louder and softer to the figure, unless something stands there", () => {
    expect(figurePlace(PAD)).toEqual({ column: 3, row: 3 });
    expect(figurePlace([...PAD, key("Silent", term("Mute"), 3, 3)])).toBeUndefined();
    expect(figurePlace(PAD.filter((own) => own.label !== "Softer"))).toBeUndefined();
  });

  it("have the light above what is of light, where that stands below everything else", () => {
    const below = (keys: SurfaceKey[]) => aroundLight(keys)[1].map((own) => [own.label, own.row]);
    expect(below(PAD)).toEqual([["Film", 0]]);
    // Something else in its first row stays above.
    expect(below([...PAD, key("10 s back", { is: "jump", on: false }, 2, 9)])).toEqual([["Film", 0]]);
    expect(below([...PAD, key("Mine", term("Next"), 0, 10)])).toEqual([]);
    expect(below([])).toEqual([]);
  });

  it("show how loud it is only where the device tells it", () => {
    const own = hands(PAD, { loudness: { tenths: 345, silent: false } });
    const { rerender } = show(<KeyGrid page={page(PAD)} hands={own} />);
    expect(screen.getByText("34.5")).toBeDefined();
    rerender(
      <QueryClientProvider client={new QueryClient()}>
        <KeyGrid page={page(PAD)} hands={hands(PAD)} />
      </QueryClientProvider>,
    );
    expect(screen.queryByText("34.5")).toBeNull();
    expect(screen.getByText("loudness")).toBeDefined();
  });

  it("say why they would do nothing, and whom a hold needs", () => {
    const [play, rest] = [key("Play", term("Play"), 0, 0), key("Rest", { is: "house-rest" }, 1, 0)];
    const own = hands([play, rest]);
    own.now.keys = [
      means(play, {
        meanings: [
          {
            gesture: "tap",
            words: "Play",
            held: "once",
            barred: "The disc player is not set up for this yet.",
          },
        ],
      }),
      means(rest, {
        meanings: [
          { gesture: "hold", words: "everything goes off. Awning may move: keep clear.", held: "once" },
        ],
      }),
    ];
    show(<KeyGrid page={page([play, rest])} hands={own} />);
    fireEvent.click(screen.getByRole("button", { name: "Play" }));
    fireEvent.click(screen.getByRole("button", { name: "Rest" }));
    expect(own.told).toEqual([
      "The disc player is not set up for this yet.",
      "Hold this key: everything goes off. Awning may move: keep clear.",
    ]);
    expect(own.pressed).toEqual([]);
  });

  it("are cards for things to start, with how soon they are there, or that they are not set up", () => {
    const film = key("Feature film", { is: "activity", activity: "film" }, 0, 0, { wide: 2 });
    const own = hands([film]);
    const { rerender } = show(<KeyGrid page={page([film])} hands={own} />);
    expect(screen.getByText("ready in 40 s")).toBeDefined();
    rerender(
      <QueryClientProvider client={new QueryClient()}>
        <KeyGrid page={page([film])} hands={{ ...own, soon: new Map([["film", null]]) }} />
      </QueryClientProvider>,
    );
    expect(screen.getByText("not set up yet")).toBeDefined();
  });

  it("are barred while the house is away", () => {
    const play = key("Play", term("Play"), 0, 0);
    const own = { ...hands([play]), lost: true };
    show(<KeyGrid page={page([play])} hands={own} />);
    fireEvent.click(screen.getByRole("button", { name: "Play" }));
    expect(own.told).toEqual(["No connection to the house."]);
  });
});

describe("the foot", () => {
  it("stops what moves at once, and finishes by the key of the surface", async () => {
    const asked = server({});
    const own = hands(PAD);
    expect(finishKey(own.view)?.label).toBe("Finish");
    show(<Foot hands={own} />);
    fireEvent.click(screen.getByRole("button", { name: "Stop moving" }));
    await waitFor(() => expect(asked).toContain("stop"));
    fireEvent.click(screen.getByRole("button", { name: "Finish" }));
    expect(own.pressed).toEqual(["Finish tap"]);
  });

  it("offers no stop where nothing can move", () => {
    show(<Foot hands={hands(PAD, { stops: false })} />);
    expect(screen.queryByRole("button", { name: "Stop moving" })).toBeNull();
  });

  it("asks what is not right in four pictures, and puts it right after keep clear", async () => {
    const asked = server({ "not-right": { to: "Streaming", takes_s: 130, moves: ["Screen", "Blind"] } });
    show(<Foot hands={hands(PAD)} />);
    fireEvent.click(screen.getByRole("button", { name: "Not right?" }));
    const sheet = within(screen.getByRole("dialog"));
    const wrong = ["No picture", "No sound", "Too dark or too bright", "Something else"];
    for (const name of wrong) expect(sheet.getByRole("button", { name })).toBeDefined();
    fireEvent.click(sheet.getByRole("button", { name: "No picture" }));
    expect(await sheet.findByText("Keep clear: Screen, Blind may move.")).toBeDefined();
    expect(asked[0]).toBe('not-right {"what":"no-picture"}');
    expect(sheet.getByText(/Call Wren Aldous/)).toBeDefined();
    fireEvent.click(sheet.getByRole("button", { name: "We keep clear: put it right" }));
    await waitFor(() => expect(asked).toContain("put-right"));
    await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
  });

  it("promises nothing where nobody can", async () => {
    server({ "not-right": { to: null, takes_s: null, moves: [] } });
    show(<Foot hands={hands(PAD)} />);
    fireEvent.click(screen.getByRole("button", { name: "Not right?" }));
    fireEvent.click(screen.getByRole("button", { name: "Something else" }));
    expect(await screen.findByText("From here nobody can promise to put it right.")).toBeDefined();
    expect(screen.queryByRole("button", { name: /put it right/ })).toBeNull();
  });

  it("offers the lights of the room where it is too dark or too bright", async () => {
    const asked = server({ "not-right": { to: "Streaming", takes_s: 1, moves: [] }, press: { page: null } });
    show(<Foot hands={hands(PAD)} />);
    fireEvent.click(screen.getByRole("button", { name: "Not right?" }));
    fireEvent.click(screen.getByRole("button", { name: "Too dark or too bright" }));
    fireEvent.click(await screen.findByRole("button", { name: "Film" }));
    await waitFor(() => expect(asked).toContain('press {"key":"Film","gesture":"tap"}'));
  });
});

describe("the light under a finger", () => {
  const zones = [
    { zone: "a", name: "Ceiling", percent: 60 },
    { zone: "b", name: "Steps", percent: 20 },
  ];
  const may = { least_percent: 5, most_percent: 80 };

  it("is one slider for all, and one for each lamp", () => {
    const set: unknown[] = [];
    const dim = { mutate: (body: unknown) => set.push(body) } as never;
    const own = hands(PAD, { zones, together_percent: 40, light: "Film · Steps at 20 %" });
    show(
      <LiveLight view={own.view} now={own.now} may={may} dim={dim} store={dim} onTell={() => undefined} />,
    );
    expect(screen.getByText("Film · Steps at 20 %")).toBeDefined();
    const all = screen.getByLabelText("All the light");
    fireEvent.change(all, { target: { value: "20" } });
    fireEvent.pointerUp(all);
    expect(set).toEqual([{ zone: null, percent: 20 }]);
    const lamp = screen.getByRole("slider", { name: "Steps", hidden: true });
    fireEvent.change(lamp, { target: { value: "70" } });
    fireEvent.pointerUp(lamp);
    expect(set.at(-1)).toEqual({ zone: "b", percent: 70 });
  });
});
