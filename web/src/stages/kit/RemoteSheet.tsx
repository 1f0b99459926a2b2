import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, data } from "../../api/client";
import type { Checks, Medium } from "../../api/types";
import { Choice } from "../../ui/Choice";
import { Sheet } from "../../ui/Sheet";

const YES_NO = [
  { value: "unknown", label: "not tried" },
  { value: "yes", label: "yes" },
  { value: "no", label: "no" },
];

const LABELS = [
  { value: "unknown", label: "not read yet" },
  { value: "0", label: "names no frequency" },
  { value: "433.92", label: "433 MHz" },
  { value: "315", label: "315 MHz" },
  { value: "868.3", label: "868 MHz" },
  { value: "2400", label: "2.4 GHz" },
];

const answer = (value: string): boolean | null => (value === "unknown" ? null : value === "yes");

/** What is this remote? Three checks that need no instrument, and what follows. */
export function RemoteSheet({
  open,
  onClose,
  onTake,
}: {
  open: boolean;
  onClose: () => void;
  onTake: (medium: Medium) => void;
}) {
  const [hand, setHand] = useState("unknown");
  const [camera, setCamera] = useState("unknown");
  const [label, setLabel] = useState("unknown");
  const checks: Checks = {
    works_through_hand: answer(hand),
    camera_shows: answer(camera),
    label_mhz: label === "unknown" ? null : Number(label),
  };
  const conclusion = useQuery({
    queryKey: ["remote", hand, camera, label],
    queryFn: () => data(client.POST("/api/remotes", { body: checks })),
    enabled: open,
    placeholderData: (before) => before,
  });
  const said = conclusion.data;
  const medium: Medium | undefined =
    said?.kind === "infrared"
      ? "ir"
      : said?.kind === "radio433"
        ? "rf433"
        : said?.kind === "bluetooth"
          ? "bluetooth"
          : undefined;
  return (
    <Sheet open={open} onClose={onClose} title="What is this remote?">
      <div className="grid gap-3">
        <div>
          <p>1. Cover its front with a hand and press a key. Does the device still react?</p>
          <Choice
            label="Works through a hand"
            className="w-44"
            value={hand}
            onChange={setHand}
            options={YES_NO}
          />
        </div>
        <div>
          <p>2. Point it at the camera of a telephone and hold a key. Does the camera show a flicker?</p>
          <Choice
            label="The camera shows it"
            className="w-44"
            value={camera}
            onChange={setCamera}
            options={YES_NO}
          />
        </div>
        <div>
          <p>3. Which frequency is on its label, on the back or in the battery compartment?</p>
          <Choice
            label="Frequency on its label"
            className="w-44"
            value={label}
            onChange={setLabel}
            options={LABELS}
          />
        </div>
        {said && (
          <div role="status" className="border-l-4 border-second bg-soft px-3 py-2">
            <p className="font-semibold">
              {NAMES[said.kind]}
              {said.kind !== "unknown" && (said.certain ? "" : ", probably")}
            </p>
            <p>{said.why}</p>
            <p className="mt-1">{said.next}</p>
          </div>
        )}
        <div className="flex gap-2">
          {medium && (
            <button type="button" className="btn btn-main" onClick={() => onTake(medium)}>
              Note it as a control path
            </button>
          )}
          <button type="button" className="btn" onClick={onClose}>
            Close
          </button>
        </div>
      </div>
    </Sheet>
  );
}

const NAMES = {
  infrared: "Infrared",
  radio433: "Radio at 433 MHz",
  "radio-other": "Radio at another frequency",
  bluetooth: "Bluetooth",
  both: "Infrared and radio",
  unknown: "Not known yet",
} as const;
