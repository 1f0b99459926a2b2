import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, data } from "../../api/client";
import { keys } from "../../api/queries";
import type { Faults, RoomHand, Situation, StoryEvent, TrialRequest, TrialView, Want } from "../../api/types";
import { useRoom } from "../../shell/context";

/** The path of the room that is open. */
export function useRoomPath() {
  const { house, room } = useRoom();
  return { path: { house: house.house.id, room } };
}

/** What hands do in the rehearsal room, and what the runtime is told. */
function useMeddling() {
  const params = useRoomPath();
  const hand = useMutation({
    mutationFn: (body: RoomHand) =>
      data(client.POST("/api/houses/{house}/rooms/{room}/rehearsal/hand", { params, body })),
  });
  const fault = useMutation({
    mutationFn: (body: { device: string; faults: Faults }) =>
      data(client.POST("/api/houses/{house}/rooms/{room}/rehearsal/fault", { params, body })),
  });
  const restart = useMutation({
    mutationFn: (device: string) =>
      data(client.POST("/api/houses/{house}/rooms/{room}/rehearsal/restart", { params, body: { device } })),
  });
  const nudge = useMutation({
    mutationFn: (body: { device: string; steps: number }) =>
      data(client.POST("/api/houses/{house}/rooms/{room}/rehearsal/nudge", { params, body })),
  });
  const want = useMutation({
    mutationFn: (body: { device: string; want: Want }) =>
      data(client.POST("/api/houses/{house}/rooms/{room}/rehearsal/want", { params, body })),
  });
  const time = useMutation({
    mutationFn: (value: string) =>
      data(client.POST("/api/houses/{house}/rooms/{room}/rehearsal/time", { params, body: { time: value } })),
  });
  const flip = useMutation({
    mutationFn: (body: { switch: string; on: boolean }) =>
      data(client.POST("/api/houses/{house}/rooms/{room}/rehearsal/switch", { params, body })),
  });
  return { hand, fault, restart, nudge, want, time, flip };
}

/** Everything that can be done in the rehearsal room, and what went wrong last. */
export function useRehearse() {
  const params = useRoomPath();
  const run = useMutation({
    mutationFn: (to: Situation) =>
      data(
        client.POST("/api/houses/{house}/rooms/{room}/rehearsal/run", {
          params,
          body: { to, confirmed: false },
        }),
      ),
  });
  const runAnyway = useMutation({
    mutationFn: (to: Situation) =>
      data(
        client.POST("/api/houses/{house}/rooms/{room}/rehearsal/run", {
          params,
          body: { to, confirmed: true },
        }),
      ),
    onSuccess: () => run.reset(),
  });
  const rate = useMutation({
    mutationFn: (value: number) =>
      data(client.POST("/api/houses/{house}/rooms/{room}/rehearsal/rate", { params, body: { rate: value } })),
  });
  const step = useMutation({
    mutationFn: () =>
      data(client.POST("/api/houses/{house}/rooms/{room}/rehearsal/step", { params, body: {} })),
  });
  const stop = useMutation({
    mutationFn: () => data(client.POST("/api/houses/{house}/rooms/{room}/rehearsal/stop", { params })),
  });
  const reset = useMutation({
    mutationFn: () => data(client.POST("/api/houses/{house}/rooms/{room}/rehearsal/reset", { params })),
  });
  const complete = useMutation({
    mutationFn: () => data(client.POST("/api/houses/{house}/rooms/{room}/rehearsal/complete", { params })),
  });
  const record = useMutation({
    mutationFn: () => data(client.POST("/api/houses/{house}/rooms/{room}/rehearsal/record", { params })),
  });
  const play = useMutation({
    mutationFn: (events: StoryEvent[]) =>
      data(client.POST("/api/houses/{house}/rooms/{room}/rehearsal/play", { params, body: { events } })),
  });
  const stopPlaying = useMutation({
    mutationFn: () => data(client.DELETE("/api/houses/{house}/rooms/{room}/rehearsal/play", { params })),
  });
  const all = {
    ...useMeddling(),
    run,
    runAnyway,
    stop,
    reset,
    rate,
    step,
    complete,
    record,
    play,
    stopPlaying,
  };
  const trouble = Object.values(all)
    .map((one) => one.error)
    .find((error) => error !== null);
  return { ...all, trouble };
}

/** How the room stays in step: rules, gaps, findings. Read again after every edit. */
export function useInStep() {
  const params = useRoomPath();
  const { house } = useRoom();
  return useQuery({
    queryKey: ["in-step", params.path.room, house.revision],
    queryFn: () => data(client.GET("/api/houses/{house}/rooms/{room}/in-step", { params })),
  });
}

/** Keeps the evening that is being recorded. */
export function useKeepStory() {
  const params = useRoomPath();
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async (name: string) => {
      await data(client.POST("/api/houses/{house}/rooms/{room}/rehearsal/keep", { params, body: { name } }));
      await queries.invalidateQueries({ queryKey: keys.house(params.path.house), exact: true });
    },
  });
}

/** Plays the stories of the room again. */
export function useReplay() {
  const params = useRoomPath();
  return useMutation({
    mutationFn: () => data(client.POST("/api/houses/{house}/rooms/{room}/stories/replay", { params })),
  });
}

/** Have the trials come to an end, one way or another? */
export const isOver = (trial: TrialView) => trial.report !== null || trial.failed !== null;

/** The trials of the room, asked for again while they run. */
export function useTrials() {
  const params = useRoomPath();
  const queries = useQueryClient();
  const key = ["trials", params.path.room];
  const trials = useQuery({
    queryKey: key,
    queryFn: async () =>
      (await data(client.GET("/api/houses/{house}/rooms/{room}/trials", { params }))) ?? null,
    refetchInterval: (query) => (query.state.data && !isOver(query.state.data) ? 700 : false),
  });
  const start = useMutation({
    mutationFn: (body: TrialRequest) =>
      data(client.POST("/api/houses/{house}/rooms/{room}/trials", { params, body })),
    onSuccess: (view) => queries.setQueryData(key, view),
  });
  const cancel = useMutation({
    mutationFn: () => data(client.DELETE("/api/houses/{house}/rooms/{room}/trials", { params })),
    onSuccess: (view) => queries.setQueryData(key, view ?? null),
  });
  return { trials, start, cancel };
}
