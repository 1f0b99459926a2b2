import { Play, Trash2 } from "lucide-react";
import { take } from "../../api/entities";
import { useEdit } from "../../api/queries";
import type { PlayView, Replayed, StoryEvent } from "../../api/types";
import { useRoom } from "../../shell/context";
import { ProblemNote } from "../../ui/Problem";
import { clockTime } from "../../ui/time";
import { useKeepStory, useReplay } from "./api";
import { deedWords, rehearsing } from "./words";
import { useTyped } from "../../ui/draft";

/** While an evening is being recorded: a name, and keep it. */
export function KeepStory() {
  const { house, room } = useRoom();
  const [name, setName] = useTyped(`story:${house.house.id} ${room}`, "");
  const keep = useKeepStory();
  return (
    <form
      className="mt-2 flex flex-wrap items-center gap-2 border-l-4 border-accent bg-soft px-3 py-1.5"
      onSubmit={(event) => {
        event.preventDefault();
        keep.mutate(name, { onSuccess: () => setName("") });
      }}
    >
      <strong>Recording.</strong> Press, meddle, and let the room come to rest; how it stands then is how this
      evening has to end.
      <input
        className="field w-48"
        aria-label="Name of the evening"
        placeholder="Name of the evening"
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      <button type="submit" className="btn btn-main" disabled={keep.isPending || name.trim() === ""}>
        Keep it
      </button>
      {keep.error && <ProblemNote text={keep.error.message} />}
    </form>
  );
}

/** An evening that is being played here: how far it is, the way to end it, and what could not be done. */
export function Playing({ playing, stop }: { playing: PlayView; stop: () => void }) {
  if (!playing.under_way && playing.refused.length === 0) return null;
  return (
    <div className="mt-2 border-l-4 border-accent bg-soft px-3 py-1.5" data-testid="playing">
      <div className="flex flex-wrap items-center gap-3">
        <span role="status">
          {playing.under_way
            ? `An evening is being played: ${playing.done} of ${playing.of} events so far.`
            : playing.done < playing.of
              ? `The evening was stopped after ${playing.done} of ${playing.of} events.`
              : `The evening was played: ${playing.of} events.`}
        </span>
        {playing.under_way && (
          <button type="button" className="btn" onClick={stop}>
            Stop playing
          </button>
        )}
      </div>
      {playing.refused.map((why, at) => (
        <p key={at} className="text-caution">
          {why}
        </p>
      ))}
    </div>
  );
}

/** The evenings that are tests of the room: played again, and what came of each. */
export function StoriesView({ play }: { play: (events: StoryEvent[]) => void }) {
  const { house, room } = useRoom();
  const replay = useReplay();
  const edit = useEdit(house.house.id);
  const own = house.rooms.find((known) => known.id === room);
  const rehearsal = own && rehearsing(own);
  const stories = rehearsal?.stories ?? [];
  const results = new Map<string, Replayed>((replay.data ?? []).map((one) => [one.story, one]));
  const remove = (id: string) => {
    edit.mutate([take(house, "story", id)]);
  };
  return (
    <div className="pt-3">
      {(replay.error ?? edit.error) && <ProblemNote text={(replay.error ?? edit.error)?.message ?? ""} />}
      <div className="flex flex-wrap items-center gap-3">
        <p className="max-w-[70ch]">
          An evening that was recorded is a test of the house: played again after an edit, it has to end as it
          did.
        </p>
        {stories.length > 0 && (
          <button
            type="button"
            className="btn btn-main ml-auto"
            disabled={replay.isPending}
            onClick={() => replay.mutate()}
          >
            <Play aria-hidden size={14} /> {replay.isPending ? "Playing…" : "Play all again"}
          </button>
        )}
      </div>
      {stories.length === 0 ? (
        <p className="mt-2 border-t border-ink py-2 text-muted">
          No evening has been kept yet. Press Record, use the room as its people would, then give the evening
          a name. Other hands in Sequences ▸ Proof open here too.
        </p>
      ) : (
        <div className="scrolls">
          <table className="mt-2 w-full border-collapse" aria-label="Stories">
            <thead>
              <tr className="border-b border-ink text-[13.5px] text-muted">
                <th scope="col" className="w-48 py-1 pr-3 font-medium">
                  Evening
                </th>
                <th scope="col" className="py-1 pr-3 font-medium">
                  What happens
                </th>
                <th scope="col" className="w-20 py-1 pr-3 text-right font-medium">
                  Length
                </th>
                <th scope="col" className="w-64 py-1 pr-3 font-medium">
                  Played again
                </th>
                <th scope="col" className="w-40 py-1 font-medium">
                  <span className="sr-only">Actions</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {stories.map((story) => {
                const played = results.get(story.id)?.played;
                return (
                  <tr key={story.id} className="border-b border-rule align-top">
                    <th scope="row" className="py-1.5 pr-3 font-semibold">
                      {story.name}
                    </th>
                    <td className="py-1.5 pr-3">
                      {story.events.map((event, at) => (
                        <span key={at} className="block">
                          <span className="font-mono text-[13px] text-muted">{clockTime(event.at_ms)}</span>{" "}
                          {deedWords(house, event)}
                        </span>
                      ))}
                    </td>
                    <td className="py-1.5 pr-3 text-right font-mono">{clockTime(story.length_ms)}</td>
                    <td className="py-1.5 pr-3" data-testid="played">
                      {!played && <span className="text-muted">not yet</span>}
                      {played?.passed && (
                        <span className="text-good">
                          Passed <span className="text-muted">in {played.took_ms} ms</span>
                        </span>
                      )}
                      {played && !played.passed && (
                        <span className="text-stop">Failed: {played.differences.join(" ")}</span>
                      )}
                      {played?.refused.map((why) => (
                        <span key={why} className="block text-caution">
                          {why}
                        </span>
                      ))}
                    </td>
                    <td className="py-1 text-right">
                      <button type="button" className="btn px-2" onClick={() => play(story.events)}>
                        Watch
                      </button>{" "}
                      <button
                        type="button"
                        className="btn px-2"
                        aria-label={`Remove ${story.name}`}
                        onClick={() => remove(story.id)}
                      >
                        <Trash2 aria-hidden size={14} />
                      </button>
                    </td>
                  </tr>
                );
              })}
            </tbody>
          </table>
        </div>
      )}
    </div>
  );
}
