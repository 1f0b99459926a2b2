import { put, useEdit } from "../../api/queries";
import type { Capture, Code, CodeBody, CodeLine, Device, DeviceFunction, Medium } from "../../api/types";
import { useRoom } from "../../shell/context";

/** On what a code is sent. */
export function mediumOf(body: CodeBody): Medium {
  switch (body.as) {
    case "decoded":
      return "ir";
    case "radio":
      return "rf433";
    case "raw":
      return body.medium ?? "ir";
    case "opaque":
      return body.medium;
    case "ip":
      return body.command.kind === "payload" && body.command.transport === "serial" ? "serial" : "ip";
  }
}

/** Saves the code of a function: the one of its medium is replaced, others stay. */
export function useSaveCode(device: Device, fn: DeviceFunction, lines: CodeLine[]) {
  const { house, say } = useRoom();
  const edit = useEdit(house.house.id);
  const save = (body: CodeBody, captured: Capture | null, done: () => void) => {
    const line = lines.find((known) => known.medium === mediumOf(body));
    const value: Code = {
      id: line?.id ?? crypto.randomUUID(),
      device: device.id,
      function: fn.id,
      body,
      captured,
      since: new Date().toISOString(),
    };
    edit.mutate([put({ entity: "code", value }, line ? house.versions[line.id] : undefined)], {
      onSuccess: (saved) => {
        say(saved.title);
        done();
      },
    });
  };
  return { save, error: edit.error, pending: edit.isPending };
}
