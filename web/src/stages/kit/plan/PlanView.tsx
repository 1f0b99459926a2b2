import { useState } from "react";
import { useSearchParams } from "react-router";
import { putOver } from "../../../api/entities";
import { useEdit } from "../../../api/queries";
import { floorOf, opticsOf, placedIn, surfaceOf } from "../../../api/space";
import type { FloorPlan, Placed, Three } from "../../../api/types";
import { deviceName, useRoom } from "../../../shell/context";
import { Choice } from "../../../ui/Choice";
import { ProblemNote } from "../../../ui/Problem";
import { useReach, usePictures } from "./api";
import { CablesPart } from "./CablesPart";
import { Drawing, LEVELS } from "./Drawing";
import { usePlanEdits } from "./edits";
import { FloorForm, RoomSize } from "./FloorForm";
import { GatewaysPart } from "./GatewaysPart";
import { freePlace, footprint, type Point } from "./geometry";
import { PicturePart } from "./PicturePart";
import { PlacedForm } from "./PlacedForm";
import { ReachPart } from "./ReachPart";
import { Section } from "./Section";
import { useFeet } from "./units";

const PARTS = [
  ["reach", "Reach"],
  ["gateways", "Gateways"],
  ["picture", "Picture"],
] as const;

/** The room in space: its plan and its section at one scale, what reaches what, and the picture. */
export function PlanView() {
  const { house, room, devices } = useRoom();
  const { edit, changePlaced, place } = usePlanEdits();
  const [params, setParams] = useSearchParams();
  const [feet, setFeet] = useFeet();
  const [down, setDown] = useState(false);
  const [chosen, setChosen] = useState<string>();
  const [bottomMm, setBottomMm] = useState<number>();
  const [daylight, setDaylight] = useState(false);
  const [look, setLook] = useState<string>();
  const floor = floorOf(house, room);
  const part = params.get("plan") ?? "reach";
  const here = placedIn(house, room, devices);
  const optics = (device: string) => opticsOf(house, device);
  const senders = here.filter((one) => optics(one.device)?.emits);
  const gateway = params.get("gateway") ?? senders[0]?.device;
  const hears = (device: string | undefined) => (device && optics(device)?.hears ? device : undefined);
  const drawnFor =
    hears(chosen) ?? here.find((one) => one.device !== gateway && optics(one.device)?.hears)?.device;
  const reach = useReach(floor ? gateway : undefined, drawnFor, down);
  const pictures = usePictures(bottomMm, look, daylight);
  const picture = pictures.data?.[0];
  const name = (device: string) => deviceName(house, device);

  if (!floor) return <NoPlan />;
  const move = (device: string, to: (own: Placed) => Point) =>
    changePlaced(device, (own) => ({ ...own, at_mm: [...to(own), own.at_mm[2]] }));
  const show = (key: string, value: string) =>
    setParams(
      (old) => {
        old.set(key, value);
        return old;
      },
      { replace: true },
    );
  const selected = here.find((one) => one.device === chosen);
  return (
    <div>
      <div className="mb-2 flex flex-wrap items-center gap-x-5 gap-y-2">
        <div role="group" aria-label="Parts of the plan" className="flex gap-1">
          {PARTS.map(([id, label]) => (
            <button
              key={id}
              type="button"
              aria-pressed={part === id}
              className={`btn ${part === id ? "bg-select" : ""}`}
              onClick={() => show("plan", id)}
            >
              {label}
            </button>
          ))}
        </div>
        {part === "reach" && senders.length > 0 && (
          <>
            <Choice
              label="From which gateway"
              className="w-52"
              value={gateway ?? ""}
              options={senders.map((one) => ({ value: one.device, label: `from ${name(one.device)}` }))}
              onChange={(value) => show("gateway", value)}
            />
            <span className="flex items-center gap-3 text-[13px] text-muted">
              {LEVELS.map(([db, label]) => (
                <span key={db} className="inline-flex items-center gap-1">
                  <span
                    aria-hidden
                    className="h-3.5 w-3.5 border border-edge"
                    style={{ background: `var(--field-${db})` }}
                  />
                  {label}
                </span>
              ))}
            </span>
          </>
        )}
        <label className="flex items-center gap-1.5">
          <input type="checkbox" checked={down} onChange={(event) => setDown(event.target.checked)} />
          Screen down
        </label>
        <label className="ml-auto flex items-center gap-1.5 text-muted">
          <input type="checkbox" checked={feet} onChange={(event) => setFeet(event.target.checked)} />
          feet and inches
        </label>
      </div>
      <div className="grid gap-x-8 gap-y-4 lg:grid-cols-[minmax(0,1fr)_minmax(300px,460px)]">
        <div className="min-w-0 self-start lg:sticky lg:top-2">
          <Drawing
            floor={floor}
            placed={here}
            name={name}
            down={down}
            field={part === "reach" ? reach.data?.field : null}
            lines={part === "reach" ? reach.data?.reach.lines : undefined}
            chosen={chosen}
            onChoose={setChosen}
            onMove={move}
            feet={feet}
          />
          <Section
            floor={floor}
            placed={here}
            name={name}
            surfaceOf={(device) => surfaceOf(house, device)}
            picture={picture}
            down={down || part === "picture"}
            feet={feet}
          />
        </div>
        <div className="min-w-0">
          {part === "reach" && (
            <ReachPart
              reach={reach.data?.reach}
              error={reach.error}
              gateway={gateway}
              senders={senders.length}
              change={changePlaced}
            />
          )}
          {part === "gateways" && <GatewaysPart />}
          {part === "picture" && (
            <PicturePart
              pictures={pictures.data}
              error={pictures.error}
              feet={feet}
              bottomMm={bottomMm}
              onBottom={setBottomMm}
              daylight={daylight}
              onDaylight={setDaylight}
              look={look}
              onLook={setLook}
            />
          )}
          {selected && <PlacedForm key={selected.device} own={selected} feet={feet} change={changePlaced} />}
          <NotPlaced here={here} floor={floor} onPlace={place} />
          <CablesPart feet={feet} />
          <FloorForm feet={feet} />
          {edit.error && <ProblemNote text={edit.error.message} />}
        </div>
      </div>
    </div>
  );
}

/** A room that nobody has drawn yet: its three sides are enough to begin. */
function NoPlan() {
  const { house, room } = useRoom();
  const edit = useEdit(house.house.id);
  const [feet] = useFeet();
  return (
    <section aria-label="No plan yet" className="max-w-2xl border-t border-rule py-4">
      <p className="mb-2">
        This room has no plan. Its length, width and height are enough to begin: then place its devices, and
        what reaches what is worked out. Until then nothing is claimed, and the whole room counts as one
        medium.
      </p>
      <RoomSize
        feet={feet}
        size={[0, 0, 2500]}
        verb="Draw the room"
        onSize={(size_mm) =>
          edit.mutate([putOver(house, { entity: "floor", value: { ...EMPTY, size_mm, room } })])
        }
      />
      {edit.error && <ProblemNote text={edit.error.message} />}
    </section>
  );
}

const EMPTY: FloorPlan = {
  size_mm: [0, 0, 0],
  storey: 0,
  at_mm: [0, 0],
  walls: ["plaster", "plaster", "plaster", "plaster"],
  floor: "wood",
  ceiling: "plaster",
  openings: [],
  seats: [],
  cupboards: [],
  spots: [],
  lamps: [],
  daylight_lux: 0,
};

/** What stands nowhere yet: no claim is made for it. */
function NotPlaced({
  here,
  floor,
  onPlace,
}: {
  here: readonly Placed[];
  floor: FloorPlan;
  onPlace: (own: Placed) => void;
}) {
  const { house, room, devices } = useRoom();
  const left = devices.filter(
    (device) => device.room === room && !here.some((one) => one.device === device.id),
  );
  if (left.length === 0) return null;
  const place = (device: string) => {
    const surface = surfaceOf(house, device);
    const size: Three = surface
      ? [surface.size_mm[0], surface.black_mm ? 120 : 80, surface.black_mm ? 120 : surface.size_mm[1]]
      : [430, 350, 100];
    const own: Placed = {
      id: crypto.randomUUID(),
      device,
      at_mm: [0, 0, 0],
      size_mm: size,
      azimuth_deg: -90,
      elevation_deg: 0,
    };
    const [x, y] = freePlace(floor, here, footprint(own));
    onPlace({ ...own, at_mm: [x, y, Math.min(800, Math.round(floor.size_mm[2] / 2))] });
  };
  return (
    <section aria-label="Not placed" className="mt-4 border-t border-rule pt-2">
      <h3 className="text-[15px]">Not placed</h3>
      <p className="text-[13px] text-muted">No claim is made for what stands nowhere.</p>
      <ul>
        {left.map((device) => (
          <li key={device.id} className="flex items-baseline gap-3 py-0.5">
            <span className="min-w-0 flex-1">{device.name}</span>
            <button
              type="button"
              className="link"
              aria-label={`Place ${device.name}`}
              onClick={() => place(device.id)}
            >
              Place it
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
