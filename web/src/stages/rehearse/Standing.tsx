import { ChevronDown, ChevronRight } from "lucide-react";
import { Fragment } from "react";
import type { RehearsalView } from "../../api/types";
import { functionName, profileOf, useRoom } from "../../shell/context";
import { seconds } from "../../ui/time";
import type { useRehearse } from "./api";
import { Meddle } from "./Meddle";
import { beliefSource, driveWords, faultWords, GESTURE, isNow } from "./words";

const HEADS = ["Device", "Is", "Doing", "The runtime believes", "On the wire"];

/** The devices as they are beside what the runtime believes; a row opens to hands and faults. */
export function Standing({
  view,
  actions,
  open,
  onOpen,
}: {
  view: RehearsalView;
  actions?: ReturnType<typeof useRehearse>;
  /** The device whose row is open. */
  open?: string | undefined;
  onOpen?: (device: string | undefined) => void;
}) {
  const { house, devices } = useRoom();
  return (
    <>
      <h3 className="mt-3 text-[16px]">The room as it stands</h3>
      <div className="scrolls">
        <table className="w-full border-collapse" aria-label="The room as it stands">
          <thead>
            <tr className="border-b border-ink text-[13.5px] text-muted">
              {HEADS.map((head) => (
                <th key={head} scope="col" className="py-1 pr-3 font-medium">
                  {head}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {devices.map((device) => {
              const state = view.devices.find((known) => known.device === device.id);
              if (!state) return null;
              const profile = profileOf(house, device);
              const left = state.busy_until_ms ? Math.max(0, state.busy_until_ms - view.now_ms) : 0;
              const input = profile.inputs.find((known) => known.id === state.input)?.name;
              const marked = profile.inputs.find((known) => known.id === state.marked)?.name;
              const belief = view.beliefs.find((known) => known.device === device.id);
              const drive = view.drives?.find((known) => known.device === device.id);
              const faults = view.faults?.find((known) => known.device === device.id)?.faults;
              const broken = faults ? faultWords(faults) : [];
              const pressed = view.pressed?.findLast((known) => known.device === device.id);
              const isOpen = open === device.id;
              const several = profile.inputs.length > 1 && profile.selection.how !== "none";
              const Chevron = isOpen ? ChevronDown : ChevronRight;
              return (
                <Fragment key={device.id}>
                  <tr
                    className={`border-b border-rule ${belief?.differs ? "bg-soft" : ""}`}
                    data-standing={device.name}
                    data-differs={belief?.differs ?? false}
                  >
                    <th scope="row" className="py-0.5 pr-3 font-semibold">
                      <button
                        type="button"
                        className="flex min-h-8 items-center gap-1 text-left hover:text-accent"
                        aria-expanded={isOpen}
                        onClick={() => onOpen?.(isOpen ? undefined : device.id)}
                      >
                        <Chevron aria-hidden size={14} /> {device.name}
                      </button>
                    </th>
                    <td className="py-1 pr-3">
                      {profile.kind === "keypad"
                        ? !pressed && "nothing pressed"
                        : isNow(state, several ? input : undefined, profile.power.how === "follows")}
                      {marked && <span className="text-muted"> (list at {marked})</span>}
                      {pressed && (
                        <span>
                          “{functionName(house, device.id, pressed.function)}” {GESTURE[pressed.gesture]}
                        </span>
                      )}
                      {state.message && <span className="text-second"> “{state.message}”</span>}
                    </td>
                    <td className="py-1 pr-3 text-muted">
                      {state.doing ? `${state.doing}, ${seconds(left)} left` : "–"}
                    </td>
                    <td className="py-1 pr-3">
                      {belief?.differs && <strong className="text-stop">≠ </strong>}
                      {belief?.text}
                      {belief?.how && (
                        <span className="text-[13px] text-muted"> · {beliefSource(belief)}</span>
                      )}
                    </td>
                    <td className="py-1 text-[13.5px]">
                      {drive && (
                        <span className={drive.silent || drive.held ? "text-stop" : "text-muted"}>
                          {driveWords(drive)}
                        </span>
                      )}
                      {broken.length > 0 && <span className="text-caution"> {broken.join(", ")}</span>}
                      {!drive && broken.length === 0 && "–"}
                    </td>
                  </tr>
                  {isOpen && actions && (
                    <tr className="border-b border-rule">
                      <td colSpan={HEADS.length} className="bg-soft px-3 py-2">
                        <Meddle device={device} state={state} faults={faults} actions={actions} />
                      </td>
                    </tr>
                  )}
                </Fragment>
              );
            })}
          </tbody>
        </table>
      </div>
    </>
  );
}
