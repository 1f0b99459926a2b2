import { Ellipsis } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { useState, type ReactNode } from "react";
import { useNavigate } from "react-router";
import type { ShelfLine } from "../api/types";
import { HouseCard } from "./HouseCard";
import { useCopyHouse, useRemoveHouse } from "./api";

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
      <DropdownMenu.Root>
        <DropdownMenu.Trigger
          className="btn border-transparent px-2"
          aria-label={`What to do with ${house.name}`}
        >
          <Ellipsis aria-hidden size={18} />
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            align="end"
            collisionPadding={8}
            className="z-50 min-w-56 border border-edge bg-paper py-1 text-ink shadow-md"
          >
            <Item onSelect={() => void navigate(`/houses/${house.id}`)}>Open</Item>
            <Item onSelect={() => setCard(true)}>Name, client, programmer …</Item>
            <Item
              onSelect={() => copy.mutate(house.id, { onSuccess: (made) => say(made.said), onError: failed })}
            >
              Duplicate
            </Item>
            <Item onSelect={() => save(false)}>Export without keys</Item>
            <Item onSelect={() => save(true)}>Export with keys and passwords</Item>
            <DropdownMenu.Separator className="my-1 border-t border-rule" />
            <Item
              onSelect={() =>
                remove.mutate(house.id, {
                  onSuccess: () =>
                    say(`${house.name} is removed and kept for thirty days. It can be put back below.`),
                  onError: failed,
                })
              }
            >
              Remove
            </Item>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      {card && <HouseCard house={house.id} onClose={() => setCard(false)} say={say} />}
    </>
  );
}

function Item({ onSelect, children }: { onSelect: () => void; children: ReactNode }) {
  return (
    <DropdownMenu.Item
      onSelect={onSelect}
      className="flex min-h-9 cursor-pointer items-center px-4 outline-none data-[highlighted]:bg-select max-sm:min-h-11"
    >
      {children}
    </DropdownMenu.Item>
  );
}
