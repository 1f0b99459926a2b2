import type { PageCommand } from "./Palette";
import type { Theme } from "./theme";

/** The commands of the whole page, for the list that finds everything. */
export function pageCommands(can: {
  house: string;
  theme: Theme;
  step: (kind: "undo" | "redo") => void;
  open: (what: "log" | "rooms" | "keys") => void;
  shelf: () => void;
  onTheme: () => void;
  onMargin: () => void;
}): PageCommand[] {
  return [
    { name: "Undo", run: () => can.step("undo") },
    { name: "Redo", run: () => can.step("redo") },
    { name: "Open the logbook", run: () => can.open("log") },
    { name: "Rooms of the house: add, move, remove", run: () => can.open("rooms") },
    { name: "Go to the shelf: other houses, import a file, backup", run: can.shelf },
    {
      name: "Export this house as a file, without keys",
      run: () => window.location.assign(`/api/houses/${can.house}/site`),
    },
    { name: "Print what is on the table", run: () => window.print() },
    { name: can.theme === "dark" ? "Paper" : "Dark room", run: can.onTheme },
    { name: "Show or fold the margin", run: can.onMargin },
    { name: "List of keys", run: () => can.open("keys") },
  ];
}
