import { Plus, X } from "lucide-react";
import { useState } from "react";
import type { Also, Cue, Light, Moment, Provided } from "../../api/types";
import { useRoom } from "../../shell/context";
import { Figure, Pick, type Option } from "../../ui/Inline";
import { missing } from "../../ui/missing";
import { ProblemNote } from "../../ui/Problem";
import { AlsoParts } from "./AlsoParts";
import { useLighting } from "./api";
import { ALSOS, firstAlso, firstMoment, firstProvided, MOMENTS, PROVIDEDS } from "./lighting";
import { MomentParts } from "./MomentParts";
import { ProvidedParts } from "./ProvidedParts";
import { forget, useTyped } from "../../ui/draft";

const ROW = "flex min-h-9 flex-wrap items-center gap-2";
const NAME = "w-20 shrink-0 text-muted";

function Remove({ label, act }: { label: string; act: () => void }) {
  return (
    <button type="button" className="btn border-transparent px-1" aria-label={label} onClick={act}>
      <X aria-hidden size={14} />
    </button>
  );
}

/** What the light does. */
function LightRow({ light, onChange }: { light: Light; onChange: (light: Light) => void }) {
  const { lighting } = useLighting();
  return (
    <div className={ROW}>
      <span className={NAME}>Light</span>
      <Pick
        label="What the light does"
        value={light.does === "look" ? light.look : light.does}
        options={[
          ["stays", "stays as it is"],
          ["before", "as it was before"],
          ...lighting.looks.map((look): Option => [look.id, look.name]),
        ]}
        onChange={(id) =>
          onChange(
            id === "stays"
              ? { does: "stays" }
              : id === "before"
                ? { does: "before", fade_ms: 2000 }
                : { does: "look", look: id, fade_ms: null },
          )
        }
      />
      {light.does === "look" && (
        <Figure
          label="Fade"
          unit="s fade"
          whole={false}
          value={
            (light.fade_ms ?? lighting.looks.find((look) => look.id === light.look)?.fade_ms ?? 0) / 1000
          }
          onChange={(seconds) => onChange({ ...light, fade_ms: Math.round(seconds * 1000) })}
        />
      )}
      {light.does === "before" && (
        <Figure
          label="Fade"
          unit="s fade"
          whole={false}
          value={light.fade_ms / 1000}
          onChange={(seconds) => onChange({ ...light, fade_ms: Math.round(seconds * 1000) })}
        />
      )}
    </div>
  );
}

/** What something else that a cue does needs before it can be saved, and whether that is there. */
function needs(also: Also): (readonly [string, boolean])[] {
  switch (also.also) {
    case "chime":
      return [
        ["the speaker of the chime", also.device !== ""],
        ["the sound of the chime", also.sound !== ""],
        ["the name of the chime", also.name.trim() !== ""],
      ];
    case "say":
      return [
        ["the speaker that says it", also.device !== ""],
        ["what is said", also.text.trim() !== ""],
      ];
    case "command":
      return [["the command that is sent", also.device !== "" && also.function !== ""]];
    default:
      return [];
  }
}

/** One line of the cue sheet, part by part. */
export function CueForm({
  cue,
  fresh = false,
  onSave,
}: {
  cue: Cue;
  /** Is it not saved yet? */
  fresh?: boolean;
  onSave: (cue: Cue) => void;
}) {
  const { house, room } = useRoom();
  const { lighting } = useLighting();
  const [own, setOwn] = useTyped(`cue:${cue.id}`, cue);
  const changed = JSON.stringify(own) !== JSON.stringify(cue);
  const set = (change: Partial<Cue>) => setOwn({ ...own, ...change });
  const moment = own.moment;
  const setMoment = (next: Moment) => set({ moment: next });
  const provided = own.provided ?? [];
  const setProvided = (at: number, next: Provided) =>
    set({ provided: provided.map((known, index) => (index === at ? next : known)) });
  const also = own.also ?? [];
  const setAlso = (at: number, next: Also) =>
    set({ also: also.map((known, index) => (index === at ? next : known)) });
  const light: Light = own.light ?? { does: "stays" };
  const [told, setTold] = useState(false);
  const lacks = missing(also.flatMap(needs));

  return (
    <form
      aria-label="Cue"
      onSubmit={(event) => {
        event.preventDefault();
        setTold(lacks !== undefined);
        if (lacks) return;
        forget(`cue:${cue.id}`);
        onSave(own);
      }}
    >
      <div className={ROW}>
        <span className={NAME}>Moment</span>
        <Pick
          label="Kind of moment"
          value={moment.at}
          options={MOMENTS}
          onChange={(at) => setMoment(firstMoment(house, room, lighting, at as Moment["at"]))}
        />
        <MomentParts value={moment} onChange={setMoment} />
      </div>
      {provided.map((one, at) => (
        <div key={at} className={ROW}>
          <span className={NAME}>{at === 0 ? "Provided" : "and"}</span>
          <Pick
            label="Kind of condition"
            value={one.is}
            options={PROVIDEDS}
            onChange={(is) => setProvided(at, firstProvided(lighting, is as Provided["is"]))}
          />
          <ProvidedParts value={one} onChange={(next) => setProvided(at, next)} />
          <Remove
            label="Remove this condition"
            act={() => set({ provided: provided.filter((_, index) => index !== at) })}
          />
        </div>
      ))}
      <LightRow light={light} onChange={(next) => set({ light: next })} />
      {also.map((one, at) => (
        <div key={at} className={ROW}>
          <span className={NAME}>Also</span>
          <Pick
            label="What else"
            value={one.also}
            options={ALSOS}
            onChange={(kind) => setAlso(at, firstAlso(house, room, lighting, kind as Also["also"]))}
          />
          <AlsoParts value={one} onChange={(next) => setAlso(at, next)} />
          <Remove label="Remove this" act={() => set({ also: also.filter((_, index) => index !== at) })} />
        </div>
      ))}
      {told && lacks && <ProblemNote text={lacks} />}
      <div className="mt-2 flex flex-wrap items-center gap-2">
        <button
          type="button"
          className="btn"
          onClick={() => set({ provided: [...provided, firstProvided(lighting, "dark")] })}
        >
          <Plus aria-hidden size={14} /> Provided
        </button>
        <button
          type="button"
          className="btn"
          onClick={() => set({ also: [...also, firstAlso(house, room, lighting, "macro")] })}
        >
          <Plus aria-hidden size={14} /> Also
        </button>
        <label className="flex min-h-8 items-center gap-1.5">
          <input
            type="checkbox"
            checked={own.off ?? false}
            onChange={(event) => set({ off: event.target.checked })}
          />
          Leave it out for now
        </label>
        <button type="submit" className="btn btn-main ml-auto" disabled={!changed && !fresh}>
          Save cue
        </button>
      </div>
    </form>
  );
}
