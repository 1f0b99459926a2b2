import { Command } from "cmdk";
import { Dialog } from "radix-ui";
import type { ReactNode } from "react";
import { profileOf, useRoom } from "./context";
import { match } from "./match";
import { STAGES } from "./stages";

/** Search and commands. */
export function Palette({
  open,
  onClose,
  onStep,
  onLog,
}: {
  open: boolean;
  onClose: () => void;
  onStep: (kind: "undo" | "redo") => void;
  onLog: () => void;
}) {
  const { house, room, devices, go } = useRoom();
  const run = (action: () => void) => () => {
    onClose();
    action();
  };
  return (
    <Dialog.Root open={open} onOpenChange={(next) => !next && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/40" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-[12vh] left-1/2 z-50 w-[calc(100vw-2rem)] max-w-xl -translate-x-1/2 border border-edge bg-paper shadow-lg"
        >
          <Dialog.Title className="sr-only">Find</Dialog.Title>
          <Command label="Find" loop filter={match}>
            <Command.Input
              autoFocus
              placeholder="A device, a function, an activity, a command …"
              className="min-h-11 w-full border-b border-rule bg-paper px-4 outline-none"
            />
            <Command.List className="max-h-[55vh] overflow-auto py-1">
              <Command.Empty className="px-4 py-3 text-muted">Nothing has that name.</Command.Empty>
              {STAGES.map((stage) => (
                <Item
                  key={stage.id}
                  value={`stage ${stage.name}`}
                  onSelect={run(() => go(stage.id))}
                  kind="Stage"
                >
                  {stage.name}
                </Item>
              ))}
              <Item value="undo" onSelect={run(() => onStep("undo"))} kind="Command">
                Undo
              </Item>
              <Item value="redo" onSelect={run(() => onStep("redo"))} kind="Command">
                Redo
              </Item>
              <Item value="logbook history" onSelect={run(onLog)} kind="Command">
                Open the logbook
              </Item>
              {house.activities.map((activity) => (
                <Item
                  key={activity.id}
                  value={`activity ${activity.name} #${activity.id}`}
                  onSelect={run(() => go("sequences", { activity: activity.id }))}
                  kind="Activity"
                >
                  {activity.name}
                </Item>
              ))}
              {(house.rooms.find((known) => known.id === room)?.surfaces ?? []).map((surface) => (
                <Item
                  key={surface.id}
                  value={`surface ${surface.name} #${surface.id}`}
                  onSelect={run(() => go("surfaces", { surface: surface.id }))}
                  kind="Surface"
                >
                  {surface.name}
                </Item>
              ))}
              {devices.map((device) => (
                <Item
                  key={device.id}
                  value={`device ${device.name} #${device.id}`}
                  onSelect={run(() => go("kit", { device: device.id }))}
                  kind="Device"
                >
                  {device.name}
                </Item>
              ))}
              {devices.flatMap((device) =>
                profileOf(house, device).functions.map((known) => (
                  <Item
                    key={device.id + known.id}
                    value={`code ${device.name} ${known.name} #${device.id}${known.id}`}
                    onSelect={run(() => go("codes", { device: device.id, function: known.id }))}
                    kind="Code"
                  >
                    {device.name} · {known.name}
                  </Item>
                )),
              )}
            </Command.List>
          </Command>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
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
      <span className="ml-auto text-[13px] text-muted">{props.kind}</span>
    </Command.Item>
  );
}
