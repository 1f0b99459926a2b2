import { Plus } from "lucide-react";
import { lazy, Suspense, useRef, useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { usePlan } from "../../api/queries";
import type { Activity, Device } from "../../api/types";
import { useRoom } from "../../shell/context";
import { PARTS } from "../../shell/stages";
import { Choice } from "../../ui/Choice";
import { StageHead } from "../../ui/StageHead";
import { Tabs } from "../../ui/Tabs";
import { Waiting } from "../../ui/Waiting";
import { AddDevice } from "./AddDevice";
import { Addresses } from "./Addresses";
import { Cables } from "./Cables";
import { KitRow } from "./KitRow";
import { ModelsView } from "./ModelsView";
import { RecordsView } from "./RecordsView";
import { Wiring } from "./Wiring";
import { inSignalOrder } from "./words";

const VIEWS = PARTS.kit;

// The drawings are loaded once somebody looks at them.
const PlanView = lazy(() => import("./plan/PlanView").then((part) => ({ default: part.PlanView })));

/** Kit: the devices in the order of the signal, and the cables between them. */
export function KitStage() {
  const { house, room, devices } = useRoom();
  const [params, setParams] = useSearchParams();
  const navigate = useNavigate();
  const [adding, setAdding] = useState(false);
  const view = params.get("view") ?? "devices";
  const body = useRef<HTMLTableSectionElement>(null);
  const open = params.get("device") ?? undefined;

  const order = inSignalOrder(house, devices);
  const activities = house.activities.filter((known) => known.room === room);
  const lit = params.get("activity") ?? activities[0]?.id ?? "off";
  const plan = usePlan(house.house.id, room, "off", lit);
  const path = new Set(
    [...(plan.data?.video ?? []), ...(plan.data?.audio ?? [])].map((hop) => hop.connection),
  );
  const inside = new Set(devices.map((device) => device.id));
  const cables = house.connections.filter(
    (known) => inside.has(known.from_device) || inside.has(known.to_device),
  );

  const select = (device: Device | undefined) => {
    const next = new URLSearchParams(params);
    next.delete("connection");
    next.delete("function");
    if (device) next.set("device", device.id);
    else next.delete("device");
    setParams(next, { replace: true });
  };
  const show = (next: string, select?: Record<string, string>) => {
    const query = new URLSearchParams({ ...(next === "devices" ? {} : { view: next }), ...select });
    const activity = params.get("activity");
    if (activity) query.set("activity", activity);
    setParams(query, { replace: true });
  };
  const light = (activity: string) => {
    const next = new URLSearchParams(params);
    next.set("activity", activity);
    setParams(next, { replace: true });
  };
  /** Opens a device where it is used, which may be another room. */
  const openDevice = (id: string, part?: string) => {
    const device = house.devices.find((known) => known.id === id);
    if (!device) return;
    const here = devices.some((known) => known.id === id);
    const target = here ? room : (device.serves?.[0] ?? device.room);
    const query = new URLSearchParams({ device: id, ...(part ? { part } : {}) });
    void navigate(`/houses/${house.house.id}/rooms/${target}/kit?${query}`);
  };
  const onArrow = (event: React.KeyboardEvent) => {
    if (event.key !== "ArrowDown" && event.key !== "ArrowUp") return;
    const rows = [...(body.current?.querySelectorAll<HTMLElement>("[data-row]") ?? [])];
    const at = rows.findIndex((row) => row === document.activeElement);
    if (at < 0) return;
    event.preventDefault();
    rows[at + (event.key === "ArrowDown" ? 1 : -1)]?.focus();
  };

  return (
    <section aria-label="Kit">
      <StageHead
        title="Kit"
        figure={`${devices.length} ${devices.length === 1 ? "device" : "devices"}, ${cables.length} ${cables.length === 1 ? "cable" : "cables"}`}
      >
        {activities.length > 0 && <PathLit activities={activities} lit={lit} onLight={light} />}
        <button type="button" className="btn btn-main" onClick={() => setAdding(true)}>
          <Plus aria-hidden size={15} /> Add device
        </button>
      </StageHead>
      <Tabs label="Views of the kit" parts={VIEWS} value={view} onChange={(next) => show(next)} />
      {view === "wiring" && <Wiring lit={path} />}
      {view === "addresses" && <Addresses />}
      {view === "records" && <RecordsView onOpen={(device) => openDevice(device, "records")} />}
      {view === "plan" && (
        <Suspense fallback={<Waiting what="the plan" error={null} />}>
          <PlanView />
        </Suspense>
      )}
      {view === "models" && <ModelsView onOpen={(device) => openDevice(device)} />}
      {view !== "devices" ? null : devices.length === 0 ? (
        <p className="border-t border-rule py-6">
          This room is empty. Add the first device: a projector or display, a source, and what makes the sound
          are enough for a first macro.
        </p>
      ) : (
        <div className="scrolls relative overflow-x-auto">
          <Cables body={body} order={order} cables={cables} lit={path} open={open} />
          <table className="w-full min-w-[760px] border-collapse">
            <KitHead />
            <tbody ref={body} onKeyDown={onArrow}>
              {order.map((device) => (
                <KitRow
                  key={device.id}
                  device={device}
                  open={open === device.id}
                  onToggle={() => select(open === device.id ? undefined : device)}
                />
              ))}
            </tbody>
          </table>
        </div>
      )}
      <AddDevice
        open={adding}
        onClose={() => setAdding(false)}
        onAdded={(id) => {
          setAdding(false);
          const next = new URLSearchParams(params);
          next.set("device", id);
          setParams(next, { replace: true });
        }}
      />
    </section>
  );
}

/** The activity whose signal path is lit. */
function PathLit({
  activities,
  lit,
  onLight,
}: {
  activities: Activity[];
  lit: string;
  onLight: (activity: string) => void;
}) {
  return (
    <div className="flex items-center gap-2">
      <span className="text-[13px] text-muted">Path lit</span>
      <Choice
        label="Activity whose path is lit"
        className="w-44"
        value={lit}
        options={activities.map((known) => ({ value: known.id, label: known.name }))}
        onChange={onLight}
      />
    </div>
  );
}

/** The columns of the kit. */
function KitHead() {
  return (
    <thead>
      <tr className="border-b border-ink text-[13.5px] text-muted">
        <th scope="col" className="w-[72px] py-1 font-medium max-md:hidden">
          Cables
        </th>
        <th scope="col" className="standing py-1 pr-3 font-medium">
          Device
        </th>
        <th scope="col" className="py-1 pr-3 font-medium">
          Power
        </th>
        <th scope="col" className="py-1 pr-3 font-medium">
          Usable after
        </th>
        <th scope="col" className="py-1 pr-3 font-medium">
          Commands
        </th>
        <th scope="col" className="w-[38%] py-1 font-medium">
          Inputs, and what is plugged in
        </th>
      </tr>
    </thead>
  );
}
