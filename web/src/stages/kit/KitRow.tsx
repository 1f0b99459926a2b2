import { ChevronDown, ChevronRight } from "lucide-react";
import { useState } from "react";
import { useSearchParams } from "react-router";
import type { Device } from "../../api/types";
import { profileOf, roomName, useRoom } from "../../shell/context";
import { Tabs } from "../../ui/Tabs";
import { Machine } from "./Machine";
import { ControlPaths } from "./ControlPaths";
import { DeviceForm } from "./DeviceForm";
import { DeviceRecords } from "./DeviceRecords";
import { Plugs } from "./Plugs";
import { gapText, mediumName, powerText, readyText, selectionText, usedMedium } from "./words";
import { NotSaved } from "../../ui/NotSaved";
import { useShown } from "../../ui/shown";

const PARTS = [
  ["behaviour", "Behaviour"],
  ["machine", "Press its keys"],
  ["control", "Control paths"],
  ["records", "Address and records"],
] as const;

/** A device in a line; it opens to what is known of it. */
export function KitRow({ device, open, onToggle }: { device: Device; open: boolean; onToggle: () => void }) {
  const { house, room } = useRoom();
  const [params, setParams] = useSearchParams();
  const [part, setPart] = useState<string>(params.get("part") ?? "behaviour");
  const head = useShown<HTMLTableRowElement>(open);
  const profile = profileOf(house, device);
  const ready = readyText(profile);
  const medium = usedMedium(profile, device);
  const elsewhere = device.room !== room ? `stands in ${roomName(house, device.room)}` : undefined;
  const shared = (device.serves?.length ?? 0) > 1 ? `serves ${device.serves?.length} rooms` : undefined;
  const copied = (id: string) => {
    const next = new URLSearchParams(params);
    next.set("device", id);
    setParams(next, { replace: true });
  };
  return (
    <>
      <tr
        ref={head}
        className={`border-b border-rule align-top ${open ? "bg-soft" : ""}`}
        data-device={device.id}
      >
        <td className="max-md:hidden" />
        <td className="standing py-2 pr-3">
          <button
            type="button"
            data-row
            aria-expanded={open}
            className="flex min-h-8 items-start gap-1 text-left"
            onClick={onToggle}
          >
            {open ? (
              <ChevronDown aria-hidden size={16} className="mt-0.5" />
            ) : (
              <ChevronRight aria-hidden size={16} className="mt-0.5" />
            )}
            <span>
              <span className="block font-semibold">
                {device.name}
                <NotSaved of={[`device:${device.id}`]} />
              </span>
              <span className="block text-[13px] text-muted">
                {profile.maker} {profile.model}
                {(device.overrides?.length ?? 0) > 0 && " *"}
              </span>
              {(elsewhere ?? shared) && (
                <span className="block text-[13px] text-second">
                  {[elsewhere, shared].filter(Boolean).join(", ")}
                </span>
              )}
            </span>
          </button>
        </td>
        <td className="py-2 pr-3">{powerText(profile)}</td>
        <td className="py-2 pr-3 whitespace-nowrap">
          {ready.time}
          <span className="block text-[13px] text-muted">{ready.basis}</span>
        </td>
        <td className="py-2 pr-3 whitespace-nowrap">
          {medium ? mediumName(medium) : "–"}
          <span className="block text-[13px] text-muted">
            {medium ? `${gapText(profile)} apart` : "nothing reaches it"}
          </span>
        </td>
        <td className="py-1.5">
          {profile.inputs.length === 0 ? (
            <span className="inline-block py-0.5 text-muted">no inputs</span>
          ) : (
            <Plugs device={device} />
          )}
          {selectionText(profile) && <p className="text-[13px] text-muted">{selectionText(profile)}</p>}
        </td>
      </tr>
      {open && (
        <tr className="border-b border-rule bg-soft">
          <td colSpan={6} className="pb-3 md:pr-3 md:pl-[72px]" data-opened>
            <div className="max-md:sticky max-md:left-0 max-md:w-[calc(100vw-40px)]">
              <Tabs label={`What is known of ${device.name}`} parts={PARTS} value={part} onChange={setPart} />
              {part === "behaviour" && (
                <DeviceForm key={device.id} device={device} onClose={onToggle} onCopied={copied} />
              )}
              {part === "machine" && <Machine key={device.id} device={device} />}
              {part === "control" && <ControlPaths key={device.id} device={device} />}
              {part === "records" && <DeviceRecords key={device.id} device={device} />}
            </div>
          </td>
        </tr>
      )}
    </>
  );
}
