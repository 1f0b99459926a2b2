import { Command } from "cmdk";
import { Dialog } from "radix-ui";
import { useDeferredValue, useMemo, useState, type ReactNode } from "react";
import { useNavigate } from "react-router";
import { useRoom } from "./context";
import { everything, found } from "./find";
import { match } from "./match";

/** A command of the whole page. */
export interface PageCommand {
  name: string;
  run: () => void;
}

/** Search and commands: everything of the house that has a name, in all of its rooms. */
export function Palette({
  open,
  onClose,
  commands,
}: {
  open: boolean;
  onClose: () => void;
  commands: readonly PageCommand[];
}) {
  return (
    <Dialog.Root open={open} onOpenChange={(next) => !next && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/40" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-[12vh] left-1/2 z-50 w-[calc(100vw-2rem)] max-w-xl -translate-x-1/2 border border-edge bg-paper shadow-lg"
        >
          <Dialog.Title className="sr-only">Find</Dialog.Title>
          <Finder onClose={onClose} commands={commands} />
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function Finder({ onClose, commands }: { onClose: () => void; commands: readonly PageCommand[] }) {
  const { house, room } = useRoom();
  const navigate = useNavigate();
  const [asked, setAsked] = useState("");
  const words = useDeferredValue(asked);
  const entries = useMemo(() => everything(house), [house]);
  const hits = useMemo(() => found(entries, words, room), [entries, words, room]);
  const run = (action: () => void) => () => {
    onClose();
    action();
  };
  // What is marked is the first of what is found, whatever was marked before.
  const [moved, setMoved] = useState<{ over: string; value: string }>();
  const shown = commands.filter((known) => words.trim() === "" || match(`command ${known.name}`, words) > 0);
  const first = shown[0] ? `command ${shown[0].name}` : hits[0] && hits[0].kind + hits[0].id;
  const best = (first ?? "").toLowerCase();
  const over = `${words} ${best}`;
  const marked = moved?.over === over ? moved.value : best;
  return (
    <Command
      label="Find"
      loop
      shouldFilter={false}
      value={marked}
      onValueChange={(value) => setMoved({ over, value })}
    >
      <Command.Input
        autoFocus
        value={asked}
        onValueChange={setAsked}
        placeholder="A device, a function, a room, a key, a cue, a command …"
        className="min-h-11 w-full border-b border-rule bg-paper px-4 outline-none"
      />
      <Command.List className="max-h-[55vh] overflow-auto py-1">
        <Command.Empty className="px-4 py-3 text-muted">
          Nothing in this house has that name. Every word of it has to be there, in any order.
        </Command.Empty>
        {shown.map((known) => (
          <Item
            key={known.name}
            value={`command ${known.name}`.toLowerCase()}
            onSelect={run(known.run)}
            kind="Command"
          >
            {known.name}
          </Item>
        ))}
        {hits.map((hit) => (
          <Item
            key={hit.kind + hit.id}
            value={(hit.kind + hit.id).toLowerCase()}
            kind={hit.kind}
            onSelect={run(() => {
              const query = hit.select ? `?${new URLSearchParams(hit.select)}` : "";
              void navigate(`/houses/${house.house.id}/rooms/${hit.room ?? room}/${hit.stage}${query}`);
            })}
          >
            <span className="truncate">{hit.name}</span>
            {hit.also && <span className="truncate pl-2 text-[13px] text-muted">{hit.also}</span>}
          </Item>
        ))}
      </Command.List>
    </Command>
  );
}

function Item(props: { value: string; onSelect: () => void; kind: string; children: ReactNode }) {
  return (
    <Command.Item
      value={props.value}
      onSelect={props.onSelect}
      className="flex min-h-9 cursor-pointer items-center px-4 data-[selected=true]:bg-select"
    >
      {props.children}
      <span className="ml-auto shrink-0 pl-3 text-[13px] text-muted">{props.kind}</span>
    </Command.Item>
  );
}
