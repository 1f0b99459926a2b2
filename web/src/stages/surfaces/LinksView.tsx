import { dayTime } from "../../ui/when";
import { ExternalLink, Link2, Unlink } from "lucide-react";
import type { Surface } from "../../api/types";
import { useRoom } from "../../shell/context";
import { Field } from "../../ui/Inline";
import { ProblemNote } from "../../ui/Problem";
import { useLinks, type SurfaceActions } from "./api";
import { useTyped } from "../../ui/draft";

/** Links by which the surface opens on phones, and what people may change there. */
export function LinksView({ surface, actions }: { surface: Surface; actions: SurfaceActions }) {
  const { say } = useRoom();
  const { save } = actions;
  const { links, make, withdraw } = useLinks();
  const [label, setLabel] = useTyped(`link:${surface.id}`, "");
  const own = (links.data ?? []).filter((link) => link.surface === surface.id);
  const trouble = links.error ?? make.error ?? withdraw.error;
  return (
    <div className="max-w-3xl">
      <p className="text-muted">
        Whoever has a link can press what is on {surface.name}, and nothing else. Nobody can guess one;
        withdraw it and it stops at once. Phones reach the room over the network of the house when the server
        was started with <code className="font-mono">--surfaces</code>.
      </p>
      <form
        className="mt-3 flex flex-wrap items-center gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          make.mutate(
            { surface: surface.id, label },
            {
              onSuccess: () => {
                setLabel("");
                say(`Link made for ${label}.`);
              },
            },
          );
        }}
      >
        <input
          className="field w-56"
          aria-label="Whose link"
          placeholder="Whose phone is it?"
          value={label}
          onChange={(event) => setLabel(event.target.value)}
        />
        <button type="submit" className="btn btn-main" disabled={label.trim() === ""}>
          <Link2 aria-hidden size={15} /> Make a link
        </button>
      </form>
      {trouble && <ProblemNote text={trouble.message} />}
      {own.length > 0 ? (
        <div className="scrolls">
          <table className="mt-3 w-full border-collapse" aria-label="Links">
            <thead>
              <tr className="border-b border-edge text-[13px] text-muted">
                <th className="py-1 pr-3">Whose</th>
                <th className="py-1 pr-3">Address</th>
                <th className="py-1 pr-3">Opened last</th>
                <th className="py-1" />
              </tr>
            </thead>
            <tbody>
              {own.map((link) => (
                <LinkRow
                  key={link.token}
                  link={link}
                  withdraw={() =>
                    withdraw.mutate(link.token, { onSuccess: () => say(`Link of ${link.label} withdrawn.`) })
                  }
                />
              ))}
            </tbody>
          </table>
        </div>
      ) : (
        <p className="mt-3">No link yet.</p>
      )}
      <WhatMayChange surface={surface} save={save} />
    </div>
  );
}

/** One link: whose it is, its address, and its end. */
function LinkRow({
  link,
  withdraw,
}: {
  link: NonNullable<ReturnType<typeof useLinks>["links"]["data"]>[number];
  withdraw: () => void;
}) {
  const { say } = useRoom();
  return (
    <tr className="border-b border-rule">
      <td className="py-1 pr-3">{link.label}</td>
      <td className="py-1 pr-3">
        <a className="link font-mono" href={`/s/${link.token}`} target="_blank" rel="noreferrer">
          /s/{link.token.slice(0, 12)}… <ExternalLink aria-hidden size={13} />
        </a>
      </td>
      <td className="py-1 pr-3 text-muted">{link.used_at ? dayTime(link.used_at) : "never"}</td>
      <td className="py-1 text-right">
        <button
          type="button"
          className="btn px-2 text-[13.5px]"
          onClick={() =>
            void navigator.clipboard
              .writeText(`${location.origin}/s/${link.token}`)
              .then(() => say("Address copied."))
          }
        >
          Copy
        </button>{" "}
        <button type="button" className="btn px-2 text-[13.5px]" onClick={withdraw}>
          <Unlink aria-hidden size={14} /> Withdraw
        </button>
      </td>
    </tr>
  );
}

/** The light that people may change from the surface. */
function WhatMayChange({ surface, save }: { surface: Surface; save: SurfaceActions["save"] }) {
  const may = surface.may;
  return (
    <section aria-label="What people may change" className="mt-5">
      <h3 className="text-[16px]">Light that people may change</h3>
      <label className="flex min-h-9 items-center gap-1.5">
        <input
          type="checkbox"
          checked={may != null}
          onChange={(event) =>
            save(
              { ...surface, may: event.target.checked ? { least_percent: 5, most_percent: 80 } : null },
              event.target.checked
                ? "Levels can be changed from there."
                : "Levels can no longer be changed from there.",
            )
          }
        />
        They dim the zones of the room and store what they like in a look
      </label>
      {may && (
        <p className="flex flex-wrap items-center gap-2">
          between
          <Field
            key={`least_percent ${may.least_percent}`}
            label="Darkest in percent"
            type="number"
            className="w-20 text-right font-mono"
            value={String(may.least_percent)}
            onSave={(text) =>
              save(
                { ...surface, may: { ...may, least_percent: Math.round(Number(text)) } },
                "Limits changed.",
              )
            }
          />{" "}
          % and
          <Field
            key={`most_percent ${may.most_percent}`}
            label="Brightest in percent"
            type="number"
            className="w-20 text-right font-mono"
            value={String(may.most_percent)}
            onSave={(text) =>
              save({ ...surface, may: { ...may, most_percent: Math.round(Number(text)) } }, "Limits changed.")
            }
          />{" "}
          %<span className="text-muted">What they stored waits in Cues to be kept or put back.</span>
        </p>
      )}
    </section>
  );
}
