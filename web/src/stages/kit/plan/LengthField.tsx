import { useState } from "react";
import { lengthOf, lengthText } from "./geometry";

/** A length that is typed: metres, centimetres, or feet and inches. What is no length is said, and nothing is lost. */
export function LengthField({
  label,
  mm,
  feet,
  onMm,
  className = "w-28",
}: {
  label: string;
  mm: number;
  feet: boolean;
  onMm: (mm: number) => void;
  className?: string;
}) {
  const [typed, setTyped] = useState<string>();
  const [wrong, setWrong] = useState(false);
  const keep = () => {
    if (typed === undefined) return;
    const read = lengthOf(typed, feet);
    if (read === undefined) {
      setWrong(true);
      return;
    }
    setWrong(false);
    setTyped(undefined);
    if (read !== mm) onMm(read);
  };
  return (
    <label className="block">
      <span className="label">{label}</span>
      <input
        className={`field ${className}`}
        value={typed ?? lengthText(mm, feet)}
        aria-invalid={wrong}
        onFocus={(event) => event.target.select()}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={keep}
        onKeyDown={(event) => {
          if (event.key === "Enter") {
            event.preventDefault();
            keep();
          }
          if (event.key === "Escape") {
            setTyped(undefined);
            setWrong(false);
          }
        }}
      />
      {wrong && (
        <span role="alert" className="block text-[13px] text-stop">
          That is no length: 2.4 m, 85 cm or 7 ft 10 in.
        </span>
      )}
    </label>
  );
}
