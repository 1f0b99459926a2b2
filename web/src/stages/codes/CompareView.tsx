import { useState } from "react";
import { useCode, useTwins } from "../../api/queries";
import type { CodeLine, ReadCode } from "../../api/types";
import { protocolName } from "./protocols";
import { deviceName, useRoom } from "../../shell/context";
import { Choice } from "../../ui/Choice";
import { Waiting } from "../../ui/Waiting";
import { Overlay } from "./Overlay";

/** Codes that resemble this one, and any other code laid over it. */
export function CompareView({ line }: { line: CodeLine }) {
  const { house } = useRoom();
  const version = house.versions[line.id] ?? 0;
  const twins = useTwins(house.house.id, line.id, version);
  const [other, setOther] = useState<string>();
  const second = other ?? twins.data?.[0]?.code;
  const own = useCode(house.house.id, line.id, version);
  const theirs = useCode(house.house.id, second, second ? (house.versions[second] ?? 0) : 0);
  const label = (code: CodeLine) => `${deviceName(house, code.device)} · ${nameOf(house, code)}`;
  const room = house.devices.find((device) => device.id === line.device)?.room;
  const choices = house.codes.filter(
    (code) => code.id !== line.id && house.devices.find((device) => device.id === code.device)?.room === room,
  );
  if (!twins.data) return <Waiting what="its twins" error={twins.error} />;
  return (
    <div className="grid gap-2">
      {twins.data.length === 0 ? (
        <p>No other code of the house is within two bits of it.</p>
      ) : (
        <div className="scrolls">
          <table className="w-full max-w-3xl" aria-label="Near twins">
            <thead>
              <tr className="border-b border-ink text-[13px] text-muted">
                <th scope="col" className="py-1 pr-3">
                  Near twin
                </th>
                <th scope="col" className="pr-3">
                  Code
                </th>
                <th scope="col" className="pr-3 text-right">
                  Bits apart
                </th>
                <th scope="col">Heard by both</th>
              </tr>
            </thead>
            <tbody>
              {twins.data.slice(0, 8).map((twin) => {
                const known = house.codes.find((code) => code.id === twin.code);
                return (
                  <tr key={twin.code} className="border-b border-rule">
                    <td className="py-0.5 pr-3">
                      <button type="button" className="link" onClick={() => setOther(twin.code)}>
                        {known ? label(known) : "a removed code"}
                      </button>
                    </td>
                    <td className="pr-3 font-mono text-[13px]">{twin.summary}</td>
                    <td className="pr-3 text-right font-mono text-[13px]">{twin.bits}</td>
                    <td className={twin.both_hear && twin.bits === 0 ? "text-stop" : "text-muted"}>
                      {twin.both_hear ? (twin.bits === 0 ? "yes: both react" : "yes") : "no"}
                    </td>
                  </tr>
                );
              })}
            </tbody>
          </table>
        </div>
      )}
      <div className="flex flex-wrap items-center gap-2">
        <span className="text-[13px] text-muted">Lay over it</span>
        <Choice
          label="Code to lay over it"
          className="w-72"
          value={second ?? ""}
          onChange={setOther}
          options={choices
            .slice(0, 400)
            .map((code) => ({ value: code.id, label: label(code), hint: code.summary }))}
        />
      </div>
      {own.data?.reading && theirs.data?.reading && (
        <>
          <Overlay one={own.data.reading} other={theirs.data.reading} />
          <Differences one={own.data} other={theirs.data} />
        </>
      )}
      {second && theirs.data && !theirs.data.reading && (
        <p className="text-muted">That code has no timing that could be laid over this one.</p>
      )}
    </div>
  );
}

function nameOf(house: ReturnType<typeof useRoom>["house"], code: CodeLine): string {
  const device = house.devices.find((known) => known.id === code.device);
  const profile = house.profiles.find((known) => known.id === device?.profile);
  return profile?.functions.find((known) => known.id === code.function)?.name ?? "a removed function";
}

/** The fields of both, side by side, those that differ marked. */
function Differences({ one, other }: { one: ReadCode; other: ReadCode }) {
  const [a, b] = [one.reading?.best, other.reading?.best];
  if (!a || !b) return null;
  const names = [...new Set([...Object.keys(a.fields), ...Object.keys(b.fields)])];
  const rows: [string, string, string][] = [
    ["protocol", protocolName(a.protocol), protocolName(b.protocol)],
    ...names.map((name): [string, string, string] => [
      name,
      String(a.fields[name] ?? "–"),
      String(b.fields[name] ?? "–"),
    ]),
    ["mark stretch", `${a.stretch_us.toFixed(0)} µs`, `${b.stretch_us.toFixed(0)} µs`],
    ["worst error", `${a.worst_error_us.toFixed(0)} µs`, `${b.worst_error_us.toFixed(0)} µs`],
  ];
  return (
    <div className="scrolls">
      <table className="w-80" aria-label="Fields of both">
        <tbody>
          {rows.map(([name, left, right]) => (
            <tr key={name} className="border-b border-rule">
              <th scope="row" className="py-0.5 pr-3 font-normal text-muted">
                {name}
              </th>
              <td className="pr-3 text-right font-mono text-[13px]">{left}</td>
              <td className="text-right font-mono text-[13px]">{right}</td>
              <td className="pl-3 text-accent">{left !== right && !name.includes(" ") ? "differs" : ""}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
