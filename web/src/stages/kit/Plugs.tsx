import { put, useEdit } from "../../api/queries";
import type { Device } from "../../api/types";
import { modelOf, profileOf, useRoom } from "../../shell/context";
import { Choice } from "../../ui/Choice";
import { cableName, outputLabel } from "./words";

const NOTHING = "nothing";

/** The inputs of a device, each with the output that is plugged into it. */
export function Plugs({ device }: { device: Device }) {
  const { house, say } = useRoom();
  const profile = profileOf(house, device);
  const edit = useEdit(house.house.id);
  const outputs = house.devices
    .filter((known) => known.id !== device.id)
    .flatMap((known) => modelOf(house, known).outputs.map((output) => ({ device: known.id, output })));

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
    const same = first?.from_device === from_device && first.from_output === from_output;
    const cable = {
      id,
      from_device,
      from_output,
      to_device: device.id,
      to_input: input,
      return_audio: same ? (first.return_audio ?? false) : false,
    };
    const change = value === NOTHING ? [] : [put({ entity: "connection", value: cable }, house.versions[id])];
    edit.mutate([...remove, ...change], {
      onSuccess: (saved) => say(saved.title),
      onError: (error) => say(error.message),
    });
  };

  return (
    <ul className="flex flex-col gap-1">
      {profile.inputs
        .filter((input) => input.cable !== "return-audio")
        .map((input) => {
          const cables = house.connections.filter(
            (c) => c.to_device === device.id && c.to_input === input.id,
          );
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
