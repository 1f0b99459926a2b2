import { useState } from "react";
import type { CodeLine, Device, DeviceFunction } from "../../api/types";
import { Tabs } from "../../ui/Tabs";
import { CaptureForm } from "./CaptureForm";
import { CommandForm } from "./CommandForm";
import { OpaqueForm } from "./OpaqueForm";

const KINDS = [
  ["capture", "A capture"],
  ["opaque", "An opaque payload"],
  ["command", "A network command"],
] as const;

/** The place to enter a code: a capture that is read, an opaque payload, or a command. */
export function PasteForm(props: {
  device: Device;
  fn: DeviceFunction;
  lines: CodeLine[];
  onSaved: () => void;
  onCancel: () => void;
}) {
  const [kind, setKind] = useState<string>("capture");
  return (
    <>
      <Tabs label="What is entered" parts={KINDS} value={kind} onChange={setKind} />
      {kind === "capture" && <CaptureForm {...props} />}
      {kind === "opaque" && <OpaqueForm {...props} />}
      {kind === "command" && <CommandForm {...props} />}
    </>
  );
}
