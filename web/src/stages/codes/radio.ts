import type { RadioCode, RadioReading } from "../../api/types";

/** A radio code in words, as the log and the wire log write it. */
export function radioWords(code: RadioCode): string {
  return code.code === "ook-24"
    ? `ook-24 identity=${code.identity} key=${code.key}`
    : `ook-tristate-12 ${code.trits.join("")}`;
}

/** What a radio capture says, how sure that is, and what else it could be. */
export function radioSentence(radio: RadioReading): string {
  const [first, ...others] = radio.candidates.map(radioWords);
  const frames = `${radio.frames} ${radio.frames === 1 ? "frame says" : "frames say"} the same`;
  const strays = radio.strays > 0 ? `, ${radio.strays} did not` : "";
  const also = others.length > 0 ? ` It can also be read as ${others.join(" or ")}.` : "";
  const sure = `${Math.round(radio.confidence * 100)} % sure`;
  const stretched =
    Math.abs(radio.stretch_us) >= 10
      ? `, and the receiver makes pulses ${Math.round(Math.abs(radio.stretch_us))} µs ${radio.stretch_us > 0 ? "longer" : "shorter"}`
      : "";
  // What the frames say is told here already.
  const more = radio.remarks.filter((remark) => !remark.includes("frames say something else")).join(" ");
  return `Read as a fixed radio code, ${first ?? "unknown"}, ${sure}: ${frames}${strays}; its short unit is ${Math.round(radio.unit_us)} µs${stretched}.${more && ` ${more}`}${also}`;
}
