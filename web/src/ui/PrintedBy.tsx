import type { HouseView } from "../api/types";

/** At the foot of a paper: which house it is of, and whom to ask. Seen on paper only. */
export function PrintedBy({ house }: { house: HouseView }) {
  const { name, programmer } = house.house;
  const whom = [programmer?.name, programmer?.phone].filter(Boolean).join(", ");
  return (
    <span className="print-only text-[13px]">
      {name}
      {whom && `. Questions: ${whom}`}
    </span>
  );
}
