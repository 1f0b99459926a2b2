import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { render, screen } from "@testing-library/react";
import type { ReactNode } from "react";
import { MemoryRouter, useLocation } from "react-router";
import { vi } from "vitest";
import { idOf, keyOf } from "../api/entities";
import { keys } from "../api/queries";
import type { Device, Edit, HouseView, Profile } from "../api/types";
import { RoomValue } from "../shell/context";
import { newProfile } from "../stages/kit/form";

/** A model of its own id, with keys whose ids are their names. */
export function model(kind: Profile["kind"], id: string, part: Partial<Profile> = {}): Profile {
  const made = newProfile(kind, "Maker", id);
  const named = new Map(made.functions.map((known) => [known.id, known.name]));
  const text = JSON.stringify({ ...made, id }, (_, value: unknown) =>
    typeof value === "string" ? (named.get(value) ?? value) : value,
  );
  return { ...(JSON.parse(text) as Profile), ...part };
}

/** A device of the hall whose model has the same id. */
export function device(id: string, name: string, part: Partial<Device> = {}): Device {
  return { id, name, profile: id, room: "hall", position: 0, behind: null, ...part } as Device;
}

/** A house of a hall and a loft, every version 1. */
export function house(part: Partial<HouseView> = {}): HouseView {
  const view = {
    house: { id: "h", name: "House" },
    rooms: [
      { id: "hall", name: "Hall", position: 0 },
      { id: "loft", name: "Loft", position: 1 },
    ],
    devices: [],
    behaves: {},
    profiles: [],
    connections: [],
    codes: [],
    code_sets: [],
    activities: [],
    placed: [],
    protocols: [],
    measurements: [],
    results: [],
    orders: [],
    versions: {},
    revision: 1,
    undo: null,
    redo: null,
    ...part,
  } as unknown as HouseView;
  const own = [...view.rooms, ...view.devices, ...view.profiles, ...view.activities];
  view.behaves = {
    ...Object.fromEntries(view.devices.map((own) => [own.id, { serves: [own.room], own: null }])),
    ...part.behaves,
  };
  view.versions = { ...Object.fromEntries(own.map((entity) => [entity.id, 1])), ...part.versions };
  return view;
}

/** What was sent to the stand-in of the server, and what the page said. */
export interface Seen {
  edits: {
    do: string;
    base?: number | null;
    entity?: { entity: string; value: Record<string, unknown> };
  }[][];
  asked: { method: string; path: string; body: unknown }[];
  said: string[];
  at: string;
}

/** What was sent: JSON, or a text as it is. */
function bodyOf(text: string): unknown {
  if (!text) return undefined;
  try {
    return JSON.parse(text) as unknown;
  } catch {
    return text;
  }
}

/** A stand-in of the server: edits are taken, or refused with a sentence; what else is asked is answered from `answers`. */
function serve(seen: Seen, answers: Record<string, unknown>, refuse: string | undefined) {
  vi.stubGlobal("fetch", async (request: Request) => {
    const path = new URL(request.url).pathname;
    const text = await request.text();
    const body = bodyOf(text);
    seen.asked.push({ method: request.method, path, body });
    if (request.method !== "GET" && refuse) {
      return Response.json(
        { status: 422, title: "Refused", kind: "invalid", detail: refuse },
        { status: 422 },
      );
    }
    if (path.endsWith("/edits")) seen.edits.push((body as { edits: Seen["edits"][number] }).edits);
    const known = Object.entries(answers).find(([end]) => path.endsWith(end));
    if (known) return Response.json(known[1]);
    if (request.method === "GET") {
      return Response.json(
        { status: 404, title: "None", kind: "none", detail: "There is none." },
        { status: 404 },
      );
    }
    const revision = 1 + Math.max(1, seen.edits.length);
    const put = (path.endsWith("/edits") ? (body as { edits: Edit[] }).edits : []).flatMap((edit) => {
      if (edit.do !== "put") return [];
      const key = keyOf(edit.entity.entity, idOf(edit.entity));
      return [{ ...edit.entity, key, version: (edit.base ?? 0) + 1 }];
    });
    const changed = { house: "h", revision, put, taken: [], behaves: {}, undo: null, redo: null };
    return Response.json({ title: "Saved.", made: null, at: "2026-01-01T00:00:00Z", again: false, changed });
  });
}

/** Shows a part of the page in the hall of a house. */
export function show(
  view: HouseView,
  part: ReactNode,
  { answers = {}, refuse }: { answers?: Record<string, unknown>; refuse?: string } = {},
): Seen {
  const seen: Seen = { edits: [], asked: [], said: [], at: "" };
  serve(seen, answers, refuse);
  const queries = new QueryClient({
    defaultOptions: { queries: { retry: false }, mutations: { retry: false } },
  });
  queries.setQueryData(keys.house(view.house.id), view);
  function Where() {
    seen.at = useLocation().pathname;
    return null;
  }
  const value = {
    house: view,
    room: "hall",
    devices: view.devices.filter((known) => known.room === "hall"),
    say: (line: string) => void seen.said.push(line),
    go: (stage: string) => void (seen.at = stage),
  };
  render(
    <QueryClientProvider client={queries}>
      <MemoryRouter>
        <Where />
        <RoomValue.Provider value={value}>{part}</RoomValue.Provider>
      </MemoryRouter>
    </QueryClientProvider>,
  );
  return seen;
}

/** The field with this label; the label of a figure has its unit behind it. */
export function labelled(label: string, at = 0): HTMLInputElement {
  const exact = screen.queryAllByLabelText(label);
  const found = exact.length > at ? exact : screen.getAllByLabelText((text) => text.startsWith(label));
  return found[at] as HTMLInputElement;
}
