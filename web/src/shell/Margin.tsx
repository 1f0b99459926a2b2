import { useState } from "react";
import { PanelRightClose, PanelRightOpen, TriangleAlert } from "lucide-react";
import { putOver, take } from "../api/entities";
import { useEdit } from "../api/queries";
import type { Edit, Finding } from "../api/types";
import { useRoom } from "./context";
import { STAGES } from "./stages";
import { useTyped } from "../ui/draft";

const TONE: Record<Finding["weight"], string> = {
  hazard: "text-caution",
  stops: "text-stop",
  caution: "text-caution",
  remark: "text-second",
};

/** What each weight is called, so that colour never says it alone. */
const WORD: Record<Finding["weight"], string> = {
  hazard: "Hazard",
  stops: "Stops",
  caution: "Caution",
  remark: "Remark",
};

/** Notes in the margin: what the engine has found, worst first, each with the way to its place. */
export function Margin({
  shown,
  onToggle,
  findings,
}: {
  shown: boolean;
  onToggle: () => void;
  findings: Finding[] | undefined;
}) {
  const open = findings?.filter((finding) => !finding.accepted) ?? [];
  const accepted = findings?.filter((finding) => finding.accepted) ?? [];
  const count = open.length;
  if (!shown) {
    return (
      <aside aria-label="Notes in the margin" className="border-l border-rule bg-soft">
        <button
          type="button"
          className="flex h-full w-11 flex-col items-center gap-2 pt-4"
          aria-expanded={false}
          aria-label={`Show the notes in the margin (${count})`}
          title="Show the notes (M)"
          onClick={onToggle}
        >
          <PanelRightOpen aria-hidden size={17} />
          <span className="font-mono text-[12px]">{count}</span>
        </button>
      </aside>
    );
  }
  return (
    <aside
      aria-label="Notes in the margin"
      className="relative w-[292px] shrink-0 overflow-auto border-l border-rule bg-soft px-4 py-3"
    >
      <div className="flex items-center">
        <h2 className="text-[14px]">Notes in the margin</h2>
        <span className="ml-auto font-mono text-[12px] text-muted">{count}</span>
        <button
          type="button"
          className="btn ml-1 border-transparent px-2"
          aria-expanded
          aria-label="Fold the notes away"
          title="Fold the notes away (M)"
          onClick={onToggle}
        >
          <PanelRightClose aria-hidden size={16} />
        </button>
      </div>
      {count === 0 && <p className="mt-2 text-muted">Nothing to mend in this room.</p>}
      <ul>
        {open.map((finding) => (
          <Note key={JSON.stringify(finding.kind)} finding={finding} />
        ))}
      </ul>
      {accepted.length > 0 && (
        <details className="border-t border-rule pt-2">
          <summary className="cursor-pointer text-muted">Accepted ({accepted.length})</summary>
          <ul>
            {accepted.map((finding) => (
              <Note key={JSON.stringify(finding.kind)} finding={finding} />
            ))}
          </ul>
        </details>
      )}
    </aside>
  );
}

function Note({ finding }: { finding: Finding }) {
  const { go } = useRoom();
  const { place } = finding;
  const select: Record<string, string> = {};
  for (const key of ["device", "function", "connection", "activity", "cue", "surface", "key"] as const) {
    const id = place[key];
    if (id) select[key] = id;
  }
  // What is about staying in step stands in a view of its own.
  if (place.stage === "rehearse" && Object.keys(select).length > 0) select.show = "step";
  // Names are judged together, and what is missing stands beside the old remotes.
  if (place.stage === "surfaces" && !place.key) {
    select.show = !place.surface ? "names" : place.device ? "layout" : "cover";
  }
  const stage = STAGES.find((known) => known.id === place.stage);
  return (
    <li className="border-t border-rule py-2.5">
      <p>
        {finding.weight === "hazard" && (
          <TriangleAlert aria-hidden size={15} className="mr-1 inline align-[-2px] text-caution" />
        )}
        <span className={`font-semibold ${TONE[finding.weight]}`}>
          <span className="sr-only">{WORD[finding.weight]}: </span>
          {finding.title}
        </span>{" "}
        {finding.text}
      </p>
      {stage && (Object.keys(select).length > 0 || place.stage === "cues") && (
        <button type="button" className="link" onClick={() => go(stage.id, select)}>
          Show in {stage.name}
        </button>
      )}{" "}
      <Accept finding={finding} />
    </li>
  );
}

/** A note that is no trouble here is accepted with a reason; it comes back when its facts change. */
function Accept({ finding }: { finding: Finding }) {
  const { house, room, say } = useRoom();
  const edit = useEdit(house.house.id);
  const [asking, setAsking] = useState(false);
  const [reason, setReason] = useTyped(`accept:${room}:${JSON.stringify(finding.kind)}`, "");
  const own = house.rooms.find((known) => known.id === room);
  if (!own) return null;
  const known = (own.accepted ?? []).find(
    (one) => JSON.stringify(one.found) === JSON.stringify(finding.kind),
  );
  const save = (edits: Edit[], said: string) =>
    edit.mutate(edits, {
      onSuccess: () => {
        setAsking(false);
        setReason("");
        say(said);
      },
    });
  if (finding.accepted) {
    return (
      <p className="text-muted">
        Accepted: {finding.accepted}{" "}
        <button
          type="button"
          className="link"
          onClick={() =>
            known && save([take(house, "accepted", known.id)], "The note is back in the margin.")
          }
        >
          Take it back
        </button>
      </p>
    );
  }
  if (!asking) {
    return (
      <button type="button" className="link text-muted" onClick={() => setAsking(true)}>
        Accept
      </button>
    );
  }
  return (
    <form
      className="mt-1 flex gap-1.5"
      onSubmit={(event) => {
        event.preventDefault();
        const value = { room, id: crypto.randomUUID(), found: finding.kind, reason: reason.trim() };
        save(
          [putOver(house, { entity: "accepted", value })],
          "Note accepted. It comes back when its facts change.",
        );
      }}
    >
      <input
        className="field min-w-0 flex-1"
        aria-label="Why is it no trouble here?"
        placeholder="Why is it no trouble here?"
        value={reason}
        onChange={(event) => setReason(event.target.value)}
      />
      <button type="submit" className="btn px-2" disabled={reason.trim() === "" || edit.isPending}>
        Accept
      </button>
      {edit.error && <span className="text-stop">{edit.error.message}</span>}
    </form>
  );
}
