import { useState } from "react";
import type { Shelf } from "../api/types";
import { Busy } from "../ui/Busy";
import { FileButton } from "../ui/FileButton";
import { ProblemNote } from "../ui/Problem";
import { Sheet } from "../ui/Sheet";
import { forget, useTyped } from "../ui/draft";
import { useDaily, useLookAtBackup, useRestore } from "./api";
import { ago } from "./words";

/** Backups of everything: one at once, one a day, and the way back. */
export function Backups({
  open,
  onClose,
  daily,
  last,
  say,
}: {
  open: boolean;
  onClose: () => void;
  daily: Shelf["daily"];
  last: Shelf["last"];
  say: (line: string) => void;
}) {
  return (
    <Sheet open={open} onClose={onClose} title="Backup of everything">
      <div className="grid gap-5">
        <Once say={say} />
        <Daily daily={daily} last={last} say={say} />
        <Restore say={say} onDone={onClose} />
      </div>
    </Sheet>
  );
}

function Once({ say }: { say: (line: string) => void }) {
  const [secrets, setSecrets] = useState(true);
  return (
    <section aria-label="Now">
      <h3>Now</h3>
      <p>All houses with their history, attempts, photos and links in one file.</p>
      <label className="mt-1 flex items-center gap-2">
        <input type="checkbox" checked={secrets} onChange={(event) => setSecrets(event.target.checked)} />
        With keys, passwords, accounts and links
      </label>
      {secrets && (
        <p className="text-[13px] text-caution">
          Whoever has the file has the keys of these houses: keep it as you would keep those.
        </p>
      )}
      <a
        className="btn mt-2 no-underline"
        href={`/api/backup${secrets ? "?secrets=true" : ""}`}
        onClick={() => say("The backup is saved where your browser saves files.")}
      >
        Save a backup
      </a>
    </section>
  );
}

function Daily({
  daily,
  last,
  say,
}: {
  daily: Shelf["daily"];
  last: Shelf["last"];
  say: (line: string) => void;
}) {
  const set = useDaily();
  const [typed, setTyped] = useTyped("daily-backup", {
    folder: daily.folder,
    keep: String(daily.keep),
    secrets: daily.secrets,
  });
  const save = () =>
    set.mutate(
      { folder: typed.folder.trim(), keep: Number(typed.keep) || 0, secrets: typed.secrets },
      {
        onSuccess: () => {
          forget("daily-backup");
          say(
            typed.folder.trim()
              ? "A backup was made there just now; the next one comes in a day."
              : "No daily backup any more.",
          );
        },
      },
    );
  return (
    <form
      aria-label="Every day"
      noValidate
      onSubmit={(event) => {
        event.preventDefault();
        save();
      }}
    >
      <h3>Every day</h3>
      <p className="text-muted">
        {last.made_at ? `The last one was made ${ago(last.made_at, new Date())}.` : "None was made yet."}
      </p>
      <label>
        <span className="label">Folder on this computer (empty: none are made)</span>
        <input
          className="field font-mono"
          placeholder="/home/me/backups"
          value={typed.folder}
          onChange={(event) => setTyped({ ...typed, folder: event.target.value })}
        />
      </label>
      <div className="mt-2 flex flex-wrap items-center gap-x-4 gap-y-2">
        <label className="flex items-center gap-2">
          Keep the last
          <input
            className="field w-16 text-right font-mono"
            inputMode="numeric"
            value={typed.keep}
            onChange={(event) => setTyped({ ...typed, keep: event.target.value })}
          />
        </label>
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            checked={typed.secrets}
            onChange={(event) => setTyped({ ...typed, secrets: event.target.checked })}
          />
          with keys
        </label>
        <button type="submit" className="btn" disabled={set.isPending}>
          Set up
        </button>
      </div>
      {set.error && <ProblemNote text={set.error.message} />}
    </form>
  );
}

function Restore({ say, onDone }: { say: (line: string) => void; onDone: () => void }) {
  const look = useLookAtBackup();
  const restore = useRestore();
  const [file, setFile] = useState<File>();
  const error = restore.error ?? look.error;
  const { manifest, replaces } = look.data ?? {};
  return (
    <section aria-label="Restore">
      <h3>Restore</h3>
      <p>Every house of a backup is put in its place; houses that are not in it stay.</p>
      <FileButton
        label="Backup file"
        accept=".tar"
        className="mt-2"
        onFile={(chosen) => {
          setFile(chosen);
          restore.reset();
          look.mutate(chosen);
        }}
      >
        Choose a backup
      </FileButton>{" "}
      <span className="text-muted">{file?.name}</span>
      {look.isPending && <Busy what="Reading the backup …" onCancel={look.cancel} />}
      {restore.isPending && <Busy what="Restoring …" onCancel={restore.cancel} />}
      {error && <ProblemNote text={error.message} />}
      {manifest && file && (
        <div className="mt-2 border-l-4 border-second bg-soft px-3 py-2">
          <p>
            Made {ago(manifest.made_at, new Date())}, with{" "}
            {manifest.houses.map((house) => house.name).join(", ") || "no house"}
            {manifest.secrets ? "." : ", without keys."}
          </p>
          {replaces && replaces.length > 0 && (
            <p className="text-caution">
              As they are here now these are lost: {replaces.map((house) => house.name).join(", ")}. Save a
              backup first.
            </p>
          )}
          <button
            type="button"
            className="btn btn-main mt-2"
            disabled={restore.isPending}
            onClick={() =>
              restore.mutate(file, {
                onSuccess: (done) => {
                  say(
                    `${done.houses.length === 1 ? "1 house is" : `${done.houses.length} houses are`} as in the backup.`,
                  );
                  onDone();
                },
              })
            }
          >
            Restore
          </button>
        </div>
      )}
    </section>
  );
}
