import { ChevronDown, ChevronRight } from "lucide-react";
import { put, useEdit } from "../../api/queries";
import type { Device } from "../../api/types";
import { profileOf, useRoom } from "../../shell/context";
import { Choice } from "../../ui/Choice";
import { DeviceForm } from "./DeviceForm";
import { cableName, gapText, MEDIA, outputLabel, powerText, readyText, selectionText } from "./words";

const NOTHING = "nothing";

/** A device in a line; it opens to its form. */
export function KitRow({ device, open, onToggle }: { device: Device; open: boolean; onToggle: () => void }) {
  const { house } = useRoom();
  const profile = profileOf(house, device);
  const ready = readyText(profile);
  return (
    <>
      <tr className={`border-b border-rule align-top ${open ? "bg-soft" : ""}`} data-device={device.id}>
        <td />
        <td className="py-2 pr-3">
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
              <span className="block font-semibold">{device.name}</span>
              <span className="block text-[13px] text-muted">
                {profile.maker} {profile.model}
              </span>
            </span>
          </button>
        </td>
        <td className="py-2 pr-3">{powerText(profile)}</td>
        <td className="py-2 pr-3 whitespace-nowrap">
          {ready.time}
          <span className="block text-[13px] text-muted">{ready.basis}</span>
        </td>
        <td className="py-2 pr-3 whitespace-nowrap">
          {MEDIA.find(([known]) => known === profile.medium)?.[1]}
          <span className="block text-[13px] text-muted">{gapText(profile)} apart</span>
        </td>
        <td className="py-1.5">
          {profile.inputs.length === 0 ? (
            <span className="inline-block py-0.5 text-muted">no inputs</span>
          ) : (
            <Inputs device={device} />
          )}
          {selectionText(profile) && <p className="text-[13px] text-muted">{selectionText(profile)}</p>}
        </td>
      </tr>
      {open && (
        <tr className="border-b border-rule bg-soft">
          <td colSpan={6} className="pb-3 pl-[72px]">
            <DeviceForm key={device.id} device={device} profile={profile} onClose={onToggle} />
          </td>
        </tr>
      )}
    </>
  );
}

/** The inputs of a device, each with the output that is plugged into it. */
function Inputs({ device }: { device: Device }) {
  const { house, say } = useRoom();
  const profile = profileOf(house, device);
  const edit = useEdit(house.house.id);
  const outputs = house.devices
    .filter((known) => known.id !== device.id)
    .flatMap((known) => profileOf(house, known).outputs.map((output) => ({ device: known.id, output })));

  const wire = (input: string, value: string) => {
    const known = house.connections.filter((c) => c.to_device === device.id && c.to_input === input);
    const [first, ...others] = known;
    const [from_device = "", from_output = ""] = value.split(" ");
    const remove = (value === NOTHING ? known : others).map((cable) => ({
      do: "remove" as const,
      kind: "connection" as const,
      id: cable.id,
      base: house.versions[cable.id] ?? 0,
    }));
    const id = first?.id ?? crypto.randomUUID();
    const cable = { id, from_device, from_output, to_device: device.id, to_input: input };
    const change = value === NOTHING ? [] : [put({ entity: "connection", value: cable }, house.versions[id])];
    edit.mutate([...remove, ...change], {
      onSuccess: (saved) => say(saved.title),
      onError: (error) => say(error.message),
    });
  };

  return (
    <ul className="flex flex-col gap-1">
      {profile.inputs.map((input) => {
        const cables = house.connections.filter((c) => c.to_device === device.id && c.to_input === input.id);
        const cable = cables[0];
        const value = cable ? `${cable.from_device} ${cable.from_output}` : NOTHING;
        const fitting = outputs.filter((known) => known.output.cable === input.cable);
        return (
          <li key={input.id} className="grid grid-cols-[84px_1fr] items-center gap-2">
            <span className="truncate" title={`${input.name}, ${cableName(input.cable)}`}>
              {input.name}
            </span>
            <Choice
              label={`What is plugged into ${input.name} of ${device.name}`}
              className={cables.length > 1 ? "border-2 border-stop" : ""}
              value={value}
              disabled={edit.isPending}
              options={[
                { value: NOTHING, label: "nothing" },
                ...fitting.map((known) => ({
                  value: `${known.device} ${known.output.id}`,
                  label: outputLabel(house, known.device, known.output.id),
                })),
              ]}
              onChange={(next) => wire(input.id, next)}
            />
          </li>
        );
      })}
    </ul>
  );
}
