import { longDay } from "../ui/when";
import type { HouseView } from "../api/types";
import { STAGES, type StageInfo } from "./stages";

/** A day as papers say it, in the words of the reader's own country. */
const today = () => longDay(new Date());

/** At the head of a paper: which house, room and stage it is of, from which day, and as of which revision. */
export function PaperHead({
  house,
  room,
  stage,
}: {
  house: HouseView;
  room: string;
  stage: StageInfo["id"];
}) {
  const name = house.rooms.find((known) => known.id === room)?.name;
  return (
    <div className="print-block mb-3 border-b border-ink pb-1">
      <p className="text-[18px] font-semibold">
        {house.house.name} · {name} · {STAGES.find((known) => known.id === stage)?.name}
      </p>
      <p>
        {today()}, revision {house.revision}
      </p>
    </div>
  );
}

/** At its foot: whom to ask. */
export function PaperFoot({ house }: { house: HouseView }) {
  const { programmer, name } = house.house;
  const whom = [programmer?.name, programmer?.phone].filter(Boolean).join(", ");
  return (
    <p className="print-block mt-3 border-t border-ink pt-1">
      {name}
      {whom && `. Questions: ${whom}`}
    </p>
  );
}
