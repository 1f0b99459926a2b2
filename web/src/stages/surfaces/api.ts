import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo } from "react";
import { client, data } from "../../api/client";
import { putOver, take } from "../../api/entities";
import { useEdit } from "../../api/queries";
import type { Binding, Surface, SurfacePage, Voice } from "../../api/types";
import { useRoom } from "../../shell/context";
import { surfaceEdits } from "./pictures";

function usePath() {
  const { house, room } = useRoom();
  return { path: { house: house.house.id, room } };
}

/** The surfaces of the room that is open, what is said in it, and how both are saved. */
export function useSurfaces() {
  const { house, room, say } = useRoom();
  const edit = useEdit(house.house.id);
  const own = house.rooms.find((known) => known.id === room);
  const surfaces = own?.surfaces ?? [];
  const voice: Required<Omit<Voice, "synced">> & Pick<Voice, "synced"> = {
    names: [],
    synced: null,
    ...own?.voice,
  };
  const saveIn = (id: string, surface: Surface, said: string) => {
    const there = house.rooms.find((known) => known.id === id)?.surfaces ?? [];
    const known = there.find((one) => one.id === surface.id);
    const last = Math.max(-1, ...there.map((one) => one.position ?? 0));
    const position = known ? known.position : last + 1;
    edit.mutate(surfaceEdits(house, { ...surface, position }, id), { onSuccess: () => say(said) });
  };
  const save = (surface: Surface, said: string) => saveIn(room, surface, said);
  const saveVoice = (next: Voice, said: string) =>
    edit.mutate([putOver(house, { entity: "voice", value: { ...next, room } })], {
      onSuccess: () => say(said),
    });
  const remove = (id: string) =>
    edit.mutate([take(house, "surface", id)], {
      onSuccess: () => say("Surface removed. Undo brings it back."),
    });
  const savePage = (surface: Surface, page: SurfacePage, said: string) =>
    save({ ...surface, pages: (surface.pages ?? []).map((one) => (one.id === page.id ? page : one)) }, said);
  return { surfaces, voice, save, savePage, saveIn, saveVoice, remove, trouble: edit.error?.message };
}

/** What can be done with the surfaces of the room. */
export type SurfaceActions = ReturnType<typeof useSurfaces>;

/** Lays a surface out from the activities of the room. */
export function useGenerate() {
  const params = usePath();
  return useMutation({
    mutationFn: (surface: Surface) =>
      data(client.POST("/api/houses/{house}/rooms/{room}/surfaces/generate", { params, body: surface })),
  });
}

/** A page as it would be in another room. */
export function useCopyPage() {
  const params = usePath();
  return useMutation({
    mutationFn: (body: { page: string; surface: string; to_room: string; to: string }) =>
      data(client.POST("/api/houses/{house}/rooms/{room}/surfaces/copy", { params, body })),
  });
}

/** A surface against the old remotes, the guest test, its labels and its trial. Read again after every edit. */
export function useSheet(surface: string) {
  const { house, room } = useRoom();
  return useQuery({
    queryKey: ["surface", room, surface, house.revision],
    queryFn: () =>
      data(
        client.GET("/api/houses/{house}/rooms/{room}/surfaces/{surface}", {
          params: { path: { house: house.house.id, room, surface } },
        }),
      ),
    placeholderData: keepPreviousData,
  });
}

/** What every key of a surface does in an activity, by its gestures. Read again after every edit. */
export function useMeant(surface: string, activity: string | undefined) {
  const { house, room } = useRoom();
  const meant = useQuery({
    queryKey: ["surface-keys", room, surface, activity ?? "", house.revision],
    queryFn: () =>
      data(
        client.GET("/api/houses/{house}/rooms/{room}/surfaces/{surface}/keys", {
          params: { path: { house: house.house.id, room, surface }, query: activity ? { activity } : {} },
        }),
      ),
    placeholderData: keepPreviousData,
  });
  return useMemo(() => {
    const byKey = new Map<string, Partial<Record<NonNullable<Binding["gesture"]>, Binding>>>();
    for (const { key, ...binding } of meant.data ?? [])
      byKey.set(key, { ...byKey.get(key), [binding.gesture ?? "tap"]: binding });
    return meant.data && byKey;
  }, [meant.data]);
}

/** The names that people say, their collisions, and the phrases. Read again after every edit. */
export function useVoice() {
  const { house, room } = useRoom();
  const params = usePath();
  return useQuery({
    queryKey: ["voice", room, house.revision],
    queryFn: () => data(client.GET("/api/houses/{house}/rooms/{room}/voice", { params })),
    placeholderData: keepPreviousData,
  });
}

/** The links to the surfaces of the room. */
export function useLinks() {
  const params = usePath();
  const queries = useQueryClient();
  const key = ["surface-links", params.path.room];
  const again = () => void queries.invalidateQueries({ queryKey: key });
  const links = useQuery({
    queryKey: key,
    queryFn: () => data(client.GET("/api/houses/{house}/rooms/{room}/surface-links", { params })),
  });
  const make = useMutation({
    mutationFn: (body: { surface: string; label: string }) =>
      data(client.POST("/api/houses/{house}/rooms/{room}/surface-links", { params, body })),
    onSuccess: again,
  });
  const withdraw = useMutation({
    mutationFn: (token: string) =>
      data(
        client.DELETE("/api/houses/{house}/rooms/{room}/surface-links/{token}", {
          params: { path: { ...params.path, token } },
        }),
      ),
    onSuccess: again,
  });
  return { links, make, withdraw };
}
