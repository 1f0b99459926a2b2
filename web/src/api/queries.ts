import { useMutation, useQuery, useQueryClient, type QueryClient } from "@tanstack/react-query";
import { client, data, RequestError, surely } from "./client";
import { patched } from "./entities";
import type { Changed, Edit, HouseView, SeenAfter, SetKey } from "./types";

export { put } from "./entities";

/** Waiting for a server or a database that is away goes on for ever; other errors are final. */
export function retry(_count: number, error: Error): boolean {
  return error instanceof RequestError && error.passing;
}

export const keys = {
  houses: ["houses"] as const,
  house: (house: string) => ["house", house] as const,
  notes: (house: string, room: string) => ["house", house, "notes", room] as const,
  plan: (house: string, room: string, from: string, to: string) =>
    ["house", house, "plan", room, from, to] as const,
  code: (house: string, code: string, version: number) => ["house", house, "code", code, version] as const,
  log: (house: string) => ["house", house, "log"] as const,
};

export function useHouses() {
  return useQuery({ queryKey: keys.houses, queryFn: () => data(client.GET("/api/houses")) });
}

export function useHouse(house: string) {
  return useQuery({
    queryKey: keys.house(house),
    queryFn: () => data(client.GET("/api/houses/{house}", { params: { path: { house } } })),
  });
}

export function useNotes(house: string, room: string) {
  return useQuery({
    queryKey: keys.notes(house, room),
    queryFn: () =>
      data(client.GET("/api/houses/{house}/rooms/{room}/notes", { params: { path: { house, room } } })),
    placeholderData: (before) => before,
  });
}

export function usePlan(house: string, room: string, from: string, to: string, enabled = true) {
  return useQuery({
    queryKey: keys.plan(house, room, from, to),
    queryFn: () =>
      data(
        client.GET("/api/houses/{house}/rooms/{room}/plan", {
          params: { path: { house, room }, query: { from, to } },
        }),
      ),
    enabled,
    placeholderData: (before) => before,
  });
}

export function useCode(house: string, code: string | undefined, version: number) {
  return useQuery({
    queryKey: keys.code(house, code ?? "", version),
    queryFn: () =>
      data(client.GET("/api/houses/{house}/codes/{code}", { params: { path: { house, code: code ?? "" } } })),
    enabled: code !== undefined,
    // The same code a version later: what is on the screen stays until the new one is there.
    placeholderData: (before) => (before?.code.id === code ? before : undefined),
  });
}

export function useLog(house: string, open: boolean) {
  return useQuery({
    queryKey: keys.log(house),
    queryFn: () =>
      data(client.GET("/api/houses/{house}/log", { params: { path: { house }, query: { limit: 200 } } })),
    enabled: open,
  });
}

/**
 * Takes over what a change did: the house that is kept is patched, and what follows from it is asked anew. Where a
 * change was missed before it, the whole house is read again.
 */
export function takeOver(queries: QueryClient, changed: Changed): void {
  const id = changed.house;
  const known = queries.getQueryData<HouseView>(keys.house(id));
  if (known && changed.revision === known.revision + 1)
    queries.setQueryData(keys.house(id), patched(known, changed));
  else if (known && changed.revision > known.revision)
    void queries.invalidateQueries({ queryKey: keys.house(id), exact: true });
  for (const part of ["notes", "plan", "proof", "log"]) {
    const queryKey = ["house", id, part];
    // What is still on its way was asked before the change. A first answer that is awaited is not asked anew by
    // making it invalid: it has to be given up first.
    void queries.cancelQueries({ queryKey }).then(() => queries.invalidateQueries({ queryKey }));
  }
  void queries.invalidateQueries({ queryKey: keys.houses });
}

/** Sends edits as one step of the history, once. */
export function sendEdits(house: string, edits: Edit[]) {
  return surely((headers) =>
    data(client.POST("/api/houses/{house}/edits", { params: { path: { house } }, body: { edits }, headers })),
  );
}

/** Edits, or how they come of the house as it is when it is their turn. */
export type Editing = Edit[] | ((house: HouseView) => Edit[]);

/**
 * Saves edits as one step of the history, one after the other: what is typed while another edit is on its way is made of
 * what that one has saved, where it is given as a function of the house.
 */
export function useEdit(house: string) {
  const queries = useQueryClient();
  return useMutation({
    scope: { id: `edits of ${house}` },
    mutationFn: (edits: Editing) => {
      if (typeof edits !== "function") return sendEdits(house, edits);
      const known = queries.getQueryData<HouseView>(keys.house(house));
      return sendEdits(house, known ? edits(known) : []);
    },
    onSuccess: (saved) => takeOver(queries, saved.changed),
  });
}

/** Undo and redo. */
export function useHistoryStep(house: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (step: "undo" | "redo") =>
      surely((headers) =>
        step === "undo"
          ? data(client.POST("/api/houses/{house}/undo", { params: { path: { house } }, headers }))
          : data(client.POST("/api/houses/{house}/redo", { params: { path: { house } }, headers })),
      ),
    onSuccess: (saved) => takeOver(queries, saved.changed),
  });
}

/** Duplicates a device, a room or a profile, or takes a model of the library over. */
export function useCopy(house: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (what: { what: "device" | "room" | "profile" | "model"; id: string }) =>
      surely((headers) =>
        data(client.POST("/api/houses/{house}/copies", { params: { path: { house } }, body: what, headers })),
      ),
    onSuccess: (saved) => takeOver(queries, saved.changed),
  });
}

/** Keeps keys that worked as tested codes of a device; functions that its model lacks are added. */
export function useKeepProven(house: string, device: string) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: { keys: SetKey[]; note: string }) =>
      surely((headers) =>
        data(
          client.POST("/api/houses/{house}/devices/{device}/proven", {
            params: { path: { house, device } },
            body,
            headers,
          }),
        ),
      ),
    onSuccess: (saved) => takeOver(queries, saved.changed),
  });
}

/** The ways of controlling a device, the best first; asked again when the house has changed. */
export function useAdvice(house: string, device: string, revision: number) {
  return useQuery({
    queryKey: ["house", house, "advice", device, revision] as const,
    queryFn: () =>
      data(
        client.GET("/api/houses/{house}/devices/{device}/advice", { params: { path: { house, device } } }),
      ),
    placeholderData: (before) => before,
  });
}

/** The models that ship with the product. */
export function useLibrary(enabled: boolean) {
  return useQuery({ queryKey: ["library"], queryFn: () => data(client.GET("/api/library")), enabled });
}

/** What was tried on a device or a function, the newest first. */
export function useAttempts(house: string, device: string, fn?: string) {
  return useQuery({
    queryKey: ["house", house, "attempts", device, fn ?? ""] as const,
    queryFn: () =>
      data(
        client.GET("/api/houses/{house}/attempts", {
          params: { path: { house }, query: fn ? { device, function: fn } : { device } },
        }),
      ),
  });
}

/** The names that functions go by. */
export function useVocabulary() {
  return useQuery({
    queryKey: ["vocabulary"],
    queryFn: () => data(client.GET("/api/vocabulary")),
    staleTime: Number.POSITIVE_INFINITY,
  });
}

/** Codes of the house that resemble one. */
export function useTwins(house: string, code: string, version: number) {
  return useQuery({
    queryKey: ["house", house, "twins", code, version] as const,
    queryFn: () =>
      data(client.GET("/api/houses/{house}/codes/{code}/twins", { params: { path: { house, code } } })),
  });
}

/** The code sets of the house and of the library. */
export function useCodeSets(house: string, revision: number) {
  return useQuery({
    queryKey: ["house", house, "code-sets", revision] as const,
    queryFn: () => data(client.GET("/api/houses/{house}/code-sets", { params: { path: { house } } })),
    placeholderData: (before) => before,
  });
}

/** The switch matrix of a room; it is proved anew where something that it rests on was touched. */
export function useMatrix(house: string, room: string, enabled = true) {
  return useQuery({
    queryKey: ["house", house, "proof", room, "matrix"] as const,
    queryFn: ({ signal }) =>
      data(
        client.GET("/api/houses/{house}/rooms/{room}/matrix", { params: { path: { house, room } }, signal }),
      ),
    placeholderData: (before) => before,
    enabled,
  });
}

/** How far the proof of a room is, asked for again while somebody waits for it. */
export function useProving(house: string, room: string, waiting: boolean) {
  const params = { path: { house, room } };
  const progress = useQuery({
    queryKey: ["proving", house, room] as const,
    queryFn: ({ signal }) =>
      data(client.GET("/api/houses/{house}/rooms/{room}/matrix/progress", { params, signal })).then(
        (view) => view ?? null,
      ),
    enabled: waiting,
    refetchInterval: 500,
    staleTime: 0,
    gcTime: 0,
  });
  const cancel = useMutation({
    mutationFn: () => data(client.DELETE("/api/houses/{house}/rooms/{room}/matrix/progress", { params })),
  });
  return { progress: waiting ? progress.data : undefined, cancel };
}

type Ends = { from: string; to: string };

/** One cell of the matrix with its plan. */
export function useCell(house: string, room: string, ends: Ends | undefined) {
  return useQuery({
    queryKey: ["house", house, "proof", room, "cell", ends?.from, ends?.to] as const,
    queryFn: ({ signal }) =>
      data(
        client.GET("/api/houses/{house}/rooms/{room}/cell", {
          params: { path: { house, room }, query: ends ?? { from: "", to: "" } },
          signal,
        }),
      ),
    placeholderData: (before) => before,
    enabled: ends !== undefined,
  });
}

/** What would make a cell certain. */
export function useRemedies(house: string, room: string, ends: Ends) {
  return useQuery({
    queryKey: ["house", house, "proof", room, "remedies", ends.from, ends.to] as const,
    queryFn: ({ signal }) =>
      data(
        client.GET("/api/houses/{house}/rooms/{room}/remedies", {
          params: { path: { house, room }, query: ends },
          signal,
        }),
      ),
  });
}

/** What other hands do to a cell. */
export function useHands(house: string, room: string, ends: Ends) {
  return useQuery({
    queryKey: ["house", house, "proof", room, "hands", ends.from, ends.to] as const,
    queryFn: ({ signal }) =>
      data(
        client.GET("/api/houses/{house}/rooms/{room}/hands", {
          params: { path: { house, room }, query: ends },
          signal,
        }),
      ),
  });
}

/** Control over HDMI left on, or switched off. */
export function useSchools(house: string, room: string) {
  return useQuery({
    queryKey: ["house", house, "proof", room, "schools"] as const,
    queryFn: ({ signal }) =>
      data(
        client.GET("/api/houses/{house}/rooms/{room}/schools", { params: { path: { house, room } }, signal }),
      ),
  });
}

/** What can have produced what was seen. */
export function useDiagnosis(house: string, room: string, ends: Ends, seen: SeenAfter | undefined) {
  return useQuery({
    queryKey: ["house", house, "proof", room, "diagnosis", ends.from, ends.to, seen] as const,
    queryFn: ({ signal }) =>
      data(
        client.POST("/api/houses/{house}/rooms/{room}/diagnosis", {
          params: { path: { house, room }, query: ends },
          body: seen ?? { picture: null, sound: null, devices: [] },
          signal,
        }),
      ),
    enabled: seen !== undefined,
    placeholderData: (before) => before,
  });
}

/** The favourites of an activity as presses. */
export function useFavourites(house: string, activity: string) {
  return useQuery({
    queryKey: ["house", house, "plan", "favourites", activity] as const,
    queryFn: () =>
      data(
        client.GET("/api/houses/{house}/activities/{activity}/favourites", {
          params: { path: { house, activity } },
        }),
      ),
  });
}

/** The plan that switches the house off, but some rooms. */
export function useHouseOff(house: string, except: string[]) {
  return useQuery({
    queryKey: ["house", house, "plan", "off", except.join(",")] as const,
    queryFn: ({ signal }) =>
      data(
        client.GET("/api/houses/{house}/off", {
          params: { path: { house }, query: { except: except.join(",") } },
          signal,
        }),
      ),
    placeholderData: (before) => before,
  });
}

/** Keys pressed on the machine of a device. */
export function useExploration(
  house: string,
  device: string,
  start: number | null,
  keys: { function: string; wait_ms: number }[],
  revision: number,
) {
  return useQuery({
    queryKey: ["house", house, "explore", device, start, keys, revision] as const,
    queryFn: () =>
      data(
        client.POST("/api/houses/{house}/devices/{device}/explore", {
          params: { path: { house, device } },
          body: { start, keys },
        }),
      ),
    placeholderData: (before) => before,
  });
}
