import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { keptEdits } from "../../api/chosen";
import { client, data } from "../../api/client";
import { listEdits, putOver } from "../../api/entities";
import { useEdit } from "../../api/queries";
import type { Edit, EveningEvent, Lighting } from "../../api/types";
import { useRoom } from "../../shell/context";
import { lightingOf } from "./lighting";

/** The light of the room that is open, and how it is saved. */
export function useLighting() {
  const { house, room, say } = useRoom();
  const edit = useEdit(house.house.id);
  const own = house.rooms.find((known) => known.id === room);
  const lighting = lightingOf(own);
  const save = (change: Partial<Lighting>, said: string) => {
    if (!own) return;
    const { cues, ...light } = change;
    const { cues: before, ...now } = lighting;
    const edits: Edit[] = [];
    if (Object.keys(light).length > 0)
      edits.push(putOver(house, { entity: "light", value: { room, ...now, ...light } }));
    if (cues) {
      const sounds = cues.flatMap((cue) =>
        (cue.also ?? []).map((also) => (also.also === "chime" ? also.sound : null)),
      );
      edits.push(...keptEdits(house, sounds));
      edits.push(...listEdits(house, (cue) => ({ entity: "cue", value: { ...cue, room } }), before, cues));
    }
    edit.mutate(edits, { onSuccess: () => say(said) });
  };
  return { lighting, save, trouble: edit.error?.message };
}

/** The cue sheet in words, and the ways of starting. Read again after every edit. */
export function useCueSheet() {
  const { house, room } = useRoom();
  return useQuery({
    queryKey: ["cues", room, house.revision],
    queryFn: () =>
      data(
        client.GET("/api/houses/{house}/rooms/{room}/cues", {
          params: { path: { house: house.house.id, room } },
        }),
      ),
    placeholderData: keepPreviousData,
  });
}

/** An evening as curves. */
export function useEvening(
  start: string,
  lengthMs: number,
  activity: string | undefined,
  events?: EveningEvent[],
) {
  const { house, room } = useRoom();
  return useQuery({
    queryKey: ["evening", room, house.revision, start, lengthMs, activity, events],
    queryFn: () =>
      data(
        client.POST("/api/houses/{house}/rooms/{room}/evening", {
          params: { path: { house: house.house.id, room } },
          body: { start, length_ms: lengthMs, activity: activity ?? null, events: events ?? null },
        }),
      ),
    placeholderData: keepPreviousData,
  });
}
