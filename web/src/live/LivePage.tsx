import { Unplug } from "lucide-react";
import { useEffect, useState } from "react";
import { useParams } from "react-router";
import type { LiveNow, LiveView } from "../api/types";
import { usePress, useLive, useSoon } from "./api";
import { Foot } from "./Foot";
import { type Hands, KeyGrid } from "./KeyGrid";
import { LiveLight } from "./LiveLight";
import { Whom } from "./Whom";

/** A surface as people use it: on a phone, by a link that nobody can guess. */
export function LivePage() {
  const { token = "" } = useParams();
  const { view, now, lost, withdrawn, error } = useLive(token);
  useEffect(() => {
    const link = document.createElement("link");
    link.rel = "manifest";
    link.href = `/api/live/${token}/manifest.webmanifest`;
    document.head.append(link);
    return () => link.remove();
  }, [token]);
  useEffect(() => {
    if (view) document.title = `${view.room}: ${view.surface.name}`;
  }, [view]);
  if (withdrawn)
    return (
      <main className="mx-auto mt-24 max-w-md px-6 text-[17px]">
        <h1 className="text-xl">This link does not work any more</h1>
        <p className="mt-2">Ask whoever set up the room for a new one.</p>
      </main>
    );
  if (!view || !now)
    return (
      <main className="mx-auto mt-24 max-w-md px-6 text-[17px]">
        <p role={error ? "alert" : "status"}>
          {error ? "No connection to the house. Trying again …" : "One moment …"}
        </p>
      </main>
    );
  return <Pages key={view.surface.id} token={token} view={view} now={now} lost={lost} />;
}

/** Which page is shown: that of what is on, until somebody turns elsewhere. */
function useTurned(view: LiveView, now: LiveNow) {
  const pages = view.surface.pages ?? [];
  const own = (activity: string | null | undefined) =>
    activity ? pages.find((page) => page.activity === activity)?.id : undefined;
  const [turned, setTurned] = useState<string | undefined>(own(now.activity));
  // The page of what is on opens when that starts; whoever turned elsewhere since stays there.
  const [seen, setSeen] = useState(now.activity);
  if (seen !== now.activity) {
    setSeen(now.activity);
    const next = own(now.activity);
    if (next) setTurned(next);
  }
  const first = pages[0];
  const shown = pages.find((page) => page.id === turned) ?? first;
  const wide = useWide() && pages.length > 1;
  // The display of a hand remote and its keys are seen at once.
  const both = view.surface.kind === "display-remote";
  const two = wide && first && shown && shown.id !== first.id ? [first, shown] : shown ? [shown] : [];
  return { sides: both ? pages : two, both, setTurned };
}

function Pages({ token, view, now, lost }: { token: string; view: LiveView; now: LiveNow; lost: boolean }) {
  const { press, dim, store } = usePress(token);
  const { sides, both, setTurned } = useTurned(view, now);
  const [said, setSaid] = useState<string>();
  const [put, setPut] = useState<number>();
  const soon = useSoon(token, now);
  const hands: Hands = {
    token,
    view,
    now,
    lost,
    soon,
    turn: setTurned,
    tell: setSaid,
    press: (key, gesture) =>
      press.mutate(
        { key: key.id, gesture },
        {
          onSuccess: (done) => {
            if (done.page) setTurned(done.page);
          },
          onError: (error) => setSaid(error.message),
        },
      ),
  };
  const light = view.may && (
    <LiveLight view={view} now={now} may={view.may} dim={dim} store={store} onTell={setSaid} />
  );
  const one = sides.length === 1;
  const trouble = now.trouble && now.trouble.number !== put ? now.trouble : undefined;
  return (
    <div className="flex h-full flex-col bg-paper">
      <Head view={view} now={now} />
      {lost && (
        <p role="alert" className="flex items-center gap-2 border-b border-stop px-3 py-2 text-stop">
          <Unplug aria-hidden size={18} />
          <span>
            No connection to the house. Trying again … <Whom programmer={view.programmer} />
          </span>
        </p>
      )}
      <main className="flex min-h-0 flex-1 flex-col overflow-y-auto px-3 py-2" tabIndex={-1}>
        <div className={`flex gap-5 ${both ? "flex-col" : ""}`}>
          {sides.map((page) => (
            <KeyGrid key={page.id} page={page} hands={hands} light={one ? light : undefined} />
          ))}
        </div>
        {!one && light}
      </main>
      {said && <Fault text={said} view={view} onAway={() => setSaid(undefined)} />}
      {!said && trouble && <Fault text={trouble.text} view={view} onAway={() => setPut(trouble.number)} />}
      <Foot hands={hands} />
    </div>
  );
}

/** The room, what is on, and how far a start is: a course that is sailed. */
function Head({ view, now }: { view: LiveView; now: LiveNow }) {
  const done = now.done_percent ?? (now.activity ? 100 : 0);
  return (
    <header className="px-4 pt-3 pb-1">
      <h1 className="text-[19px]">{view.room}</h1>
      <p className="text-[16px] text-muted" role="status" data-testid="live-status">
        {now.status}
      </p>
      <svg aria-hidden className="mt-1.5 block h-5 w-full" viewBox="0 0 358 20" preserveAspectRatio="none">
        <path d="M4 12 C60 2 110 20 170 10 S300 4 354 10" fill="none" stroke="var(--rule)" strokeWidth="3" />
        <path
          d="M4 12 C60 2 110 20 170 10 S300 4 354 10"
          fill="none"
          stroke="var(--accent)"
          strokeWidth="3"
          pathLength={100}
          strokeDasharray={`${done} 100`}
        />
      </svg>
    </header>
  );
}

/** What went wrong and whom to call. It stays until it is tapped. */
function Fault({ text, view, onAway }: { text: string; view: LiveView; onAway: () => void }) {
  return (
    <div role="alert" className="flex items-center gap-2 border-t-2 border-caution bg-soft px-3 py-2">
      <p className="flex-1 text-[16px]">
        {text} <Whom programmer={view.programmer} />
      </p>
      <button type="button" className="btn min-h-11 px-4" onClick={onAway}>
        Seen
      </button>
    </div>
  );
}

/** Is there room for two pages side by side? */
function useWide(): boolean {
  const [wide, setWide] = useState(() => window.innerWidth >= 700);
  useEffect(() => {
    const look = () => setWide(window.innerWidth >= 700);
    window.addEventListener("resize", look);
    return () => window.removeEventListener("resize", look);
  }, []);
  return wide;
}
