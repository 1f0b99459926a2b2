import { useState } from "react";
import { useNavigate } from "react-router";
import type { ShelfLine } from "../api/types";
import { HouseCard } from "./HouseCard";
import { useCopyHouse, useRemoveHouse } from "./api";
import { Menu, MenuItem, MenuLine } from "../ui/Menu";

/** What can be done with a house. */
export function HouseMenu({
  house,
  say,
  fail,
}: {
  house: ShelfLine;
  say: (line: string) => void;
  fail: (line: string) => void;
}) {
  const navigate = useNavigate();
  const copy = useCopyHouse();
  const remove = useRemoveHouse();
  const [card, setCard] = useState(false);
  // The line may be gone from the shelf by the time of the answer, which is told all the same.
  const failed = (error: Error) => fail(error.message);
  const save = (secrets: boolean) => {
    const link = document.createElement("a");
    link.href = `/api/houses/${house.id}/site${secrets ? "?secrets=true" : ""}`;
    link.click();
    say(
      secrets
        ? `${house.name} is saved as a file with its keys: keep it as you would keep those.`
        : `${house.name} is saved as a file, without keys, passwords and accounts.`,
    );
  };
  return (
    <>
      <Menu label={`What to do with ${house.name}`}>
        <MenuItem onSelect={() => void navigate(`/houses/${house.id}`)}>Open</MenuItem>
        <MenuItem onSelect={() => setCard(true)}>Name, client, programmer …</MenuItem>
        <MenuItem onSelect={() => void copy.mutateAsync(house.id).then((made) => say(made.said), failed)}>
          Duplicate
        </MenuItem>
        <MenuItem onSelect={() => save(false)}>Export without keys</MenuItem>
        <MenuItem onSelect={() => save(true)}>Export with keys and passwords</MenuItem>
        <MenuLine />
        <MenuItem
          onSelect={() =>
            void remove
              .mutateAsync(house.id)
              .then(
                () => say(`${house.name} is removed and kept for thirty days. It can be put back below.`),
                failed,
              )
          }
        >
          Remove
        </MenuItem>
      </Menu>
      {card && <HouseCard house={house.id} onClose={() => setCard(false)} say={say} />}
    </>
  );
}
