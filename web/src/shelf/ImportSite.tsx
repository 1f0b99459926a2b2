import { useState } from "react";
import { Busy } from "../ui/Busy";
import { FileButton } from "../ui/FileButton";
import { ProblemNote } from "../ui/Problem";
import { Sheet } from "../ui/Sheet";
import type { SitePreview } from "../api/types";
import { useLookAtFile, useTakeFile } from "./api";

/** Imports a site file: what it holds is shown first, and what is there already. */
export function ImportSite({
  open,
  onClose,
  onTaken,
  say,
}: {
  open: boolean;
  onClose: () => void;
  onTaken: (house: string, room?: string | null) => void;
  say: (line: string) => void;
}) {
  const look = useLookAtFile();
  const take = useTakeFile();
  const [file, setFile] = useState<File>();
  const choose = (chosen: File) => {
    setFile(chosen);
    take.reset();
    look.mutate(chosen);
  };
  const leave = () => {
    look.reset();
    take.reset();
    setFile(undefined);
    onClose();
  };
  const carryOut = (how: "new" | "copy" | "replace") => {
    if (!file) return;
    take.mutate(
      { file, how },
      {
        onSuccess: (made) => {
          say(made.said);
          leave();
          onTaken(made.house, made.room);
        },
      },
    );
  };
  const error = take.error ?? look.error;
  return (
    <Sheet open={open} onClose={leave} title="Import a file">
      <div className="grid gap-3">
        <p>
          A site file (*.kdune.json) holds a whole house. Nothing is changed before you have seen what is in
          it.
        </p>
        <div>
          <FileButton
            label="Site file"
            accept=".json,application/json"
            onFile={choose}
            disabled={look.isPending}
          >
            Choose a file
          </FileButton>{" "}
          <span className="text-muted">{file?.name}</span>
        </div>
        {look.isPending && <Busy what="Reading the file …" onCancel={look.cancel} />}
        {take.isPending && <Busy what="Taking the house in …" onCancel={take.cancel} />}
        {error && <ProblemNote text={error.message} />}
        {look.data && <Preview preview={look.data} busy={take.isPending} onTake={carryOut} />}
      </div>
    </Sheet>
  );
}

function Preview({
  preview,
  busy,
  onTake,
}: {
  preview: SitePreview;
  busy: boolean;
  onTake: (how: "new" | "copy" | "replace") => void;
}) {
  const { there } = preview;
  const same = there && there.adds + there.changes + there.removes === 0;
  return (
    <section aria-label="What the file holds" className="border-l-4 border-second bg-soft px-3 py-2">
      <h3>{preview.name}</h3>
      <p>
        {preview.rooms.length === 1 ? "1 room" : `${preview.rooms.length} rooms`}
        {preview.rooms.length > 0 && ` (${preview.rooms.join(", ")})`}, {preview.devices} devices,{" "}
        {preview.codes} codes, {preview.activities} activities.{" "}
        {preview.secrets ? "Keys or passwords are in it." : "No keys or passwords are in it."}
      </p>
      {there && (
        <p className="mt-1">
          {there.removed
            ? `This house was removed from the shelf. Put “${there.name}” back first, or take the file in as a copy.`
            : same
              ? `“${there.name}” is on the shelf exactly as in the file.`
              : `“${there.name}” is on the shelf already. In its place the file would add ${there.adds}, change ${there.changes} and remove ${there.removes} things; keys that the file leaves out stay.`}
        </p>
      )}
      <div className="mt-2 flex flex-wrap gap-2">
        {!there && (
          <button type="button" className="btn btn-main" disabled={busy} onClick={() => onTake("new")}>
            Put it on the shelf
          </button>
        )}
        {there && (
          <button type="button" className="btn btn-main" disabled={busy} onClick={() => onTake("copy")}>
            As a copy beside it
          </button>
        )}
        {there && !there.removed && !same && (
          <button type="button" className="btn" disabled={busy} onClick={() => onTake("replace")}>
            In place of it
          </button>
        )}
      </div>
    </section>
  );
}
