import { CalendarDays, Plus } from "lucide-react";
import { useSearchParams } from "react-router";
import type { Cue } from "../../api/types";
import { useRoom } from "../../shell/context";
import { PARTS } from "../../shell/stages";
import { ProblemNote } from "../../ui/Problem";
import { StageHead } from "../../ui/StageHead";
import { Tabs } from "../../ui/Tabs";
import { forget, useTyped } from "../../ui/draft";
import { useLighting } from "./api";
import { CueSheetView } from "./CueSheetView";
import { EveningView } from "./EveningView";
import { newCue } from "./lighting";
import { StartsView } from "./StartsView";
import { ZonesView } from "./ZonesView";

const VIEWS = PARTS.cues;

/** Under which name a cue that is not saved yet is kept. */
const freshCue = (room: string) => `cue-new:${room}`;

/** 1 → “1 zone”, 4 → “4 zones”. */
function count(of: number, what: string): string {
  return `${of} ${what}${of === 1 ? "" : "s"}`;
}

/** Cues: light that follows what happens, line by line, and an evening of it as curves. */
export function CuesStage() {
  const { house, room } = useRoom();
  const { lighting, trouble } = useLighting();
  const [params, setParams] = useSearchParams();
  const show = VIEWS.find(([name]) => name === params.get("show"))?.[0] ?? "sheet";
  const set = (key: string, value: string) =>
    setParams((old) => {
      old.set(key, value);
      return old;
    });
  const open = params.get("cue") ?? undefined;
  const [fresh, setFresh] = useTyped<Cue | null>(freshCue(room), null);
  const add = () => {
    // Nothing until it is saved.
    setFresh(fresh ?? newCue(lighting));
    setParams((old) => {
      old.set("show", "sheet");
      old.delete("cue");
      return old;
    });
  };
  const timed = lighting.cues.some((cue) => ["clock", "sun"].includes(cue.moment.at));
  return (
    <section aria-label="Cues">
      <StageHead
        title="Cues"
        figure={[
          count(lighting.cues.length, "cue"),
          count(lighting.zones.length, "zone"),
          count(lighting.looks.length, "look"),
        ].join(", ")}
      >
        {timed && (
          <a className="btn" href={`/api/houses/${house.house.id}/rooms/${room}/cues.ics`} download>
            <CalendarDays aria-hidden size={15} /> Calendar
          </a>
        )}
        <button type="button" className="btn btn-main" onClick={add}>
          <Plus aria-hidden size={15} /> Add cue
        </button>
      </StageHead>
      <Tabs label="Cues" parts={VIEWS} value={show} onChange={(value) => set("show", value)} />
      {trouble && <ProblemNote text={trouble} />}
      {show === "sheet" && (
        <CueSheetView
          open={open}
          fresh={fresh ?? undefined}
          onFresh={() => {
            forget(freshCue(room));
            setFresh(null);
          }}
          onOpen={(id) =>
            setParams((old) => {
              if (id) old.set("cue", id);
              else old.delete("cue");
              return old;
            })
          }
        />
      )}
      {show === "evening" && <EveningView />}
      {show === "starts" && <StartsView />}
      {show === "zones" && <ZonesView />}
    </section>
  );
}
