import { RotateCcw, X } from "lucide-react";
import type { EveningEvent } from "../../api/types";
import { useRoom } from "../../shell/context";
import { Pick } from "../../ui/Inline";
import { actWords, possible, withAct } from "./course";
import { clock } from "./lighting";

/** What people do in an evening, act by act: moved, taken away, and added at the moment that is shown. */
export function CourseView({
  course,
  startMin,
  lengthMs,
  at,
  changed,
  onChange,
}: {
  course: EveningEvent[];
  startMin: number;
  lengthMs: number;
  at: number;
  changed: boolean;
  /** Nothing: the usual course again. */
  onChange: (course: EveningEvent[] | undefined) => void;
}) {
  const { house, room } = useRoom();
  const acts = possible(house, room);
  const options = acts.map((act, index) => [String(index), actWords(house, act)] as const);
  return (
    <section aria-label="What people do" className="mt-4">
      <div className="flex flex-wrap items-center gap-2">
        <h3 className="text-[16px]">What people do</h3>
        <Pick
          label="Add what happens"
          value=""
          blank={`Add at ${clock(Math.floor(startMin + at / 60_000) % 1440)} …`}
          options={options}
          onChange={(index) => {
            const act = acts[Number(index)];
            if (act) onChange(withAct(course, act, Math.round(at / 60_000) * 60_000));
          }}
        />
        {changed && (
          <button type="button" className="btn" onClick={() => onChange(undefined)}>
            <RotateCcw aria-hidden size={14} /> The usual course
          </button>
        )}
      </div>
      <ul className="mt-1 flex flex-wrap gap-x-6">
        {course.map((event, index) => {
          const words = actWords(house, event.act);
          return (
            <li key={index} className="flex min-h-9 items-center gap-1.5">
              <input
                type="number"
                className="field w-18 text-right font-mono"
                aria-label={`Minutes until ${words}`}
                min={0}
                max={lengthMs / 60_000}
                value={Math.round(event.at_ms / 60_000)}
                onChange={(typed) => {
                  const minutes = Math.min(lengthMs / 60_000, Math.max(0, Number(typed.target.value) || 0));
                  const next = course.map((known, other) =>
                    other === index ? { ...known, at_ms: minutes * 60_000 } : known,
                  );
                  onChange(next);
                }}
                onBlur={() => onChange([...course].sort((a, b) => a.at_ms - b.at_ms))}
              />
              <span className="text-muted">min</span> {words}
              <button
                type="button"
                className="btn border-transparent px-1"
                aria-label={`Take away: ${words}`}
                onClick={() => onChange(course.filter((_, other) => other !== index))}
              >
                <X aria-hidden size={14} />
              </button>
            </li>
          );
        })}
      </ul>
    </section>
  );
}
