import { Sheet } from "../ui/Sheet";

const KEYS: readonly [string, string][] = [
  ["1 2 3 4 5 6", "Kit, Codes, Sequences, Cues, Surfaces, Rehearse"],
  ["[  ]", "previous and next room"],
  ["G", "the shelf: all houses"],
  ["Ctrl K", "find anything of the house, and every command"],
  ["Ctrl Z", "undo"],
  ["Ctrl Shift Z", "redo"],
  ["↑ ↓ ← →", "move in a table"],
  ["Enter", "open what is marked"],
  ["Esc", "close what is open"],
  ["L", "learn the handset of the marked device; in an open function, enter its code (Codes)"],
  ["Space", "while learning: press the key on the handset stand-in"],
  ["Enter", "while learning: keep what was heard and go on"],
  ["D A S", "while learning: discard, press again, skip"],
  ["T", "send once, and write down what it proves (Codes)"],
  ["Shift ↑ ↓ ← →", "move a key on its grid (Surfaces)"],
  ["Delete", "take the marked key away (Surfaces)"],
  ["R", "rehearse"],
  ["M", "show or fold the margin"],
  ["?", "this list"],
];

/** The list of keys. */
export function KeysHelp({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Sheet open={open} onClose={onClose} title="Keys">
      <div className="scrolls">
        <table className="w-full">
          <tbody>
            {KEYS.map(([key, what]) => (
              <tr key={key} className="border-b border-rule">
                <th scope="row" className="w-36 py-0.5 font-mono text-[13px] font-medium">
                  {key}
                </th>
                <td className="py-0.5">{what}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </Sheet>
  );
}
