import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCancel } from "../api/cancel";
import { client, data } from "../api/client";
import { sendFile } from "../api/files";
import { keys } from "../api/queries";
import type { BackupPreview, Made, Manifest, Shelf, SitePreview, StartingPoint } from "../api/types";

/** Below that of the houses: whatever changes a house makes the shelf be read again. */
const SHELF = [...keys.houses, "shelf"] as const;

/** All houses; asked again soon while something of them is still being worked out. */
export function useShelf() {
  return useQuery({
    queryKey: SHELF,
    queryFn: () => data(client.GET("/api/shelf")),
    staleTime: 0,
    refetchInterval: (query) => (isBehind(query.state.data) ? 1_500 : 20_000),
  });
}

/** Is something said of a house that was true of an earlier revision? */
export function isBehind(shelf: Shelf | undefined): boolean {
  return shelf?.houses.some((house) => house.as_of !== house.revision) ?? false;
}

/** What a room may begin with. */
export function useStartingPoints() {
  return useQuery({
    queryKey: ["starting-points"],
    queryFn: () => data(client.GET("/api/starting-points")),
    staleTime: Number.POSITIVE_INFINITY,
  });
}

/** Something that changes the shelf: it is read again afterwards, whatever came of it. */
function useShelfAction<Asked, Answer>(act: (asked: Asked) => Promise<Answer>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: act,
    onSettled: () => void queries.invalidateQueries({ queryKey: keys.houses }),
  });
}

export const useStartHouse = () => useShelfAction(startHouse);

export const useDemoHouse = () => useShelfAction<undefined, Made>(() => data(client.POST("/api/shelf/demo")));

function startHouse(body: {
  name: string;
  note: string;
  client: string;
  rooms: { name: string; start: StartingPoint }[];
}) {
  return data(client.POST("/api/houses", { body }));
}

export const useCopyHouse = () =>
  useShelfAction((house: string) =>
    data(client.POST("/api/houses/{house}/copy", { params: { path: { house } } })),
  );

export const useRemoveHouse = () =>
  useShelfAction((house: string) =>
    data(client.DELETE("/api/houses/{house}", { params: { path: { house } } })),
  );

export const usePutBack = () =>
  useShelfAction((house: string) =>
    data(client.POST("/api/shelf/removed/{house}", { params: { path: { house } } })),
  );

export const useDaily = () =>
  useShelfAction((body: Shelf["daily"]) => data(client.PUT("/api/shelf/daily-backup", { body })));

/** An action on a file that can be ended while it is under way. */
function useSending<Asked, Answer>(act: (asked: Asked, signal: AbortSignal) => Promise<Answer>) {
  const { signal, cancel } = useCancel();
  const action = useShelfAction((asked: Asked) => act(asked, signal()));
  return { ...action, cancel };
}

export const useLookAtFile = () =>
  useSending((file: File, signal) => sendFile<SitePreview>("/api/shelf/imports/preview", file, signal));

export const useTakeFile = () =>
  useSending(({ file, how }: { file: File; how: "new" | "copy" | "replace" }, signal) =>
    sendFile<Made>(`/api/shelf/imports?how=${how}`, file, signal),
  );

export const useLookAtBackup = () =>
  useSending((file: File, signal) => sendFile<BackupPreview>("/api/restore/preview", file, signal));

export const useRestore = () =>
  useSending((file: File, signal) => sendFile<Manifest>("/api/restore", file, signal));
