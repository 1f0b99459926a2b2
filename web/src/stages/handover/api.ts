import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, data, surely } from "../../api/client";
import { takeOver } from "../../api/queries";
import type { Outcome, Saved, SeenIn, TestOf, Timing, CountedBurst } from "../../api/types";
import { useRoom } from "../../shell/context";

/** The path of the room that is open. */
export function useRoomPath() {
  const { house, room } = useRoom();
  return { path: { house: house.house.id, room } };
}

/** What can be measured in the room. Asked again after every edit. */
export function useStopwatch() {
  const params = useRoomPath();
  const { house } = useRoom();
  return useQuery({
    queryKey: ["house", params.path.house, "stopwatch", params.path.room, house.revision],
    queryFn: () => data(client.GET("/api/houses/{house}/rooms/{room}/stopwatch", { params })),
    placeholderData: (before) => before,
  });
}

/** What taking the readings of a time over would change. */
export function useEffectOf(device: string, timing: Timing, rehearsed: boolean, asked: boolean) {
  const params = useRoomPath();
  const { house } = useRoom();
  return useQuery({
    queryKey: ["house", params.path.house, "effect", device, timing, rehearsed, house.revision],
    queryFn: () =>
      data(
        client.POST("/api/houses/{house}/rooms/{room}/stopwatch/effect", {
          params,
          body: { device, timing, rehearsed },
        }),
      ),
    enabled: asked,
    placeholderData: (before) => before,
  });
}

/** The tests of the room. Asked again after every edit. */
export function useTests() {
  const params = useRoomPath();
  const { house } = useRoom();
  return useQuery({
    queryKey: ["house", params.path.house, "tests", params.path.room, house.revision],
    queryFn: () => data(client.GET("/api/houses/{house}/rooms/{room}/tests", { params })),
    placeholderData: (before) => before,
  });
}

/** Something that the server does as one step of the history: the page takes it over, and says it in the log line. */
function useStep<T>(send: (body: T, headers: Record<string, string>) => Promise<Saved>) {
  const queries = useQueryClient();
  const { say } = useRoom();
  return useMutation({
    mutationFn: (body: T) => surely((headers) => send(body, headers)),
    onSuccess: (saved) => {
      takeOver(queries, saved.changed);
      say(saved.title);
    },
  });
}

/** Keeps a lap of the stopwatch. */
export function useKeepLap() {
  const params = useRoomPath();
  return useStep(
    (body: { device: string; timing: Timing; ms: number; timed_out: boolean; seen: SeenIn }, headers) =>
      data(client.POST("/api/houses/{house}/rooms/{room}/stopwatch/lap", { params, body, headers })),
  );
}

/** Takes readings over. */
export function useTakeOver() {
  const params = useRoomPath();
  return useStep((body: { device: string; timing: Timing }, headers) =>
    data(client.POST("/api/houses/{house}/rooms/{room}/stopwatch/take", { params, body, headers })),
  );
}

/** Keeps the bursts of the gap finder. */
export function useTakeGap() {
  const params = useRoomPath();
  return useStep(
    (
      body: { device: string; timing: Timing; tried: CountedBurst[]; seen: SeenIn; longest: boolean },
      headers,
    ) => data(client.POST("/api/houses/{house}/rooms/{room}/gap/take", { params, body, headers })),
  );
}

/** What was seen of a test. */
export interface SeenOfTest {
  of: TestOf;
  outcome: Outcome;
  note: string;
  photo: string | null;
  /** When the result on the list was written down; none where there was none. */
  known: string | null;
  at: string;
}

/** Writes a result down. */
export function useWriteDown() {
  const params = useRoomPath();
  return useStep((body: SeenOfTest, headers) =>
    data(client.POST("/api/houses/{house}/rooms/{room}/tests/result", { params, body, headers })),
  );
}

/** Lets the rehearsal room do a test. */
export function useRehearseTest() {
  const params = useRoomPath();
  return useStep((of: TestOf, headers) =>
    data(client.POST("/api/houses/{house}/rooms/{room}/tests/rehearse", { params, body: { of }, headers })),
  );
}
