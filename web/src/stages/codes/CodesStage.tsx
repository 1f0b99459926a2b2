import { ChevronDown, GraduationCap } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { useDeferredValue, useEffect, useMemo, useRef, useState } from "react";
import { useSearchParams } from "react-router";
import type { Device, HouseView } from "../../api/types";
import { profileOf, roomName, useRoom } from "../../shell/context";
import { PARTS } from "../../shell/stages";
import { useLetter } from "../../shell/useKeys";
import { Choice } from "../../ui/Choice";
import { StageHead } from "../../ui/StageHead";
import { inSignalOrder } from "../kit/words";
import { AddFunction } from "./AddFunction";
import { CodeGrid } from "./CodeGrid";
import { CodePanel } from "./CodePanel";
import { ExportSheet } from "./ExportSheet";
import { HiddenSheet } from "./HiddenSheet";
import { ImportSheet } from "./ImportSheet";
import { LearnRun } from "./LearnRun";
import { PresetSheet } from "./PresetSheet";
import { ProtocolsSheet } from "./ProtocolsSheet";
import { RenameSheet } from "./RenameSheet";
import { filtered, FILTERS, passes, rowsOf, type Cell, type Filter } from "./table";

const TOOLS = PARTS.codes;

type Tool = (typeof TOOLS)[number][0];

/** Has this device keys that somebody learns? A keypad sends presses of its own; a dimmer is told levels by name. */
function learned(house: HouseView, device: Device): boolean {
  const { kind, talks } = profileOf(house, device);
  const speaks = device.network?.talks ?? talks;
  return kind !== "keypad" && !(kind === "light" && (speaks === "mqtt" || speaks === "e131"));
}

/** Codes: a table of functions against devices; a cell opens to what is known of it. */
export function CodesStage() {
  const { house, devices } = useRoom();
  const [params, setParams] = useSearchParams();
  const [filter, setFilter] = useState<Filter>("all");
  const [search, setSearch] = useState("");
  const [where, setScope] = useState("room");
  const tool = TOOLS.find(([known]) => known === params.get("tool"))?.[0];
  const setTool = (next: Tool | undefined) =>
    setParams((old) => {
      if (next) old.set("tool", next);
      else old.delete("tool");
      return old;
    });
  const section = useRef<HTMLElement>(null);
  const learning = params.get("learn");
  const words = useDeferredValue(search);
  // A cell of another room is shown in the table of the whole house.
  const wanted = params.get("function") ? params.get("device") : null;
  const scope = wanted && !devices.some((device) => device.id === wanted) ? "house" : where;

  const { columns, cells, shown, table } = useTable(devices, scope, filter, words);
  const openAdded = (device: string, id: string) => {
    setParams(new URLSearchParams({ device, function: id }), { replace: true });
  };
  const known = cells.filter((cell) => cell.code).length;
  const tested = cells.filter((cell) => cell.code?.state === "tested").length;
  const selected = cells.find(
    (cell) => cell.device.id === params.get("device") && cell.fn.id === params.get("function"),
  );

  const { select, learn } = usePlace(setParams);
  const learnable = columns.filter((device) =>
    house.profiles.some((p) => p.id === device.profile && p.functions.length > 0),
  );
  const first = params.get("device") ?? learnable[0]?.id;
  const last = useRef<string>(undefined);
  const opened = selected?.device.id;
  useEffect(() => {
    if (opened) last.current = opened;
  }, [opened]);
  /** The device of the marked cell; else of the function that was open last; else the first one. */
  const marked = () => {
    const at = document.activeElement?.closest<HTMLElement>("[data-at]")?.dataset["at"];
    const lately = columns.find((device) => device.id === last.current)?.id;
    return (at && shown[Number(at.split(",")[1])]?.id) || params.get("device") || lately || first;
  };
  useLetter("l", selected || learning ? undefined : () => learn(marked()));

  if (learning) {
    const device = house.devices.find((one) => one.id === learning);
    if (device) {
      return (
        <LearnRun
          key={device.id}
          device={device}
          devices={learnable}
          onDevice={learn}
          onClose={() => learn(undefined)}
        />
      );
    }
  }
  return (
    <section ref={section} aria-label="Codes" className="flex h-full min-h-0 flex-col">
      <StageHead title="Codes" figure={`${known} of ${cells.length} have a code, ${tested} tested`}>
        <Filters
          search={search}
          setSearch={setSearch}
          filter={filter}
          setFilter={setFilter}
          scope={scope}
          setScope={setScope}
        />
        <Tools onChoose={setTool} />
        <button type="button" className="btn btn-main" disabled={!first} onClick={() => learn(marked())}>
          <GraduationCap aria-hidden size={16} /> Learn <span className="font-mono text-[11px]">L</span>
        </button>
      </StageHead>
      <Table
        table={table}
        none={cells.length === 0}
        words={words}
        shown={shown}
        selected={selected}
        filter={filter}
        onOpen={select}
      />
      {selected && (
        <CodePanel
          key={selected.device.id + selected.fn.id}
          device={selected.device}
          fn={selected.fn}
          lines={selected.codes}
          onClose={() => {
            const at = section.current?.querySelector<HTMLElement>('[aria-current="true"]');
            select(undefined);
            at?.focus();
          }}
        />
      )}
      {!selected && cells.length > 0 && (
        <p className="pt-2 text-[13px] text-muted">
          Arrows move, Enter opens a function: its waveform with the decoder's reading, its attempts and its
          twins. L learns the keys of a handset one after the other.
        </p>
      )}
      <ToolSheets
        tool={tool}
        columns={columns}
        learnable={learnable}
        first={first}
        onClose={() => setTool(undefined)}
        onAdded={openAdded}
      />
    </section>
  );
}

/** What else can be done with codes. */
function Tools({ onChoose }: { onChoose: (tool: Tool) => void }) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className="btn">
        More <ChevronDown aria-hidden size={15} />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={3}
          className="z-50 min-w-60 border border-edge bg-paper py-1 text-ink shadow-md"
        >
          {TOOLS.map(([id, name]) => (
            <DropdownMenu.Item
              key={id}
              className="flex min-h-8 cursor-pointer items-center px-3 outline-none data-[highlighted]:bg-select"
              onSelect={() => onChoose(id)}
            >
              {name}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

/** The table of functions against devices, as filtered. */
function useTable(devices: Device[], scope: string, filter: Filter, words: string) {
  const { house } = useRoom();
  const columns = useMemo(
    () =>
      inSignalOrder(house, scope === "house" ? house.devices : devices).filter((device) =>
        learned(house, device),
      ),
    [house, devices, scope],
  );
  const all = useMemo(() => rowsOf(house, columns), [house, columns]);
  const rows = useMemo(() => filtered(all, filter, words), [all, filter, words]);
  const cells = useMemo(() => all.flatMap((row) => row.cells).filter((cell) => cell !== undefined), [all]);
  const shown = useMemo(() => {
    if (filter === "all" && words.trim() === "") return columns;
    return columns.filter((_, at) => rows.some((row) => row.cells[at]));
  }, [columns, rows, filter, words]);
  const places = useMemo(() => shown.map((device) => columns.indexOf(device)), [shown, columns]);
  const table = useMemo(
    () => rows.map((row) => ({ ...row, cells: places.map((at) => row.cells[at]) })),
    [rows, places],
  );
  return { columns, cells, shown, table };
}

/** The table, or why it is empty. */
function Table({
  table,
  none,
  words,
  shown,
  selected,
  filter,
  onOpen,
}: {
  table: ReturnType<typeof useTable>["table"];
  none: boolean;
  words: string;
  shown: Device[];
  selected: Cell | undefined;
  filter: Filter;
  onOpen: (cell: Cell) => void;
}) {
  const { house } = useRoom();
  return (
    <>
      {none ? (
        <p className="border-t border-rule py-6">
          No device of this room has a function yet. Add a device in Kit first; its keys then stand here.
        </p>
      ) : (
        <div className={`min-h-[150px] border-b border-rule ${selected ? "basis-[30%]" : "flex-1"}`}>
          {table.length === 0 ? (
            <p className="border-t border-ink py-4">
              {words.trim() === ""
                ? "Nothing in the table is of that kind."
                : `Nothing is found for “${words.trim()}”.`}
            </p>
          ) : (
            <CodeGrid
              rows={table}
              columns={shown.map((device) => ({
                device,
                title: `${device.name}, ${roomName(house, device.room)}`,
              }))}
              selected={selected}
              dim={(cell) => !passes(cell, filter)}
              onOpen={onOpen}
            />
          )}
        </div>
      )}
    </>
  );
}

/** The sheet of the tool that was chosen. */
function ToolSheets({
  tool,
  columns,
  learnable,
  first,
  onClose,
  onAdded,
}: {
  tool: Tool | undefined;
  columns: Device[];
  learnable: Device[];
  first: string | undefined;
  onClose: () => void;
  onAdded: (device: string, id: string) => void;
}) {
  return (
    <>
      <AddFunction open={tool === "add"} devices={columns} onClose={onClose} onAdded={onAdded} />
      <RenameSheet open={tool === "rename"} devices={columns} onClose={onClose} />
      {tool === "import" && <ImportSheet devices={columns} first={first} onClose={onClose} />}
      {tool === "export" && <ExportSheet devices={columns} first={first} onClose={onClose} />}
      {tool === "presets" && <PresetSheet devices={learnable} first={first} onClose={onClose} />}
      {tool === "protocols" && <ProtocolsSheet onClose={onClose} />}
      {tool === "hidden" && <HiddenSheet devices={learnable} first={first} onClose={onClose} />}
    </>
  );
}

/** The place of the stage in its address: the open function, or the handset that is learned. */
function usePlace(setParams: ReturnType<typeof useSearchParams>[1]) {
  const select = (cell: Cell | undefined, replace = true) => {
    const next = new URLSearchParams();
    if (cell) {
      next.set("device", cell.device.id);
      next.set("function", cell.fn.id);
    }
    setParams(next, { replace });
  };
  const learn = (device: string | undefined) => {
    const next = new URLSearchParams();
    if (device) next.set("learn", device);
    setParams(next, { replace: true });
  };
  return { select, learn };
}

/** What of the table is shown. */
function Filters({
  search,
  setSearch,
  filter,
  setFilter,
  scope,
  setScope,
}: {
  search: string;
  setSearch: (search: string) => void;
  filter: Filter;
  setFilter: (filter: Filter) => void;
  scope: string;
  setScope: (scope: string) => void;
}) {
  const { house, room } = useRoom();
  return (
    <>
      <input
        type="search"
        className="field w-40"
        placeholder="Find"
        aria-label="Find in the table"
        value={search}
        onChange={(event) => setSearch(event.target.value)}
      />
      <Choice
        label="Show"
        className="w-38"
        value={filter}
        onChange={(value) => setFilter(value as Filter)}
        options={FILTERS.map(([value, label]) => ({ value, label }))}
      />
      <Choice
        label="Where"
        className="w-32"
        value={scope}
        onChange={setScope}
        options={[
          { value: "room", label: roomName(house, room) },
          { value: "house", label: "whole house" },
        ]}
      />
    </>
  );
}
