import type { StartingPoint } from "../api/types";
import { Choice } from "../ui/Choice";
import { useStartingPoints } from "./api";

/** What a room begins with, and what stands in it then. */
export function StartChoice({
  label,
  value,
  onChange,
}: {
  label: string;
  value: StartingPoint;
  onChange: (start: StartingPoint) => void;
}) {
  const points = useStartingPoints();
  const about = points.data?.find((known) => known.point === value)?.about;
  return (
    <>
      <Choice
        label={label}
        value={value}
        options={(points.data ?? []).map((known) => ({ value: known.point, label: known.name }))}
        onChange={(start) => onChange(start as StartingPoint)}
      />
      {about && <p className="text-[13px] text-muted">with {about}</p>}
    </>
  );
}
