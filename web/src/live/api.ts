import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { client, data, RequestError } from "../api/client";
import type { Amiss, LiveNow, LiveView } from "../api/types";
import type { Gesture } from "./gesture";

/** A surface behind its link: as it was opened, as it is now, and whether the server is there. */
export function useLive(token: string) {
  const queries = useQueryClient();
  const [now, setNow] = useState<LiveNow>();
  const [lost, setLost] = useState(false);
  const view = useQuery({
    queryKey: ["live", token],
    queryFn: () => data(client.GET("/api/live/{token}", { params: { path: { token } } })),
    staleTime: Infinity,
  });
  useEffect(() => {
    const again = () => void queries.invalidateQueries({ queryKey: ["live", token] });
    let source: EventSource | undefined;
    let timer: ReturnType<typeof setTimeout>;
    const open = () => {
      source = new EventSource(`/api/live/${token}/events`);
      source.addEventListener("live", (event) => {
        const fresh = JSON.parse(event.data as string) as LiveNow;
        setLost(false);
        setNow(fresh);
        const known = queries.getQueryData<LiveView>(["live", token]);
        if (known && known.now.version !== fresh.version) again();
      });
      source.onerror = () => {
        setLost(true);
        // A refused stream is not opened again by the browser: it may have been withdrawn.
        if (source?.readyState === EventSource.CLOSED) {
          again();
          timer = setTimeout(open, 2000);
        }
      };
    };
    open();
    return () => {
      source?.close();
      clearTimeout(timer);
    };
  }, [token, queries]);
  const withdrawn = view.error instanceof RequestError && view.error.problem.status === 410;
  return { view: view.data, error: view.error, now: now ?? view.data?.now, lost, withdrawn };
}

/** What can be done with a surface, and why it was not. */
export function usePress(token: string) {
  const params = { path: { token } };
  const press = useMutation({
    mutationFn: (body: { key: string; gesture: Gesture }) =>
      data(client.POST("/api/live/{token}/press", { params, body })),
  });
  const dim = useMutation({
    mutationFn: (body: { zone: string | null; percent: number }) =>
      data(client.POST("/api/live/{token}/dim", { params, body })),
  });
  const store = useMutation({
    mutationFn: (look: string) => data(client.POST("/api/live/{token}/store", { params, body: { look } })),
  });
  const stop = useMutation({
    mutationFn: () => data(client.POST("/api/live/{token}/stop", { params })),
  });
  return { press, dim, store, stop };
}

/** Something is not right: said, and put right. */
export function useRighting(token: string) {
  const params = { path: { token } };
  const amiss = useMutation({
    mutationFn: (what: Amiss) => data(client.POST("/api/live/{token}/not-right", { params, body: { what } })),
  });
  const right = useMutation({
    mutationFn: () => data(client.POST("/api/live/{token}/put-right", { params })),
  });
  return { amiss, right };
}

/** How soon each thing would be there from how the room stands, in s; asked again when something else is on. */
export function useSoon(token: string, now: LiveNow): Map<string, number | null> {
  const busy = now.done_percent != null;
  const soon = useQuery({
    queryKey: ["soon", token, now.version, now.status],
    queryFn: () => data(client.GET("/api/live/{token}/soon", { params: { path: { token } } })),
    enabled: !busy,
    staleTime: Infinity,
  });
  const known = (busy ? undefined : soon.data) ?? [];
  return new Map(known.map((one) => [one.activity, one.ready_s ?? null]));
}
