import type { Programmer } from "../api/types";

/** Whom to call where something is wrong; a telephone dials it. */
export function Whom({ programmer }: { programmer: Programmer }) {
  const { name, phone } = programmer;
  if (!name && !phone) return null;
  return (
    <span className="whitespace-nowrap">
      Call {name || "whoever set up the room"}
      {phone && (
        <>
          {name ? ", " : ": "}
          <a
            className="link"
            href={`tel:${phone.replace(/[^+\d]/g, "")}`}
            onClick={(event) => event.stopPropagation()}
          >
            {phone}
          </a>
        </>
      )}
      .
    </span>
  );
}
