import { RULES, surfaceRule } from "../../api/rules";
import { Plus, RefreshCw, Trash2 } from "lucide-react";
import { useSearchParams } from "react-router";
import type { Surface, SurfaceKind } from "../../api/types";
import { useRoom } from "../../shell/context";
import { PARTS } from "../../shell/stages";
import { Pick } from "../../ui/Inline";
import { NotSaved } from "../../ui/NotSaved";
import { ProblemNote } from "../../ui/Problem";
import { StageHead } from "../../ui/StageHead";
import { Tabs } from "../../ui/Tabs";
import { useGenerate, useSurfaces } from "./api";
import { CoverView } from "./CoverView";
import { LabelsView } from "./LabelsView";
import { LayoutView } from "./LayoutView";
import { LinksView } from "./LinksView";
import { NamesView } from "./NamesView";
import { blank } from "./surface";

const VIEWS = PARTS.surfaces;

const KIND_OPTIONS = RULES.surfaces.map((known) => [known.kind, known.name] as const);

/** What may be typed of a surface and not saved: its own card, a page, a key. */
function draftsOf(surface: Surface): string[] {
  const pages = surface.pages ?? [];
  return [
    `surface:${surface.id}`,
    ...pages.map((page) => `page:${page.id}`),
    ...pages.flatMap((page) => page.keys.map((key) => `key:${key.id}`)),
  ];
}

/** Without a surface there is little to see; what is drawn on glass has no labels to cut or stick on. */
function offers(surface: Surface | undefined, view: (typeof VIEWS)[number][0]): boolean {
  if (!surface) return view === "names" || view === "layout";
  return view !== "labels" || !surfaceRule(surface.kind).glass;
}

/** Surfaces: what people press and say in the room. */
export function SurfacesStage() {
  const { house, room } = useRoom();
  const actions = useSurfaces();
  const { surfaces, save, remove, trouble } = actions;
  const generate = useGenerate();
  const [params, setParams] = useSearchParams();
  const byKey = params.get("key");
  const surface =
    surfaces.find((known) => known.id === params.get("surface")) ??
    surfaces.find((known) => known.pages?.some((page) => page.keys.some((key) => key.id === byKey))) ??
    surfaces[0];
  const wanted = VIEWS.find(([name]) => name === params.get("show"))?.[0] ?? "layout";
  const show = offers(surface, wanted) ? wanted : "layout";
  const set = (change: Record<string, string | undefined>) =>
    setParams((old) => {
      for (const [name, value] of Object.entries(change)) {
        if (value === undefined) old.delete(name);
        else old.set(name, value);
      }
      return old;
    });
  const add = (kind: SurfaceKind) => {
    const fresh = blank(
      kind,
      surfaces.map((known) => known.name),
    );
    generate.mutate(fresh, {
      onSuccess: (made) => {
        save(made, `${made.name} laid out from the activities of the room. Undo takes it back.`);
        set({ surface: made.id, show: "layout", page: undefined, key: undefined });
      },
    });
  };
  const anew = (own: Surface) =>
    generate.mutate(own, {
      onSuccess: (made) => save(made, `${own.name} laid out anew. What was made by hand stayed.`),
    });
  const problem = trouble ?? generate.error?.message;
  const adding = (
    <Pick
      label="Add a surface"
      value=""
      blank="Add a surface …"
      options={KIND_OPTIONS}
      onChange={(kind) => kind && add(kind as SurfaceKind)}
    />
  );
  const activities = house.activities.filter((known) => known.room === room).length;
  return (
    <section aria-label="Surfaces">
      <StageHead
        title="Surfaces"
        figure={`${surfaces.length} ${surfaces.length === 1 ? "surface" : "surfaces"}, ${surfaces.reduce((sum, known) => sum + (known.pages ?? []).reduce((keys, page) => keys + page.keys.length, 0), 0)} keys`}
      >
        {surface && show === "layout" && (
          <>
            <button type="button" className="btn" onClick={() => anew(surface)}>
              <RefreshCw aria-hidden size={15} /> Lay out anew
            </button>
            <button
              type="button"
              className="btn"
              aria-label={`Remove ${surface.name}`}
              onClick={() => remove(surface.id)}
            >
              <Trash2 aria-hidden size={15} />
            </button>
          </>
        )}
        {adding}
      </StageHead>
      {problem && <ProblemNote text={problem} />}
      {surfaces.length > 0 && (
        <SurfaceChoice
          surfaces={surfaces}
          surface={surface}
          choose={(id) => set({ surface: id, page: undefined, key: undefined })}
        />
      )}
      <Tabs
        label="Surfaces"
        parts={VIEWS.filter(([name]) => offers(surface, name))}
        value={show}
        onChange={(value) => set({ show: value })}
      />
      {show === "names" ? (
        <NamesView actions={actions} />
      ) : !surface ? (
        <NoSurface activities={activities} onAdd={() => add("phone")} />
      ) : show === "layout" ? (
        <LayoutView key={surface.id} surface={surface} actions={actions} />
      ) : show === "cover" ? (
        <CoverView surface={surface} onKey={(key) => set({ show: "layout", key })} />
      ) : show === "labels" ? (
        <LabelsView surface={surface} actions={actions} />
      ) : (
        <LinksView surface={surface} actions={actions} />
      )}
    </section>
  );
}

/** The surfaces of the room. */
function SurfaceChoice({
  surfaces,
  surface,
  choose,
}: {
  surfaces: Surface[];
  surface: Surface | undefined;
  choose: (id: string) => void;
}) {
  return (
    <div role="radiogroup" aria-label="Surface" className="mb-2 flex flex-wrap gap-1.5">
      {surfaces.map((known) => (
        <button
          key={known.id}
          type="button"
          role="radio"
          aria-checked={known.id === surface?.id}
          className={`btn ${known.id === surface?.id ? "border-accent text-accent" : "font-normal"}`}
          onClick={() => choose(known.id)}
        >
          {known.name}
          <span className="text-[13px] font-normal text-muted">
            {surfaceRule(known.kind).name.toLowerCase()}
          </span>
          <NotSaved brief of={draftsOf(known)} />
        </button>
      ))}
    </div>
  );
}

/** What to do first in a room without a surface. */
function NoSurface({ activities, onAdd }: { activities: number; onAdd: () => void }) {
  return (
    <div className="max-w-xl">
      <p>Nothing to press in this room yet.</p>
      <p className="mt-2 text-muted">
        {activities > 0
          ? "Add a phone, a hand remote, a keypad: it is laid out from the activities of the room and their devices, and edited then."
          : "A layout comes from the activities of a room: make one in Sequences first, or add a surface and put its keys there by hand."}
      </p>
      <p className="mt-3">
        <button type="button" className="btn btn-main" onClick={onAdd}>
          <Plus aria-hidden size={15} /> Add a phone
        </button>
      </p>
    </div>
  );
}
