import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { PAGE } from "./client";
import { keys, takeOver } from "./queries";
import type { Edited, HouseView, RehearsalView } from "./types";

/** Reads the house again when another page has changed it, and hands on what happened. */
export function useLiveHouse(house: string, tell: (edited: Edited) => void): void {
  const queries = useQueryClient();
  const told = useRef(tell);
  useEffect(() => {
    told.current = tell;
  });
  useEffect(() => {
    const source = new EventSource(`/api/houses/${house}/events`);
    const refresh = () => void queries.invalidateQueries({ queryKey: keys.house(house) });
    source.addEventListener("edited", (event) => {
      const edited = JSON.parse(event.data as string) as Edited;
      const known = queries.getQueryData<HouseView>(keys.house(house));
      if (known && known.revision >= edited.changed.revision) return;
      takeOver(queries, edited.changed);
      if (edited.page !== PAGE) told.current(edited);
    });
    source.addEventListener("missed", refresh);
    // Removed, or restored as another one: reading it again tells which.
    source.addEventListener("gone", () => void queries.resetQueries({ queryKey: keys.house(house) }));
    // After a break something may have been missed.
    let broken = false;
    source.onerror = () => {
      broken = true;
    };
    source.onopen = () => {
      if (broken) refresh();
      broken = false;
    };
    return () => source.close();
  }, [house, queries]);
}

/** The rehearsal room as it changes; undefined until the first view has come. */
export function useRehearsal(house: string, room: string): RehearsalView | undefined {
  const [view, setView] = useState<RehearsalView>();
  useEffect(() => {
    const source = new EventSource(`/api/houses/${house}/rooms/${room}/rehearsal/events`);
    source.addEventListener("rehearsal", (event) =>
      setView(JSON.parse(event.data as string) as RehearsalView),
    );
    return () => source.close();
  }, [house, room]);
  return view?.room === room ? view : undefined;
}

/** Is the server there, and its database? Asked every few seconds; all is asked anew when it is back. */
export function useConnection(): boolean {
  const queries = useQueryClient();
  const [ok, setOk] = useState(true);
  useEffect(() => {
    let stopped = false;
    let wasOk = true;
    let timer: ReturnType<typeof setTimeout>;
    const ask = async () => {
      const alive = await fetch("/healthz").then(
        (answer) => answer.ok,
        () => false,
      );
      if (stopped) return;
      if (alive && !wasOk) void queries.invalidateQueries();
      wasOk = alive;
      setOk(alive);
      timer = setTimeout(() => void ask(), alive ? 4000 : 1500);
    };
    timer = setTimeout(() => void ask(), 4000);
    return () => {
      stopped = true;
      clearTimeout(timer);
    };
  }, [queries]);
  return ok;
}
