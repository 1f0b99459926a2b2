import { Printer } from "lucide-react";
import type { Called } from "../../api/types";
import { useRoom } from "../../shell/context";
import { Field } from "../../ui/Inline";
import { Waiting } from "../../ui/Waiting";
import { day } from "../../ui/when";
import { useVoice, type SurfaceActions } from "./api";

const KIND: Record<Called["is"], string> = {
  activity: "activity",
  device: "device",
  channel: "channel",
  look: "look",
};

type VoiceData = NonNullable<ReturnType<typeof useVoice>["data"]>;

const same = (a: Called, b: Called) =>
  JSON.stringify(a, Object.keys(a).sort()) === JSON.stringify(b, Object.keys(b).sort());

/** “film, the big one” → two names. */
function typed(text: string): string[] {
  return text
    .split(",")
    .map((name) => name.trim())
    .filter((name) => name !== "");
}

/** What people say: names, what they collide with, and the sheet of phrases. */
export function NamesView({ actions }: { actions: SurfaceActions }) {
  const { house, room } = useRoom();
  const { voice, saveVoice } = actions;
  const sheet = useVoice();
  if (!sheet.data) return <Waiting what="the names" error={sheet.error} />;
  const { named, phrases, gone, collisions } = sheet.data;
  const fresh = phrases.filter((phrase) => phrase.fresh).length;
  const rename = (of: Called, names: string[], ownName: string) => {
    const others = (voice.names ?? []).filter((known) => !same(known.of, of));
    const plain = names.length === 0 || (names.length === 1 && names[0] === ownName);
    saveVoice({ ...voice, names: plain ? others : [...others, { of, names }] }, `Names of ${ownName} saved.`);
  };
  const synced = voice.synced;
  const roomName = house.rooms.find((known) => known.id === room)?.name;
  return (
    <div className="grid gap-x-10 gap-y-4 xl:grid-cols-[3fr_2fr]">
      <section aria-label="Names">
        <p className="mb-2">
          {collisions.length === 0 ? (
            "No name is taken for another one of the house."
          ) : (
            <strong className="text-caution">{collisions.length} names collide.</strong>
          )}
        </p>
        <div className="max-h-[66vh] overflow-auto">
          <div className="scrolls">
            <table className="w-full border-collapse" aria-label="Names that people say">
              <thead className="sticky top-0 bg-paper">
                <tr className="border-b border-edge text-[13px] text-muted">
                  <th className="py-1 pr-3">What</th>
                  <th className="py-1 pr-3">People say (commas between)</th>
                  <th className="py-1">Taken for</th>
                </tr>
              </thead>
              <tbody>
                {named.map((thing) => {
                  const against = collisions.filter((known) => same(known.of, thing.of));
                  return (
                    <tr key={JSON.stringify(thing.of)} className="border-b border-rule align-top">
                      <td className="py-1 pr-3">
                        {thing.own} <span className="text-[13px] text-muted">{KIND[thing.of.is]}</span>
                      </td>
                      <td className="py-1 pr-3">
                        <Field
                          key={thing.names.join()}
                          label={`Names of ${thing.own}`}
                          className=""
                          value={thing.names.join(", ")}
                          onSave={(text) => rename(thing.of, typed(text), thing.own)}
                        />
                      </td>
                      <td className="py-1">
                        <TakenFor
                          thing={thing}
                          against={against}
                          rename={(names) => rename(thing.of, names, thing.own)}
                        />
                      </td>
                    </tr>
                  );
                })}
              </tbody>
            </table>
          </div>
        </div>
      </section>
      <section aria-label="Phrases">
        <div className="flex flex-wrap items-center gap-2">
          <h3 className="text-[16px]">What can be said in {roomName}</h3>
          <button type="button" className="btn ml-auto" onClick={() => window.print()}>
            <Printer aria-hidden size={14} /> Print
          </button>
          <button
            type="button"
            className="btn"
            onClick={() =>
              saveVoice(
                {
                  ...voice,
                  synced: { at: new Date().toISOString(), phrases: phrases.map((phrase) => phrase.say) },
                },
                "Marked as told to the voice service.",
              )
            }
          >
            Mark as synchronised
          </button>
        </div>
        <p className="no-print mb-1 text-muted">
          {synced
            ? fresh + gone.length === 0
              ? `Nothing has changed since ${day(synced.at)}.`
              : `Changed since last sync: ${fresh} new, ${gone.length} gone. Synchronise the voice service, then mark it here.`
            : "The voice service was never told."}
        </p>
        <div className="scrolls">
          <table className="w-full border-collapse" aria-label="Phrases">
            <tbody>
              {phrases.map((phrase) => (
                <tr key={`${phrase.say} ${phrase.does}`} className="border-b border-rule">
                  <td className="py-0.5 pr-3 font-semibold">“{phrase.say}”</td>
                  <td className="py-0.5 pr-3 text-muted">{phrase.does}</td>
                  <td className="no-print py-0.5 text-second">{phrase.fresh && synced ? "new" : ""}</td>
                </tr>
              ))}
              {gone.map((phrase) => (
                <tr key={phrase} className="no-print border-b border-rule text-muted line-through">
                  <td className="py-0.5 pr-3">“{phrase}”</td>
                  <td colSpan={2}>gone</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      </section>
    </div>
  );
}

/** Which other names it is taken for, and what to say instead. */
function TakenFor({
  thing,
  against,
  rename,
}: {
  thing: VoiceData["named"][number];
  against: VoiceData["collisions"];
  rename: (names: string[]) => void;
}) {
  return (
    <>
      {against.map((known) => (
        <p key={known.name} className="text-caution">
          “{known.name}”{" "}
          {known.why === "sounds-alike"
            ? "sounds like"
            : known.why === "contained"
              ? "shares words with"
              : "is"}{" "}
          {known.with}.
          {known.instead && (
            <>
              {" "}
              <button
                type="button"
                className="link"
                onClick={() =>
                  rename(thing.names.map((name) => (name === known.name ? (known.instead ?? name) : name)))
                }
              >
                Say “{known.instead}”
              </button>
            </>
          )}
        </p>
      ))}
    </>
  );
}
