import type { Candidate, RadioReading, Reading } from "../../api/types";
import { protocolName } from "./protocols";
import { radioSentence } from "./radio";
import { Waveform } from "./Waveform";

/** What a capture says: the fields, how well they fit, and the waveform with the reading over it. */
export function ReadingView({
  reading,
  radio,
  lead,
}: {
  reading: Reading;
  radio?: RadioReading | undefined;
  lead?: string;
}) {
  const best = reading.best ?? undefined;
  return (
    <div>
      <p className="mb-1">
        {best ? (
          reading.why
        ) : radio ? (
          radioSentence(radio)
        ) : (
          <span className="text-caution">{reading.why}</span>
        )}{" "}
        {lead && <span className="text-muted">{lead}</span>}
      </p>
      {best && <Facts best={best} />}
      <Waveform reading={reading} known={radio !== undefined} />
      <ul className="mt-1 text-[13px] text-muted">
        {[...(best?.remarks ?? []), ...reading.cleaned.removed].map((remark) => (
          <li key={remark}>{remark}</li>
        ))}
        {reading.candidates.slice(1).map((other) => (
          <li key={other.protocol}>
            Also possible: {protocolName(other.protocol)}, confidence {Math.round(other.confidence * 100)} %.
          </li>
        ))}
      </ul>
    </div>
  );
}

function Facts({ best }: { best: Candidate }) {
  const signed = (value: number, digits: number) => {
    const text = Math.abs(value).toFixed(digits);
    return Number(text) === 0 ? text : `${value < 0 ? "−" : "+"}${text}`;
  };
  const frames = best.frames_matched + best.held_signs;
  const facts: [string, string, string?][] = [
    ["Protocol", protocolName(best.protocol)],
    ...Object.entries(best.fields).map(([name, value]): [string, string] => [
      name,
      `${value} (0x${value.toString(16).toUpperCase()})`,
    ]),
    [
      "Confidence",
      `${Math.round(best.confidence * 100)} %`,
      "How far the worst duration is from reading differently",
    ],
    ["Mark stretch", `${signed(best.stretch_us, 0)} µs`, "By how much the receiver lengthened marks"],
    ["Clock", `${signed(best.unit_error_percent, 1)} %`, "How much slower (+) or faster (−) the sender runs"],
    ["Worst error", `${best.worst_error_us.toFixed(0)} µs`, "Of any bit, stretch and clock taken out"],
    ["Frames", `${frames} of ${best.frames_total}`],
  ];
  return (
    <dl className="mb-1 flex flex-wrap gap-x-5 gap-y-1">
      {facts.map(([name, value, why]) => (
        <div key={name} title={why}>
          <dt className="label">{name}</dt>
          <dd className="font-mono text-[13.5px]">{value}</dd>
        </div>
      ))}
    </dl>
  );
}
