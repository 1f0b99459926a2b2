import { Play, Volume2 } from "lucide-react";
import { useState } from "react";
import { choose, keptUrl, type Kept } from "../../api/chosen";
import { sendFile } from "../../api/files";
import type { Also } from "../../api/types";
import { useRoom } from "../../shell/context";
import { FileButton } from "../../ui/FileButton";
import { Figure, Pick } from "../../ui/Inline";
import { useChoices } from "./pickers";

type Chime = Extract<Also, { also: "chime" }>;

/** The largest sound that is sent, in bytes. */
const SOUND_MAX = 8_000_000;

interface Named {
  sound: Kept;
  length_ms: number;
  loudness?: number | null;
  peak: number;
}

/** Reads a sound from a file: checked, evened out and kept under the ceiling by the server. */
export async function chooseSound(file: File): Promise<Named> {
  if (file.size > SOUND_MAX) throw new Error("A sound has up to 8 MB. A chime lasts 0.1 to 6 s: cut it.");
  const taken = await sendFile<Named>("/api/sounds", file);
  choose(taken.sound);
  return taken;
}

/** Which chime, by which speaker, how loud. */
export function ChimeParts({ value, onChange }: { value: Chime; onChange: (next: Chime) => void }) {
  const { house } = useRoom();
  const { devices } = useChoices();
  const [problem, setProblem] = useState<string>();
  const take = (file: File) => {
    setProblem(undefined);
    chooseSound(file).then(
      (taken) =>
        onChange({
          ...value,
          sound: taken.sound.id,
          length_ms: taken.length_ms,
          name: value.name || file.name.replace(/\.[^.]*$/, "").slice(0, 80),
        }),
      (error: Error) => setProblem(error.message),
    );
  };
  return (
    <>
      <Pick
        label="Device"
        value={value.device}
        options={devices(["speakers", "sound-bar", "receiver"])}
        onChange={(device) => onChange({ ...value, device })}
      />
      <FileButton
        label="Sound of the chime"
        accept="audio/wav,audio/flac,audio/mpeg,.wav,.flac,.mp3"
        onFile={take}
      >
        <Volume2 aria-hidden size={14} /> {value.sound ? "Another sound" : "Choose a sound"}
      </FileButton>
      {value.sound && (
        <>
          <input
            className="field w-40"
            aria-label="Name of the chime"
            maxLength={80}
            value={value.name}
            onChange={(event) => onChange({ ...value, name: event.target.value })}
          />
          <span className="text-muted">{(value.length_ms / 1000).toFixed(1)} s</span>
          <button
            type="button"
            className="btn"
            aria-label={`Hear ${value.name || "the chime"}`}
            onClick={() => {
              setProblem(undefined);
              new Audio(keptUrl(house.house.id, value.sound))
                .play()
                .catch(() =>
                  setProblem("This browser cannot play it. The speaker of the room may all the same."),
                );
            }}
          >
            <Play aria-hidden size={14} /> Hear
          </button>
        </>
      )}
      <Figure
        label="Volume"
        unit="%"
        value={value.percent}
        onChange={(percent) => onChange({ ...value, percent })}
      />
      {!value.sound && (
        <span className="text-muted">WAV, FLAC or MP3 of 0.1 to 6 s; its level is evened out.</span>
      )}
      {problem && (
        <span role="alert" className="text-stop">
          {problem}
        </span>
      )}
    </>
  );
}
