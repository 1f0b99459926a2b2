import { TriangleAlert } from "lucide-react";
import { useState } from "react";
import { putOver, take } from "../api/entities";
import { useEdit } from "../api/queries";
import type { Edit, Finding } from "../api/types";
import { useTyped } from "../ui/draft";
import { useRoom } from "./context";
import type { Group } from "./notes";
import { STAGES } from "./stages";

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

/** What names the kind of a note; hazards to people carry a mark of their own. */
function Kind({ weight, title }: Pick<Finding, "weight" | "title">) {
  return (
    <>
      {weight === "hazard" && (
        <TriangleAlert aria-hidden size={15} className="mr-1 inline align-[-2px] text-caution" />
      )}
      <span className={`font-semibold ${TONE[weight]}`}>
        <span className="sr-only">{WORD[weight]}: </span>
        {title}
      </span>
    </>
  );
}

/** Notes of one kind: what they share is said once, then each of their places. */
export function Notes({ group }: { group: Group }) {
  const [first] = group.findings;
  if (!first) return null;
  if (group.findings.length === 1) {
    return (
      <li className="border-t border-rule py-2.5">
        <p>
          <Kind {...first} /> {first.text}
        </p>
        <Ways finding={first} />
      </li>
    );
  }
  return (
    <li className="border-t border-rule py-2.5">
      <p>
        <Kind {...first} /> <span className="font-mono text-[12px] text-muted">×{group.findings.length}</span>{" "}
        {group.shared}
      </p>
      <ul className="mt-1 grid gap-1 border-l border-rule pl-2.5">
        {group.findings.map((finding, at) => (
          <Place key={JSON.stringify(finding.kind)} finding={finding} text={group.own[at] ?? finding.text} />
        ))}
      </ul>
    </li>
  );
}

/** One of several places of a note: its sentence leads there. */
function Place({ finding, text }: { finding: Finding; text: string }) {
  const way = useWay(finding);
  return (
    <li>
      <div className="flex items-start gap-2">
        {way ? (
          <button
            type="button"
            className="min-h-6 flex-1 text-left underline decoration-edge decoration-dotted underline-offset-3 hover:text-accent"
            aria-label={`Show in ${way.name}: ${text}`}
            title={`Show in ${way.name}`}
            onClick={way.show}
          >
            {text}
          </button>
        ) : (
          <span className="flex-1">{text}</span>
        )}
      </div>
      <Accept finding={finding} />
    </li>
  );
}

/** The way to where it is mended; none where there is no one place. */
function useWay(finding: Finding): { name: string; show: () => void } | undefined {
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
  if (!stage || (Object.keys(select).length === 0 && place.stage !== "cues")) return undefined;
  return { name: stage.name, show: () => go(stage.id, select) };
}

/** The way to where it is mended, and to accepting it. */
function Ways({ finding }: { finding: Finding }) {
  const way = useWay(finding);
  return (
    <>
      {way && (
        <button type="button" className="link" onClick={way.show}>
          Show in {way.name}
        </button>
      )}{" "}
      <Accept finding={finding} />
    </>
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
