import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { client, data, surely } from "../../../api/client";
import { takeOver } from "../../../api/queries";
import type { Looking } from "../../../api/types";
import { deviceName, useRoom } from "../../../shell/context";
import { ProblemNote } from "../../../ui/Problem";

/** How many seconds something has been running for: it counts while it is shown. */
function Elapsed() {
  const [seconds, setSeconds] = useState(0);
  useEffect(() => {
    const clock = setInterval(() => setSeconds((own) => own + 1), 1000);
    return () => clearInterval(clock);
  }, []);
  return <>{seconds} s of at most 20</>;
}

/** How far a search for gateways is, in words. */
export function lookingWords(at: Looking): string {
  switch (at.part) {
    case "weighing":
      return `What each box reaches from each place: ${at.done} of ${at.of}.`;
    case "choosing":
      return `${at.best == null ? "No set yet" : `The best set so far costs ${money(at.best)}`}; none costs less than ${money(at.bound)}.`;
    case "comparing":
      return "The set is found; what is usually bought is worked out beside it.";
  }
}

/** A price as one writes it; prices are kept in the smallest unit of the house's money. */
const money = (price: number) => (price % 100 === 0 ? String(price / 100) : (price / 100).toFixed(2));

/** How far the search is, asked for while it runs. */
function HowFar() {
  const { house, room } = useRoom();
  const params = { path: { house: house.house.id, room } };
  const progress = useQuery({
    queryKey: ["looking", house.house.id, room],
    queryFn: async ({ signal }) =>
      (await data(client.GET("/api/houses/{house}/rooms/{room}/gateways/progress", { params, signal }))) ??
      null,
    refetchInterval: 500,
    staleTime: 0,
    gcTime: 0,
  });
  const at = progress.data;
  return (
    <div className="mt-2" role="status">
      {at ? lookingWords(at) : "It begins."}
      {at?.part === "weighing" && at.of > 0 && (
        <progress className="mt-1 block w-full" aria-label="Places weighed" value={at.done} max={at.of} />
      )}
    </div>
  );
}

/** The cheapest set of gateways for the room or the whole house. */
export function GatewaysPart() {
  const { house, room, say } = useRoom();
  const queries = useQueryClient();
  const [whole, setWhole] = useState(false);
  const params = { path: { house: house.house.id, room } };
  const running = useRef<AbortController>(null);
  const find = useMutation({
    mutationFn: async (all: boolean) => {
      running.current = new AbortController();
      const { signal } = running.current;
      try {
        return await data(
          client.POST("/api/houses/{house}/rooms/{room}/gateways", {
            params,
            body: { whole_house: all },
            signal,
          }),
        );
      } catch (error) {
        // What somebody has cancelled is no mistake.
        if (signal.aborted) return null;
        throw error;
      }
    },
  });
  // Whoever leaves needs no answer: the search ends.
  useEffect(() => () => running.current?.abort(), []);
  const apply = useMutation({
    mutationFn: () =>
      surely((headers) =>
        data(
          client.POST("/api/houses/{house}/rooms/{room}/gateways/apply", {
            params,
            body: { whole_house: whole },
            headers,
          }),
        ),
      ),
    onSuccess: (saved) => {
      takeOver(queries, saved.changed);
      say(saved.title);
    },
  });
  const found = find.data;
  const name = (device: string) => deviceName(house, device);
  const roomName = (id: string) => house.rooms.find((one) => one.id === id)?.name ?? "";
  const model = (id: string) => house.profiles.find((one) => one.id === id)?.model ?? "a box";
  return (
    <section aria-label="Gateways">
      <p className="text-muted">
        The cheapest set that reaches every device that is placed, by infrared or radio, with 6 dB to spare:
        among equals the one whose smallest margin is greatest. Screens are taken to be down.
      </p>
      <p className="mt-2 flex flex-wrap items-center gap-3">
        <label className="flex items-center gap-1.5">
          <input type="checkbox" checked={whole} onChange={(event) => setWhole(event.target.checked)} />
          the whole house
        </label>
        <button
          type="button"
          className="btn btn-main"
          disabled={find.isPending}
          onClick={() => find.mutate(whole)}
        >
          {find.isPending ? (
            <>
              Looking … <Elapsed />
            </>
          ) : (
            "Find the cheapest set"
          )}
        </button>
        {find.isPending && (
          <button type="button" className="btn" onClick={() => running.current?.abort()}>
            Cancel
          </button>
        )}
      </p>
      {find.isPending && <HowFar />}
      {(find.error ?? apply.error) && <ProblemNote text={(find.error ?? apply.error)?.message ?? ""} />}
      {found && (
        <div className="mt-3" data-testid="gateway-set">
          {found.words.map((words) => (
            <p key={words}>{words}</p>
          ))}
          {found.boxes.length > 0 && (
            <>
              <ul className="mt-2">
                {found.boxes.map((box, at) => (
                  <li key={at} className="border-b border-rule py-1">
                    <strong>{model(box.profile)}</strong>, {roomName(box.room)}, {box.spot}
                    <span className="block text-muted">
                      {box.serves
                        .map(
                          (one) =>
                            `${name(one.device)} ${one.lead ? "by a lead" : `${one.margin_db.toFixed(0)} dB`}`,
                        )
                        .join(", ")}
                    </span>
                  </li>
                ))}
              </ul>
              <button
                type="button"
                className="btn mt-2"
                disabled={apply.isPending}
                onClick={() => apply.mutate()}
              >
                Put them into the house
              </button>
            </>
          )}
          {found.unknown.length > 0 && (
            <p className="mt-2 text-[13px] text-muted">
              Left out, since they are not placed or nothing is known of them:{" "}
              {found.unknown.map(name).join(", ")}.
            </p>
          )}
        </div>
      )}
      <p className="mt-2 text-[13px] text-muted">Radio is limited in power and duty by local law.</p>
    </section>
  );
}
