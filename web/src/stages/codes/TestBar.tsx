import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, data } from "../../api/client";
import { put, useEdit } from "../../api/queries";
import type { Code, Device, DeviceFunction, TestEffect, TestView } from "../../api/types";
import { useRoom } from "../../shell/context";
import { ProblemNote } from "../../ui/Problem";
import { forget, useTyped } from "../../ui/draft";

const EFFECTS: readonly [TestEffect, string][] = [
  ["worked", "Worked"],
  ["nothing", "Nothing"],
  ["wrong-thing", "Wrong thing"],
  ["sometimes", "Only sometimes"],
];

/** What came of a test: what the rehearsal room shows by itself, or what somebody says. */
export function TestBar({
  device,
  fn,
  code,
  seen,
}: {
  device: Device;
  fn: DeviceFunction;
  code: Code;
  seen: TestView;
}) {
  const { house, say } = useRoom();
  const queries = useQueryClient();
  const edit = useEdit(house.house.id);
  const [note, setNote] = useTyped(`test:${code.id}`, "");
  const [said, setSaid] = useState<TestEffect>();
  const write = useMutation({
    mutationFn: (effect: TestEffect) =>
      data(
        client.POST("/api/houses/{house}/attempts", {
          params: { path: { house: house.house.id } },
          body: {
            device: device.id,
            function: fn.id,
            what: "test",
            outcome: effect.replace("-", " "),
            sent: null,
            note,
          },
        }),
      ),
    onSuccess: () => void queries.invalidateQueries({ queryKey: ["house", house.house.id, "attempts"] }),
  });
  const tell = (effect: TestEffect) => {
    const value: Code = { ...code, tested: { at: new Date().toISOString(), effect, note } };
    edit.mutate([put({ entity: "code", value }, house.versions[code.id])], {
      onSuccess: (saved) => {
        setSaid(effect);
        forget(`test:${code.id}`);
        say(saved.title);
        write.mutate(effect);
      },
    });
  };
  const effect = said ?? seen.effect ?? undefined;
  return (
    <div className="mb-2 border-l-4 border-second bg-soft px-3 py-1.5">
      <p role="status">
        Sent. {seen.note}
        {effect && (
          <span className={effect === "worked" ? "text-good" : "text-stop"}>
            {" "}
            Written down as: {EFFECTS.find(([known]) => known === effect)?.[1].toLowerCase()}.
          </span>
        )}
      </p>
      {edit.error && <ProblemNote text={edit.error.message} />}
      <div className="mt-1 flex flex-wrap items-center gap-2">
        <span className="text-[13px] text-muted">{seen.effect ? "It was otherwise:" : "What happened?"}</span>
        {EFFECTS.map(([known, name]) => (
          <button
            key={known}
            type="button"
            className="btn"
            aria-pressed={effect === known}
            disabled={edit.isPending}
            onClick={() => tell(known)}
          >
            {name}
          </button>
        ))}
        <input
          className="field max-w-72"
          aria-label="What was seen"
          placeholder="What was seen"
          value={note}
          maxLength={400}
          onChange={(event) => setNote(event.target.value)}
        />
      </div>
    </div>
  );
}
