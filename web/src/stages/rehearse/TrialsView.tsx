import { useState } from "react";
import type { StoryEvent, TrialReport } from "../../api/types";
import { useRoom } from "../../shell/context";
import { ProblemNote } from "../../ui/Problem";
import { clockTime } from "../../ui/time";
import { isOver, useTrials } from "./api";
import { deedWords } from "./words";

/** Evenings at random: how many, what came of them, and each wrong one to watch. */
export function TrialsView({ play }: { play: (events: StoryEvent[]) => void }) {
  const { trials, start, cancel } = useTrials();
  const [evenings, setEvenings] = useState("50");
  const [seed, setSeed] = useState("1");
  const [hands, setHands] = useState(true);
  const [faults, setFaults] = useState(true);
  const trial = trials.data;
  const report = trial?.report;
  const running = trial && !isOver(trial);
  const error = start.error ?? cancel.error ?? trials.error;
  return (
    <div className="pt-3">
      {error && <ProblemNote text={error.message} />}
      <form
        className="flex flex-wrap items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          start.mutate({ evenings: Number(evenings), seed: Number(seed), hands, faults });
        }}
      >
        <label>
          <span className="block text-[13.5px] text-muted">Evenings</span>
          <input
            className="field w-24"
            inputMode="numeric"
            pattern="[0-9]{1,4}"
            required
            value={evenings}
            onChange={(event) => setEvenings(event.target.value)}
          />
        </label>
        <label>
          <span className="block text-[13.5px] text-muted">Chance starts at</span>
          <input
            className="field w-24"
            inputMode="numeric"
            pattern="[0-9]{1,9}"
            required
            value={seed}
            onChange={(event) => setSeed(event.target.value)}
          />
        </label>
        <label className="flex min-h-8 items-center gap-1.5">
          <input type="checkbox" checked={hands} onChange={(event) => setHands(event.target.checked)} />
          Hands meddle
        </label>
        <label className="flex min-h-8 items-center gap-1.5">
          <input type="checkbox" checked={faults} onChange={(event) => setFaults(event.target.checked)} />
          Things break
        </label>
        <button type="submit" className="btn btn-main" disabled={start.isPending || running === true}>
          Try
        </button>
        {running && (
          <>
            <span role="status" className="min-h-8 pt-1.5">
              {trial.waiting
                ? "They begin when what runs now has ended"
                : `${trial.done} of ${trial.asked.evenings} evenings`}
            </span>
            <button type="button" className="btn" onClick={() => cancel.mutate()}>
              Cancel
            </button>
          </>
        )}
      </form>
      {trial?.failed && (
        <ProblemNote
          text={`The trials of ${trial.asked.evenings} evenings came to nothing. ${trial.failed}`}
        />
      )}
      {(!trial || running) && (
        <p className="mt-3 border-t border-ink py-2 text-muted">
          The same number always gives the same evenings. What counts as wrong: the runtime says ready and it
          is not, something still moves at the end, or it is louder than its ceiling.
        </p>
      )}
      {report && <Outcome report={report} play={play} />}
    </div>
  );
}

/** What came of the evenings, and each wrong one to watch. */
function Outcome({ report, play }: { report: TrialReport; play: (events: StoryEvent[]) => void }) {
  const { house } = useRoom();
  const faster = Math.round(report.simulated_ms / Math.max(report.took_ms, 1));
  return (
    <div data-testid="trial-report" className="mt-3 border-t border-ink pt-2">
      <p>
        <strong>
          {report.evenings < report.asked.evenings && `Cancelled after ${report.evenings} of `}
          {report.evenings < report.asked.evenings ? report.asked.evenings : report.evenings} evenings,{" "}
          {report.wrong === 0 ? "none" : report.wrong} ended wrong
        </strong>
        <span className="text-muted">
          {" "}
          · {report.runs} macros · last ones: {report.ready} ready, {report.sent} sent and not confirmed,{" "}
          {report.told} told that they had failed · {Math.round(report.simulated_ms / 3_600_000)} h simulated
          in {clockTime(report.took_ms)}, {faster} × real time
        </span>
      </p>
      {report.wrongs.length > 0 && (
        <div className="scrolls">
          <table className="mt-2 w-full border-collapse" aria-label="Evenings that ended wrong">
            <tbody>
              {report.wrongs.map((wrong) => (
                <tr key={wrong.story.name} className="border-b border-rule align-top">
                  <th scope="row" className="w-28 py-1.5 pr-3 font-semibold">
                    {wrong.story.name}
                  </th>
                  <td className="py-1.5 pr-3">{wrong.what.join(" ")}</td>
                  <td className="py-1.5 pr-3 text-muted">
                    {wrong.story.events.map((event, at) => (
                      <span key={at} className="block">
                        <span className="font-mono text-[13px]">{clockTime(event.at_ms)}</span>{" "}
                        {deedWords(house, event)}
                      </span>
                    ))}
                  </td>
                  <td className="py-1 text-right">
                    <button type="button" className="btn px-2" onClick={() => play(wrong.story.events)}>
                      Watch
                    </button>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </div>
  );
}
