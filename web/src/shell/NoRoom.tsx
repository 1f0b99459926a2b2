import { Undo2 } from "lucide-react";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { useHistoryStep } from "../api/queries";
import type { HouseView } from "../api/types";
import { AddRoom } from "./AddRoom";

/** A house without a room: offers a first one, and the way back to what was removed. */
export function NoRoom({ house }: { house: HouseView }) {
  const navigate = useNavigate();
  const history = useHistoryStep(house.house.id);
  const [said, setSaid] = useState("");
  return (
    <main className="mx-auto mt-10 max-w-2xl px-4">
      <h1 className="text-[19px]">{house.house.name}</h1>
      <AddRoom
        house={house}
        first
        say={setSaid}
        onAdded={(room) => void navigate(`/houses/${house.house.id}/rooms/${room}/kit`)}
      />
      <p className="mt-4 flex flex-wrap gap-4">
        {house.undo && (
          <button type="button" className="link" onClick={() => history.mutate("undo")}>
            <Undo2 aria-hidden size={15} /> Undo: {house.undo.title}
          </button>
        )}
        <Link className="link" to="/">
          Back to the shelf
        </Link>
      </p>
      <p role="status">{history.error?.message ?? said}</p>
    </main>
  );
}
