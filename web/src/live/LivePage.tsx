import { Unplug } from "lucide-react";
import { useEffect, useState } from "react";
import { useParams } from "react-router";
import type { LiveNow, LiveView, Programmer, SurfacePage } from "../api/types";
import { usePress, useLive } from "./api";
import { LiveKey } from "./LiveKey";
import { LiveLight } from "./LiveLight";

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

function Pages({ token, view, now, lost }: { token: string; view: LiveView; now: LiveNow; lost: boolean }) {
  const pages = view.surface.pages ?? [];
  const { press, dim, store } = usePress(token);
  const own = (activity: string | null | undefined) =>
    activity ? pages.find((page) => page.activity === activity)?.id : undefined;
  const [turned, setTurned] = useState<string | undefined>(own(now.activity));
  const [said, setSaid] = useState<string>();
  // The page of an activity opens when that starts; whoever turned elsewhere since stays there.
  const [seen, setSeen] = useState(now.activity);
  if (seen !== now.activity) {
    setSeen(now.activity);
    const next = own(now.activity);
    if (next) setTurned(next);
  }
  useEffect(() => {
    if (!said) return;
    const timer = setTimeout(() => setSaid(undefined), 4000);
    return () => clearTimeout(timer);
  }, [said]);
  const first = pages[0];
  const shown = pages.find((page) => page.id === turned) ?? first;
  const wide = useWide() && pages.length > 1;
  // The display of a hand remote and its keys are seen at once.
  const both = view.surface.kind === "display-remote";
  const sides = both
    ? pages
    : wide && first && shown && shown.id !== first.id
      ? [first, shown]
      : shown
        ? [shown]
        : [];
  const keys = new Map(now.keys.map((key) => [key.key, key]));
  const pageOf = (page: SurfacePage) => (
    <section key={page.id} aria-label={page.name} className="min-w-0 flex-1">
      <h2 className="mb-1.5 px-0.5 text-[15px] text-muted">{page.name}</h2>
      <div
        className="grid gap-2"
        style={{
          gridTemplateColumns: `repeat(${view.surface.columns}, minmax(0, 1fr))`,
          gridAutoRows: "minmax(52px, auto)",
        }}
      >
        {page.keys.map((key) => (
          <LiveKey
            token={token}
            key={key.id}
            own={key}
            now={keys.get(key.id)}
            off={lost}
            onTurn={setTurned}
            onTell={setSaid}
            onPress={(gesture) =>
              press.mutate(
                { key: key.id, gesture },
                {
                  onSuccess: (done) => {
                    if (done.page) setTurned(done.page);
                  },
                  onError: (error) => setSaid(error.message),
                },
              )
            }
          />
        ))}
      </div>
    </section>
  );
  return (
    <div className="flex h-full flex-col bg-paper">
      <header className="border-b border-rule px-3 pt-2 pb-1.5">
        <div className="flex items-baseline gap-2">
          <h1 className="text-[17px]">{view.room}</h1>
          <p
            className="min-w-0 flex-1 truncate text-right text-[16px]"
            role="status"
            data-testid="live-status"
          >
            {now.status}
          </p>
        </div>
        <div aria-hidden className="mt-1 h-1 bg-soft">
          <div
            className="h-full bg-accent transition-[width] duration-300"
            style={{ width: `${now.done_percent ?? 0}%` }}
          />
        </div>
      </header>
      {lost && (
        <p role="alert" className="flex items-center gap-2 border-b border-stop px-3 py-2 text-stop">
          <Unplug aria-hidden size={18} />
          <span>
            No connection to the house. Trying again … <Whom programmer={view.programmer} />
          </span>
        </p>
      )}
      {(said ?? now.trouble) && (
        <p role="alert" className="border-b border-caution px-3 py-2 text-caution">
          {said ?? now.trouble} <Whom programmer={view.programmer} />
        </p>
      )}
      <main className="flex min-h-0 flex-1 flex-col overflow-y-auto px-3 py-2">
        <div className={`mt-auto flex gap-5 ${both ? "flex-col" : ""}`}>{sides.map(pageOf)}</div>
        {view.may && (
          <LiveLight view={view} now={now} may={view.may} dim={dim} store={store} onTell={setSaid} />
        )}
      </main>
    </div>
  );
}

/** Whom to call where something is wrong; a telephone dials it. */
export function Whom({ programmer }: { programmer: Programmer }) {
  const { name, phone } = programmer;
  if (!name && !phone) return null;
  return (
    <span className="whitespace-nowrap">
      Call {name || "the programmer"}
      {phone && (
        <>
          {name ? ", " : ": "}
          <a className="link" href={`tel:${phone.replace(/[^+\d]/g, "")}`}>
            {phone}
          </a>
        </>
      )}
      .
    </span>
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
