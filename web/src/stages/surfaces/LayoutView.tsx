import { surfaceRule } from "../../api/rules";
import { AlignVerticalSpaceAround, Plus } from "lucide-react";
import { useState } from "react";
import { useSearchParams } from "react-router";
import type { Surface, SurfacePage } from "../../api/types";
import { roomName, useRoom } from "../../shell/context";
import { Figure, Pick, type Option } from "../../ui/Inline";
import { ProblemNote } from "../../ui/Problem";
import { useCopyPage, type SurfaceActions } from "./api";
import { KeyForm } from "./KeyForm";
import { KeyTable } from "./KeyTable";
import { PageGrid } from "./PageGrid";
import { choices, closedUp, freshKey, without } from "./surface";
import { forget, useTyped } from "../../ui/draft";

/** A surface at true size on its grid, and what each key does. */
export function LayoutView({ surface, actions }: { surface: Surface; actions: SurfaceActions }) {
  const { house, room } = useRoom();
  const { save, savePage } = actions;
  const [params, setParams] = useSearchParams();
  const [activity, setActivity] = useState<string>();
  const [scale, setScale] = useState(1);
  const pages = surface.pages ?? [];
  const byKey = params.get("key");
  const page =
    pages.find((known) => known.keys.some((key) => key.id === byKey)) ??
    pages.find((known) => known.id === params.get("page")) ??
    pages[0];
  const key = page?.keys.find((known) => known.id === byKey);
  const set = (name: string, value: string | undefined) =>
    setParams((old) => {
      if (name === "page") old.delete("key");
      if (value === undefined) old.delete(name);
      else old.set(name, value);
      return old;
    });
  const glass = surfaceRule(surface.kind).glass;
  const known = choices(house, room);
  const shown = page?.activity ?? activity;
  const addKey = (own: SurfacePage) => {
    const fresh = freshKey(surface, own);
    savePage(surface, { ...own, keys: [...own.keys, fresh] }, "Key added. Give it something to do.");
    set("key", fresh.id);
  };
  const addPage = () => {
    const fresh = freshPage(surface, pages);
    save({ ...surface, pages: [...pages, fresh] }, "Page added.");
    set("page", fresh.id);
  };
  return (
    <div>
      <Frame surface={surface} onSave={(own) => save(own, `${own.name} saved.`)} />
      <div className="mt-2 flex flex-wrap items-center gap-2">
        {(glass || pages.length > 1) && (
          <Pages
            pages={pages}
            page={page}
            onPage={(id) => set("page", id)}
            onAdd={glass ? addPage : undefined}
          />
        )}
        {!glass && (
          <label className="flex items-center gap-2">
            What it does in
            <Pick
              label="In which activity"
              value={activity ?? ""}
              options={[["", "no activity"], ...known.activities]}
              onChange={(id) => setActivity(id || undefined)}
            />
          </label>
        )}
        <ShownAt scale={scale} setScale={setScale} />
      </div>
      {page ? (
        <div className="mt-3 flex flex-wrap items-start gap-x-8 gap-y-4 lg:flex-nowrap">
          <div className="shrink-0 max-md:w-full max-md:shrink max-md:overflow-x-auto">
            <PageGrid
              surface={surface}
              page={page}
              scale={scale}
              chosen={key?.id}
              activity={shown ?? undefined}
              onChoose={(id) => set("key", id)}
              onMove={(next) => savePage(surface, next, "Key moved.")}
              onRemove={(own) => {
                savePage(surface, without(page, own), `“${own.label}” taken away. Undo brings it back.`);
                set("key", undefined);
              }}
            />
            <GridTools
              onKey={() => addKey(page)}
              onClose={() => savePage(surface, closedUp(page), "Empty rows closed.")}
            />
          </div>
          <div className="min-w-0 flex-1 max-md:basis-full">
            {key ? (
              <KeyForm
                key={`${key.id} ${house.revision}`}
                surface={surface}
                page={page}
                own={key}
                actions={actions}
                onClose={() => set("key", undefined)}
                onOpen={(id) => set("key", id)}
              />
            ) : (
              <>
                <KeyTable
                  surface={surface}
                  page={page}
                  activity={shown ?? undefined}
                  onChoose={(id) => set("key", id)}
                />
                <PageTools surface={surface} page={page} actions={actions} />
              </>
            )}
          </div>
        </div>
      ) : (
        <p className="mt-3">
          No page yet: <em>Lay out anew</em> makes the pages, or <em>Page</em> an empty one.
        </p>
      )}
    </div>
  );
}

/** A page of its own with the key that leads back to the first one. */
function freshPage(surface: Surface, pages: SurfacePage[]): SurfacePage {
  const page: SurfacePage = {
    id: crypto.randomUUID(),
    name: `Page ${pages.length + 1}`,
    activity: null,
    keys: [],
    without: [],
  };
  const back = {
    ...freshKey(surface, page),
    label: "Activities",
    bindings: pages[0]
      ? [{ gesture: "tap" as const, does: { does: "page" as const, page: pages[0].id } }]
      : [],
  };
  return { ...page, keys: [back] };
}

/** Name and size of a surface, and the device in Kit that sends its presses. */
function Frame({ surface, onSave }: { surface: Surface; onSave: (surface: Surface) => void }) {
  const { house, room } = useRoom();
  const [own, setOwn] = useTyped(`surface:${surface.id}`, surface);
  const changed = (["name", "width_mm", "height_mm", "columns", "rows", "device"] as const).some(
    (name) => own[name] !== surface[name],
  );
  const set = (change: Partial<Surface>) => setOwn({ ...own, ...change });
  const keypads: Option[] = [
    ["", "nothing in Kit"],
    ...choices(house, room).devices((profile) => profile.kind === "keypad"),
  ];
  return (
    <form
      aria-label="Surface"
      className="flex flex-wrap items-center gap-x-4 gap-y-1.5"
      onSubmit={(event) => {
        event.preventDefault();
        forget(`surface:${surface.id}`);
        onSave({
          ...surface,
          name: own.name,
          width_mm: own.width_mm,
          height_mm: own.height_mm,
          columns: own.columns,
          rows: own.rows,
          device: own.device ?? null,
        });
      }}
    >
      <input
        className="field w-44"
        aria-label="Name of the surface"
        value={own.name}
        onChange={(event) => set({ name: event.target.value })}
      />
      <Figure label="Width" unit="mm wide" value={own.width_mm} onChange={(width_mm) => set({ width_mm })} />
      <Figure
        label="Height"
        unit="mm high"
        value={own.height_mm}
        onChange={(height_mm) => set({ height_mm })}
      />
      <Figure label="Columns" unit="columns" value={own.columns} onChange={(columns) => set({ columns })} />
      <Figure label="Rows" unit="rows" value={own.rows} onChange={(rows) => set({ rows })} />
      {!surfaceRule(surface.kind).glass && (
        <label className="flex items-center gap-2 text-muted">
          Presses come from
          <Pick
            label="Device that sends its presses"
            value={own.device ?? ""}
            options={keypads}
            onChange={(id) => set({ device: id || null })}
          />
        </label>
      )}
      <button type="submit" className="btn" disabled={!changed}>
        Save size
      </button>
    </form>
  );
}

/** A page as a whole: its name, gone, or copied to another room. */
function PageTools({
  surface,
  page,
  actions,
}: {
  surface: Surface;
  page: SurfacePage;
  actions: SurfaceActions;
}) {
  const { house, room, say } = useRoom();
  const { save, savePage, saveIn } = actions;
  const copy = useCopyPage();
  const [name, setName] = useTyped(`page:${page.id}`, page.name);
  const [left, setLeft] = useState<string[]>();
  const targets: Option[] = house.rooms
    .filter((known) => known.id !== room)
    .flatMap((known) => [
      ...(known.surfaces ?? []).map((one): Option => [
        `${known.id} ${one.id}`,
        `${one.name} in ${known.name}`,
      ]),
    ]);
  const carry = (target: string) => {
    const [to_room = "", to = ""] = target.split(" ");
    copy.mutate(
      { page: page.id, surface: surface.id, to_room, to },
      {
        onSuccess: (copied) => {
          const there = house.rooms.find((known) => known.id === to_room)?.surfaces ?? [];
          const own = there.find((one) => one.id === to);
          if (own)
            saveIn(
              to_room,
              { ...own, pages: [...(own.pages ?? []), copied.page] },
              `${page.name} copied to ${roomName(house, to_room)}.`,
            );
          setLeft(copied.left_out);
          say(`${page.name} copied to ${roomName(house, to_room)}.`);
        },
      },
    );
  };
  return (
    <div className="mt-4 flex flex-wrap items-center gap-2 border-t border-rule pt-3">
      <form
        className="flex flex-wrap gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          forget(`page:${page.id}`);
          savePage(surface, { ...page, name }, "Page renamed.");
        }}
      >
        <input
          className="field w-40"
          aria-label="Name of the page"
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        <button type="submit" className="btn" disabled={name === page.name}>
          Rename page
        </button>
      </form>
      {targets.length > 0 && (
        <Pick label="Copy page to" value="" blank="Copy this page to …" options={targets} onChange={carry} />
      )}
      {(surface.pages ?? []).length > 1 && (
        <button
          type="button"
          className="btn"
          onClick={() =>
            save(
              { ...surface, pages: (surface.pages ?? []).filter((known) => known.id !== page.id) },
              "Page removed. Undo brings it back.",
            )
          }
        >
          Remove page
        </button>
      )}
      {copy.error && <ProblemNote text={copy.error.message} />}
      {left && left.length > 0 && (
        <div className="w-full">
          <p>Left out there:</p>
          <ul className="text-muted">
            {left.map((line) => (
              <li key={line}>{line}</li>
            ))}
          </ul>
        </div>
      )}
    </div>
  );
}

/** The pages of a surface. */
function Pages({
  pages,
  page,
  onPage,
  onAdd,
}: {
  pages: SurfacePage[];
  page: SurfacePage | undefined;
  onPage: (id: string) => void;
  onAdd: (() => void) | undefined;
}) {
  return (
    <div role="radiogroup" aria-label="Page" className="flex flex-wrap gap-1">
      {pages.map((known) => (
        <button
          key={known.id}
          type="button"
          role="radio"
          aria-checked={known.id === page?.id}
          className={`btn px-2 text-[13.5px] ${known.id === page?.id ? "border-accent text-accent" : "font-normal"}`}
          onClick={() => onPage(known.id)}
        >
          {known.name}
        </button>
      ))}
      {onAdd && (
        <button type="button" className="btn px-2 text-[13.5px] font-normal" onClick={onAdd}>
          <Plus aria-hidden size={14} /> Page
        </button>
      )}
    </div>
  );
}

/** How large it is shown. */
function ShownAt({ scale, setScale }: { scale: number; setScale: (scale: number) => void }) {
  return (
    <label className="ml-auto flex items-center gap-1.5 text-muted">
      Shown
      <Pick
        label="Size on the screen"
        value={String(scale)}
        options={[
          ["1", "at true size"],
          ["1.5", "half as large again"],
          ["2", "twice as large"],
        ]}
        onChange={(value) => setScale(Number(value))}
      />
    </label>
  );
}

/** Another key, and empty rows closed up. */
function GridTools({ onKey, onClose }: { onKey: () => void; onClose: () => void }) {
  return (
    <p className="mt-1.5 flex flex-wrap gap-1.5">
      <button type="button" className="btn px-2 text-[13.5px]" onClick={onKey}>
        <Plus aria-hidden size={14} /> Key
      </button>
      <button type="button" className="btn px-2 text-[13.5px]" onClick={onClose}>
        <AlignVerticalSpaceAround aria-hidden size={14} /> Close empty rows
      </button>
    </p>
  );
}
