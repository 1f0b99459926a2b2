import { Download, Printer } from "lucide-react";
import { useState } from "react";
import type { Surface, SurfaceSheet } from "../../api/types";
import { useRoom } from "../../shell/context";
import { Field, Pick } from "../../ui/Inline";
import { Waiting } from "../../ui/Waiting";
import { useSheet, type SurfaceActions } from "./api";

const LABELS = [
  ["engraved", "Engraving sheet"],
  ["stickers", "Stickers"],
  ["braille", "Raised labels"],
] as const;

/** The page that the small display of a remote shows: nothing is cut there. */
const LISTED = "On its display";

/** Labels at true scale, one page at a time, how they fit, and the trial before anything is cut. */
export function LabelsView({ surface, actions }: { surface: Surface; actions: SurfaceActions }) {
  const { house, room } = useRoom();
  const { save } = actions;
  const sheet = useSheet(surface.id);
  const [labels, setLabels] = useState<(typeof LABELS)[number][0]>("engraved");
  const pages = (surface.pages ?? []).filter((known) => known.name !== LISTED);
  const [page, setPage] = useState(pages[0]?.id ?? "");
  if (!sheet.data) return <Waiting what="the labels" error={sheet.error} />;
  const { fits, trying } = sheet.data;
  const address = `/api/houses/${house.house.id}/rooms/${room}/surfaces/${surface.id}/labels.svg?labels=${labels}${page ? `&page=${page}` : ""}&at=${house.revision}`;
  return (
    <div>
      <TrialPart surface={surface} trying={trying} save={save} />
      <div className="flex flex-wrap items-center gap-2">
        <Pick
          label="Labels"
          value={labels}
          options={LABELS}
          onChange={(value) => setLabels(value as typeof labels)}
        />
        {pages.length > 1 && (
          <Pick
            label="Page"
            value={page}
            options={pages.map((known) => [known.id, known.name] as const)}
            onChange={setPage}
          />
        )}
        <label className="flex items-center gap-1.5">
          <Field
            key={surface.letter_tenths_mm}
            label="Height of capitals in mm"
            type="number"
            className="w-20 text-right font-mono"
            value={String((surface.letter_tenths_mm ?? 35) / 10)}
            onSave={(text) =>
              save({ ...surface, letter_tenths_mm: Math.round(Number(text) * 10) }, "Letters changed.")
            }
          />
          mm high capitals
        </label>
        <a className="btn" href={address} download={`${surface.name}, ${labels}.svg`}>
          <Download aria-hidden size={14} /> SVG
        </a>
        <button type="button" className="btn" onClick={() => window.print()}>
          <Printer aria-hidden size={14} /> Print
        </button>
      </div>
      <div className="mt-3 flex flex-wrap items-start gap-8">
        <figure className="sheet overflow-auto bg-white p-4 text-black">
          <img
            src={address}
            alt={`${LABELS.find(([one]) => one === labels)?.[1]} of ${surface.name}, at true scale`}
          />
          <figcaption className="mt-2 text-[13px]">
            {surface.name}, true scale in mm. Print at 100 %, then measure the outline: {surface.width_mm} mm
            wide.
          </figcaption>
        </figure>
        <Fits fits={fits} />
      </div>
    </div>
  );
}

/** Nothing is cut before the family has used it for a while. */
function TrialPart({
  surface,
  trying,
  save,
}: {
  surface: Surface;
  trying: SurfaceSheet["trying"];
  save: SurfaceActions["save"];
}) {
  const trial = surface.trial;
  return (
    <section
      aria-label="Trial"
      className="mb-3 flex flex-wrap items-center gap-x-4 gap-y-1.5 border-b border-rule pb-3"
    >
      {trial ? (
        <>
          <p>
            In use for <strong>{trying.days_in_use} days</strong>, {trying.changes}{" "}
            {trying.changes === 1 ? "change" : "changes"} since; unchanged for{" "}
            <strong>{trying.days_quiet} days</strong>.
          </p>
          <label className="flex items-center gap-1.5">
            <Field
              key={trial.quiet_days}
              label="Quiet days"
              type="number"
              className="w-20 text-right font-mono"
              value={String(trial.quiet_days)}
              onSave={(text) =>
                save(
                  { ...surface, trial: { ...trial, quiet_days: Math.round(Number(text)) } },
                  "Trial changed.",
                )
              }
            />
            quiet days before engraving
          </label>
          <button
            type="button"
            className="btn"
            onClick={() => save({ ...surface, trial: null }, "Trial ended.")}
          >
            End the trial
          </button>
        </>
      ) : (
        <>
          <p className="text-muted">Nothing is cut before the family has used it for a while.</p>
          <button
            type="button"
            className="btn"
            onClick={() =>
              save(
                { ...surface, trial: { since: new Date().toISOString(), quiet_days: 14 } },
                "Trial begun: 14 quiet days are wanted.",
              )
            }
          >
            Begin a trial
          </button>
        </>
      )}
      <p className={trying.offered ? "text-good" : "text-caution"}>
        {trying.offered ? "Ready to be engraved." : trying.why_not}
      </p>
    </section>
  );
}

/** How many letters fit on each key, and how a label is set. */
function Fits({ fits }: { fits: SurfaceSheet["fits"] }) {
  const tight = fits.filter((fit) => !fit.fits && fit.label);
  return (
    <section aria-label="How the labels fit" className="min-w-72 flex-1">
      <p className="mb-1">
        {tight.length === 0 ? "Every label fits." : `${tight.length} of ${fits.length} labels do not fit.`}
      </p>
      <div className="max-h-[52vh] overflow-auto">
        <div className="scrolls">
          <table className="w-full border-collapse">
            <thead className="sticky top-0 bg-paper">
              <tr className="border-b border-edge text-[13px] text-muted">
                <th className="py-1 pr-3">Label</th>
                <th className="py-1 pr-3 text-right">Letters that fit</th>
                <th className="py-1 pr-3 text-right">Lines</th>
                <th className="py-1">Set as</th>
              </tr>
            </thead>
            <tbody>
              {[...fits]
                .sort((a, b) => Number(a.fits) - Number(b.fits))
                .map((fit) => (
                  <tr key={fit.key} className="border-b border-rule">
                    <td className="py-0.5 pr-3">{fit.label}</td>
                    <td className="py-0.5 pr-3 text-right font-mono">{fit.letters}</td>
                    <td className="py-0.5 pr-3 text-right font-mono">{fit.lines}</td>
                    <td className="py-0.5">
                      {fit.fits || !fit.label ? (
                        fit.set.join(" / ")
                      ) : (
                        <span className="text-caution">does not fit: shorten it</span>
                      )}
                    </td>
                  </tr>
                ))}
            </tbody>
          </table>
        </div>
      </div>
    </section>
  );
}
