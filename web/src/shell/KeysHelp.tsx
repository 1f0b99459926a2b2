import { Sheet } from "../ui/Sheet";

const KEYS: readonly [string, string][] = [
  ["1 2 3 6", "Kit, Codes, Sequences, Rehearse"],
  ["[  ]", "previous and next room"],
  ["Ctrl K", "find a device, a function, an activity or a command"],
  ["Ctrl Z", "undo"],
  ["Ctrl Shift Z", "redo"],
  ["↑ ↓ ← →", "move in a table"],
  ["Enter", "open what is marked"],
  ["Esc", "close what is open"],
  ["L", "learn: paste a capture for the marked cell (Codes)"],
  ["T", "send once (Codes)"],
  ["R", "rehearse"],
  ["M", "show or fold the margin"],
  ["?", "this list"],
];

/** The list of keys. */
export function KeysHelp({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Sheet open={open} onClose={onClose} title="Keys">
      <table className="w-full">
        <tbody>
          {KEYS.map(([key, what]) => (
            <tr key={key} className="border-b border-rule">
              <th scope="row" className="w-36 py-1.5 font-mono text-[13px] font-medium">
                {key}
              </th>
              <td className="py-1.5">{what}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Sheet>
  );
}
