import { useCallback, useEffect, useState } from "react";
import { RequestError } from "../../api/client";
import type { SeenOfTest } from "./api";

/** A result that waits on this device until the server is back. */
export interface Waiting {
  id: string;
  room: string;
  seen: SeenOfTest;
}

const KEY = "kestrel-results:";

function read(house: string): Waiting[] {
  try {
    return JSON.parse(localStorage.getItem(KEY + house) ?? "[]") as Waiting[];
  } catch {
    return [];
  }
}

function write(house: string, all: Waiting[]): void {
  localStorage.setItem(KEY + house, JSON.stringify(all));
}

/** Is it worth another try: the server or its database is away? */
export function passing(error: unknown): boolean {
  return error instanceof RequestError ? error.passing : error instanceof TypeError;
}

/**
 * Results on their way: what is written down is kept on this device first, sent, and taken out once the server has it. While
 * the server is away they wait, and are sent when it is back; what it refuses is told and taken out.
 */
export function useOutbox(
  house: string,
  room: string,
  send: (seen: SeenOfTest) => Promise<unknown>,
): { waiting: Waiting[]; refused: string | undefined; add: (seen: SeenOfTest) => void } {
  const [waiting, setWaiting] = useState(() => read(house));
  const [refused, setRefused] = useState<string>();
  const [busy, setBusy] = useState(false);
  const keep = useCallback(
    (all: Waiting[]) => {
      write(house, all);
      setWaiting(all);
    },
    [house],
  );
  const add = (seen: SeenOfTest) => {
    setRefused(undefined);
    keep([...read(house), { id: crypto.randomUUID(), room, seen }]);
  };
  useEffect(() => {
    const own = waiting.find((one) => one.room === room);
    if (!own || busy) return;
    let gone = false;
    const attempt = async () => {
      setBusy(true);
      try {
        await send(own.seen);
        keep(read(house).filter((one) => one.id !== own.id));
      } catch (error) {
        if (passing(error)) {
          if (!gone) setTimeout(() => setWaiting(read(house)), 3000);
        } else {
          keep(read(house).filter((one) => one.id !== own.id));
          setRefused(error instanceof Error ? error.message : "It was refused.");
        }
      }
      setBusy(false);
    };
    void attempt();
    return () => {
      gone = true;
    };
    // `busy` changes at the end of each attempt: the next one is made then.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [waiting, room, house]);
  return { waiting, refused, add };
}
