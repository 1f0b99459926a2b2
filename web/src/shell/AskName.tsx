import { useState } from "react";
import { setWho, whoAmI } from "../api/client";

const ASKED = "kestrel-asked-who";

/** Asks once under which name the changes of this browser stand in the logbook. */
export function AskName() {
  const [open, setOpen] = useState(() => whoAmI() === "" && localStorage.getItem(ASKED) === null);
  const [name, setName] = useState("");
  if (!open) return null;
  const close = (answer: string) => {
    if (answer) setWho(answer);
    localStorage.setItem(ASKED, "yes");
    setOpen(false);
  };
  return (
    <form
      aria-label="Your name"
      className="flex flex-wrap items-center gap-2 border-t border-rule px-[18px] py-1.5"
      onSubmit={(event) => {
        event.preventDefault();
        close(name.trim());
      }}
    >
      <label className="flex items-center gap-2">
        <span className="max-md:hidden">Under which name shall your changes stand in the logbook?</span>
        <span className="md:hidden">Your name</span>
        <input
          className="field w-44 max-md:w-28"
          value={name}
          maxLength={80}
          onChange={(event) => setName(event.target.value)}
        />
      </label>
      <button type="submit" className="btn btn-main" disabled={name.trim() === ""}>
        Keep
      </button>
      <button type="button" className="link" onClick={() => close("")}>
        Not now: write “someone”
      </button>
    </form>
  );
}
