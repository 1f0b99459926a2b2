import { ChevronDown, Moon, PanelRightOpen, Redo2, Search, Sun, Undo2 } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { Link } from "react-router";
import { whoAmI } from "../api/client";
import type { HistoryStep, Notes } from "../api/types";
import { MenuItem, MenuSheet } from "../ui/Menu";
import { useRoom } from "./context";
import { shareOf, STAGES } from "./stages";
import type { Theme } from "./theme";

/** What a step of the history did; whose it is, where it is somebody else’s. */
export function stepWords(step: HistoryStep): string {
  return step.who === (whoAmI() || "someone") ? step.title : `${step.title} (by ${step.who})`;
}

/** The passage bar: where we are, the stages in working order with what is done of each, and the tools. */
export function Passage({
  stage,
  notes,
  theme,
  onTheme,
  onPalette,
  onStep,
  onRooms,
  onMargin,
}: {
  stage: string;
  notes: Notes | undefined;
  theme: Theme;
  onTheme: () => void;
  onPalette: () => void;
  onStep: (kind: "undo" | "redo") => void;
  onRooms: () => void;
  onMargin: () => void;
}) {
  const { house, room } = useRoom();
  const name = house.rooms.find((known) => known.id === room)?.name;
  const open = notes?.findings.filter((finding) => !finding.accepted).length ?? 0;
  return (
    <header className="flex flex-wrap items-center gap-x-5 border-b border-rule px-[18px] max-lg:gap-x-1 max-lg:px-3">
      <h1 className="min-w-0 truncate py-3.5 text-[15px] max-lg:basis-full max-lg:py-1">
        <Link to="/" className="hover:text-accent" title="The shelf: all houses (G)">
          {house.house.name}
        </Link>{" "}
        <span className="font-normal text-muted">▸</span>{" "}
        <button
          type="button"
          className="inline-flex min-h-8 items-center gap-1 hover:text-accent"
          aria-haspopup="dialog"
          title="The rooms of the house"
          onClick={onRooms}
        >
          {name}
          <ChevronDown aria-hidden size={14} className="text-muted" />
        </button>
      </h1>
      <StageMenu stage={stage} notes={notes} />
      <nav
        aria-label="Stages"
        className="relative flex max-w-[760px] flex-1 justify-around gap-2.5 max-lg:hidden"
      >
        <span aria-hidden className="absolute right-4 bottom-0 left-4 border-b border-dashed border-muted" />
        {STAGES.map((known) => {
          const share = shareOf(known.id, notes);
          const done = share !== undefined && share.total > 0 && share.done === share.total;
          const here = known.id === stage;
          return (
            <Link
              key={known.id}
              to={`/houses/${house.house.id}/rooms/${room}/${known.id}`}
              aria-current={here ? "page" : undefined}
              className={`relative py-3.5 whitespace-nowrap ${here ? "font-bold text-accent" : "hover:text-accent"}`}
            >
              <span className="kbd">{known.digit}</span> {known.name}{" "}
              {share && (
                <span className="font-mono text-[12px] font-normal text-muted max-xl:sr-only">
                  {share.done}/{share.total}
                  <span className="sr-only"> done</span>
                </span>
              )}
              <span
                aria-hidden
                className={`absolute left-1/2 -translate-x-1/2 rotate-45 border-[1.5px] ${
                  here
                    ? "-bottom-[7px] size-[13px] border-accent bg-accent"
                    : `-bottom-[5px] size-[9px] border-muted ${done ? "bg-muted" : "bg-paper"}`
                }`}
              />
            </Link>
          );
        })}
      </nav>
      <div className="ml-auto flex items-center gap-1 text-[13px]">
        <button type="button" className="btn border-transparent font-medium max-lg:px-2" onClick={onPalette}>
          <Search aria-hidden size={15} /> <span className="max-sm:sr-only">Find</span>{" "}
          <span className="kbd max-[1420px]:hidden">Ctrl K</span>
        </button>
        <button
          type="button"
          className="btn border-transparent px-2"
          aria-label={house.undo ? `Undo: ${stepWords(house.undo)}` : "Nothing to undo"}
          title={house.undo ? `Undo: ${stepWords(house.undo)} (Ctrl Z)` : "Nothing to undo"}
          disabled={!house.undo}
          onClick={() => onStep("undo")}
        >
          <Undo2 aria-hidden size={16} />
        </button>
        <button
          type="button"
          className="btn border-transparent px-2"
          aria-label={house.redo ? `Redo: ${stepWords(house.redo)}` : "Nothing to redo"}
          title={house.redo ? `Redo: ${stepWords(house.redo)} (Ctrl Shift Z)` : "Nothing to redo"}
          disabled={!house.redo}
          onClick={() => onStep("redo")}
        >
          <Redo2 aria-hidden size={16} />
        </button>
        <button type="button" className="btn border-transparent font-medium max-lg:px-2" onClick={onTheme}>
          {theme === "dark" ? <Sun aria-hidden size={15} /> : <Moon aria-hidden size={15} />}
          <span className="max-[1420px]:sr-only">{theme === "dark" ? "Paper" : "Dark room"}</span>
        </button>
        <button
          type="button"
          className="btn border-transparent px-2 md:hidden"
          aria-label={`Notes in the margin (${open})`}
          onClick={onMargin}
        >
          <PanelRightOpen aria-hidden size={16} />
          <span className="font-mono text-[12px]">{open}</span>
        </button>
      </div>
    </header>
  );
}

/** On small glass the stages are a menu, the one on the table in it. */
function StageMenu({ stage, notes }: { stage: string; notes: Notes | undefined }) {
  const { go } = useRoom();
  const here = STAGES.find((known) => known.id === stage);
  const share = here && shareOf(here.id, notes);
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        className="btn min-w-0 lg:hidden"
        aria-label={`Stage: ${here?.name}. Choose another`}
      >
        <span className="truncate">{here?.name}</span>
        {share && (
          <span className="font-mono text-[12px] font-normal text-muted">
            {share.done}/{share.total}
          </span>
        )}
        <ChevronDown aria-hidden size={15} className="text-muted" />
      </DropdownMenu.Trigger>
      <MenuSheet align="start">
        {STAGES.map((known) => {
          const own = shareOf(known.id, notes);
          return (
            <MenuItem key={known.id} onSelect={() => go(known.id)}>
              <span className={known.id === stage ? "font-semibold text-accent" : ""}>{known.name}</span>
              {own && (
                <span className="ml-auto pl-6 font-mono text-[12px] text-muted">
                  {own.done}/{own.total}
                </span>
              )}
            </MenuItem>
          );
        })}
      </MenuSheet>
    </DropdownMenu.Root>
  );
}
