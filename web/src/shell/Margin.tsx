import { CircleQuestionMark, PanelRightClose, PanelRightOpen, TriangleAlert } from "lucide-react";
import { useState } from "react";
import type { Finding } from "../api/types";
import { StageHelp } from "../help/StageHelp";
import { useMarginWidth } from "./marginWidth";
import { Notes } from "./Note";
import { byStage, groups, type StageNotes } from "./notes";
import { STAGES, type StageInfo } from "./stages";

/** The margin: what the engine has found of the stage on the table, worst first, then the others in a line each. */
export function Margin({
  shown,
  onToggle,
  findings,
  stage,
}: {
  shown: boolean;
  onToggle: () => void;
  findings: Finding[] | undefined;
  stage: StageInfo["id"];
}) {
  const [help, setHelp] = useState(false);
  const { width, handle } = useMarginWidth();
  const open = findings?.filter((finding) => !finding.accepted) ?? [];
  const count = open.length;
  if (!shown) return <Folded count={count} onToggle={onToggle} />;
  const name = STAGES.find((known) => known.id === stage)?.name;
  return (
    <aside
      aria-label="Notes in the margin"
      className="relative flex max-w-[92vw] shrink-0 border-l border-rule bg-soft max-md:absolute max-md:inset-y-0 max-md:right-0 max-md:z-30 max-md:shadow-lg"
      style={{ width }}
    >
      <div
        {...handle}
        className="absolute inset-y-0 -left-1 z-10 w-2 cursor-col-resize focus-visible:bg-accent"
      />
      <div className="min-w-0 flex-1 overflow-auto px-4 py-3">
        <div className="flex items-center gap-1">
          <h2 className="text-[14px]">{help ? "What this stage is for" : "Notes in the margin"}</h2>
          {!help && <span className="ml-auto font-mono text-[12px] text-muted">{count}</span>}
          <button
            type="button"
            className={`btn border-transparent px-2 ${help ? "ml-auto text-accent" : ""}`}
            aria-pressed={help}
            aria-label="What is this stage for"
            title={`What is ${name} for`}
            onClick={() => setHelp(!help)}
          >
            <CircleQuestionMark aria-hidden size={16} />
          </button>
          <button
            type="button"
            className="btn border-transparent px-2"
            aria-expanded
            aria-label="Fold the notes away"
            title="Fold the notes away (M)"
            onClick={onToggle}
          >
            <PanelRightClose aria-hidden size={16} />
          </button>
        </div>
        {help ? (
          <StageHelp stage={stage} />
        ) : (
          <Found findings={findings} open={open} stage={stage} name={name ?? stage} />
        )}
      </div>
    </aside>
  );
}

/** The margin folded away: how many notes there are. */
function Folded({ count, onToggle }: { count: number; onToggle: () => void }) {
  return (
    <aside aria-label="Notes in the margin" className="border-l border-rule bg-soft max-md:hidden">
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

function Found({
  findings,
  open,
  stage,
  name,
}: {
  findings: Finding[] | undefined;
  open: Finding[];
  stage: StageInfo["id"];
  name: string;
}) {
  if (!findings) return <p className="mt-2 text-muted">Looking at the room …</p>;
  const accepted = findings.filter((finding) => finding.accepted);
  const { here, others } = byStage(open, stage);
  return (
    <>
      {here.length === 0 && (
        <p className="mt-2 text-muted">
          {open.length === 0 ? "Nothing to mend in this room." : `Nothing to mend in ${name}.`}
        </p>
      )}
      <List findings={here} />
      {others.map((other) => (
        <Elsewhere key={other.stage} notes={other} />
      ))}
      {accepted.length > 0 && (
        <details className="border-t border-rule pt-2">
          <summary className="cursor-pointer text-muted">Accepted ({accepted.length})</summary>
          <List findings={accepted} />
        </details>
      )}
    </>
  );
}

function List({ findings }: { findings: Finding[] }) {
  return (
    <ul>
      {groups(findings).map((group) => (
        <Notes key={JSON.stringify(group.findings[0]?.kind)} group={group} />
      ))}
    </ul>
  );
}

/** The notes of another stage: a line, which opens. */
function Elsewhere({ notes }: { notes: StageNotes }) {
  const name = STAGES.find((known) => known.id === notes.stage)?.name ?? notes.stage;
  return (
    <details className="border-t border-rule py-2">
      <summary className="flex min-h-6 cursor-pointer items-baseline gap-2">
        <span className="font-semibold">
          {name}
          {notes.findings.some((finding) => finding.weight === "hazard") && (
            <>
              <TriangleAlert aria-hidden size={14} className="ml-1 inline align-[-2px] text-caution" />
              <span className="sr-only">, a hazard among them</span>
            </>
          )}
        </span>
        <span className="min-w-0 flex-1 truncate text-[13px] text-muted">{notes.titles.join(", ")}</span>
        <span className="font-mono text-[12px] text-muted">{notes.findings.length}</span>
      </summary>
      <List findings={notes.findings} />
    </details>
  );
}
