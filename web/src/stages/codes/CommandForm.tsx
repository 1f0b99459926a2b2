import { useQuery } from "@tanstack/react-query";
import { client, data } from "../../api/client";
import type { CodeLine, Device, DeviceFunction, IpCommand } from "../../api/types";
import { Choice } from "../../ui/Choice";
import { ProblemNote } from "../../ui/Problem";
import { CommandBytes, hostOf } from "./SentView";
import { useSaveCode } from "./useSaveCode";
import { forget, useTyped } from "../../ui/draft";

type Payload = Extract<IpCommand, { kind: "payload" }>;

const KINDS = [
  ["payload", "Text or bytes"],
  ["http", "HTTP request"],
  ["wake-on-lan", "Wake-on-LAN"],
  ["pjlink", "PJLink, class 1"],
] as const;

const CHECKSUMS: readonly Payload["checksum"][] = [
  "none",
  "sum-8",
  "xor-8",
  "crc-8/smbus",
  "crc-8/i-432-1",
  "crc-8/rohc",
  "crc-16/arc",
  "crc-16/modbus",
  "crc-16/kermit",
  "crc-16/xmodem",
];

interface HttpParts {
  verb: "GET" | "POST" | "PUT";
  path: string;
  body: string;
}

/** A choice under its label. */
function pick<T extends string>(
  label: string,
  value: T,
  options: readonly (readonly [T, string])[],
  change: (value: T) => void,
) {
  return (
    <div>
      <span className="label">{label}</span>
      <Choice
        label={label}
        value={value}
        onChange={(next) => change(next as T)}
        options={options.map(([known, name]) => ({ value: known, label: name }))}
      />
    </div>
  );
}

/** What a command begins with. */
const NO_PAYLOAD: Payload = {
  kind: "payload",
  transport: "tcp",
  form: "text",
  text: "",
  terminator: "cr",
  checksum: "none",
  expect: "",
};
const NO_REQUEST: HttpParts = { verb: "GET", path: "/", body: "" };

/** A command on the network or a serial line, with its bytes previewed. */
export function CommandForm({
  device,
  fn,
  lines,
  onSaved,
  onCancel,
}: {
  device: Device;
  fn: DeviceFunction;
  lines: CodeLine[];
  onSaved: () => void;
  onCancel: () => void;
}) {
  const draft = `command:${device.id} ${fn.id}`;
  const [kind, setKind] = useTyped<IpCommand["kind"]>(`${draft}:kind`, "payload");
  const [payload, setPayload] = useTyped<Payload>(`${draft}:payload`, NO_PAYLOAD);
  const [http, setHttp] = useTyped<HttpParts>(`${draft}:http`, NO_REQUEST);
  const [mac, setMac] = useTyped(`${draft}:mac`, device.network?.mac ?? "");
  const [pjlink, setPjlink] = useTyped(`${draft}:pjlink`, "POWR 1");
  const { save, error, pending } = useSaveCode(device, fn, lines);
  const ready = useQuery({
    queryKey: ["pjlink"],
    queryFn: () => data(client.GET("/api/commands/pjlink")),
    enabled: kind === "pjlink",
  });
  const command: IpCommand =
    kind === "payload"
      ? { ...payload, expect: payload.expect ? payload.expect : null }
      : kind === "http"
        ? { kind, ...http }
        : kind === "wake-on-lan"
          ? { kind, mac }
          : { kind: "pjlink", command: pjlink };
  const set = (part: Partial<Payload>) => setPayload({ ...payload, ...part });
  return (
    <form
      noValidate
      className="grid max-w-4xl gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        save({ as: "ip", command }, null, () => {
          forget(draft);
          onSaved();
        });
      }}
    >
      <div className="grid grid-cols-2 gap-3 md:grid-cols-4">
        {pick("Kind of command", kind, KINDS, setKind)}
        {kind === "payload" && <PayloadParts payload={payload} set={set} />}
        {kind === "http" &&
          pick(
            "Verb",
            http.verb,
            [
              ["GET", "GET"],
              ["POST", "POST"],
              ["PUT", "PUT"],
            ],
            (verb) => setHttp({ ...http, verb }),
          )}
        {kind === "pjlink" &&
          pick(
            "Ready-made",
            ready.data?.find((known) => known.command.kind === "pjlink" && known.command.command === pjlink)
              ?.name ?? "",
            (ready.data ?? []).map((known) => [known.name, known.name] as const),
            (name) => {
              const found = ready.data?.find((known) => known.name === name)?.command;
              if (found?.kind === "pjlink") setPjlink(found.command);
            },
          )}
      </div>
      <CommandLines
        kind={kind}
        payload={payload}
        set={set}
        http={http}
        setHttp={setHttp}
        mac={mac}
        setMac={setMac}
        pjlink={pjlink}
        setPjlink={setPjlink}
      />
      {kind === "payload" && payload.text === "" ? (
        <p className="text-muted">Type what the device wants to hear; its bytes are shown here.</p>
      ) : (
        <CommandBytes command={command} host={hostOf(device)} />
      )}
      {error && <ProblemNote text={error.message} />}
      <div className="flex gap-2">
        <button type="submit" className="btn btn-main" disabled={pending}>
          Save command
        </button>
        <button type="button" className="btn" onClick={onCancel}>
          Cancel
        </button>
      </div>
    </form>
  );
}

function Line({
  label,
  value,
  onChange,
  focus = false,
}: {
  label: string;
  value: string;
  onChange: (value: string) => void;
  focus?: boolean;
}) {
  return (
    <label>
      <span className="label">{label}</span>
      <input
        className="field font-mono text-[13px]"
        spellCheck={false}
        autoComplete="off"
        autoFocus={focus}
        value={value}
        onChange={(event) => onChange(event.target.value)}
      />
    </label>
  );
}

/** How text or bytes travel, are written, closed and checked. */
function PayloadParts({ payload, set }: { payload: Payload; set: (part: Partial<Payload>) => void }) {
  return (
    <>
      <>
        {pick(
          "Travels by",
          payload.transport,
          [
            ["tcp", "TCP"],
            ["udp", "UDP"],
            ["serial", "serial line"],
          ],
          (transport) => set({ transport }),
        )}
        {pick(
          "Written as",
          payload.form,
          [
            ["text", "text with escapes"],
            ["hex", "hex bytes"],
          ],
          (form) => set({ form }),
        )}
        {pick(
          "Closed by",
          payload.terminator,
          [
            ["none", "nothing"],
            ["cr", "CR"],
            ["lf", "LF"],
            ["cr-lf", "CR LF"],
          ],
          (terminator) => set({ terminator }),
        )}
        {pick(
          "Checked by",
          payload.checksum,
          CHECKSUMS.map((name) => [name, name === "none" ? "nothing" : name] as const),
          (checksum) => set({ checksum }),
        )}
      </>
    </>
  );
}

/** What is typed for each kind of command. */
function CommandLines({
  kind,
  payload,
  set,
  http,
  setHttp,
  mac,
  setMac,
  pjlink,
  setPjlink,
}: {
  kind: IpCommand["kind"];
  payload: Payload;
  set: (part: Partial<Payload>) => void;
  http: HttpParts;
  setHttp: (http: HttpParts) => void;
  mac: string;
  setMac: (mac: string) => void;
  pjlink: string;
  setPjlink: (command: string) => void;
}) {
  return (
    <>
      {kind === "payload" && (
        <div className="grid grid-cols-2 gap-3">
          <Line
            label={
              payload.form === "hex"
                ? "Bytes, such as 02 50 4F 4E 03"
                : "Text; \\r \\n \\t \\0 \\\\ and \\xHH are bytes"
            }
            value={payload.text}
            onChange={(text) => set({ text })}
            focus
          />
          <Line
            label="It should answer (empty: nothing)"
            value={payload.expect ?? ""}
            onChange={(expect) => set({ expect })}
          />
        </div>
      )}
      {kind === "http" && (
        <div className="grid grid-cols-2 gap-3">
          <Line label="Path" value={http.path} onChange={(path) => setHttp({ ...http, path })} focus />
          <Line label="Body" value={http.body} onChange={(body) => setHttp({ ...http, body })} />
        </div>
      )}
      {kind === "wake-on-lan" && <Line label="MAC address" value={mac} onChange={setMac} focus />}
      {kind === "pjlink" && (
        <Line
          label="Command: four letters, a blank, the parameter"
          value={pjlink}
          onChange={setPjlink}
          focus
        />
      )}
    </>
  );
}
