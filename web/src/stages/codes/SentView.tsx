import { useQuery } from "@tanstack/react-query";
import { client, data } from "../../api/client";
import type { CodeBody, Device, IpCommand } from "../../api/types";

/** A code that has no timing: an opaque payload in both forms, or a command with its bytes. */
export function SentView({ code, host }: { code: { body: CodeBody }; host?: string | undefined }) {
  const body = code.body;
  if (body.as === "opaque") return <PayloadView hex={body.payload} sendMs={body.send_ms ?? undefined} />;
  if (body.as === "ip") return <CommandBytes command={body.command} host={host} />;
  return null;
}

/** An opaque payload as hex and as base64. */
export function PayloadView({ hex, sendMs }: { hex: string; sendMs?: number | undefined }) {
  const both = useQuery({
    queryKey: ["payload", hex],
    queryFn: () => data(client.POST("/api/payloads", { body: { text: hex } })),
  });
  return (
    <div className="grid gap-1">
      <p>
        An opaque payload of {both.data?.bytes ?? "…"} bytes: only the gateway that gave it can send it, and
        nothing here can tell which key it is.
        {sendMs
          ? ` One send was measured to last ${sendMs} ms.`
          : " How long a send lasts has not been measured."}
      </p>
      <p className="text-caution">
        Learn the key raw if the remote can be had: then it can be decoded and compared.
      </p>
      <dl className="grid grid-cols-[70px_1fr] gap-x-3">
        <dt className="label">Hex</dt>
        <dd className="font-mono text-[13px] break-all">{(hex.match(/../g) ?? []).join(" ")}</dd>
        <dt className="label">Base64</dt>
        <dd className="font-mono text-[13px] break-all">{both.data?.base64}</dd>
      </dl>
    </div>
  );
}

/** Where a device is spoken to: what an HTTP request names. */
export function hostOf(device: Device): string | undefined {
  return device.network?.drive_at?.trim() || device.network?.ip?.trim() || undefined;
}

/** The bytes of a command on the network, as they are typed. */
export function CommandBytes({ command, host }: { command: IpCommand; host?: string | undefined }) {
  const bytes = useQuery({
    queryKey: ["command", host, JSON.stringify(command)],
    queryFn: () =>
      data(client.POST("/api/commands", { params: { query: host ? { host } : {} }, body: command })),
    placeholderData: (before) => before,
    retry: false,
  });
  if (bytes.error) return <p className="text-stop">{bytes.error.message}</p>;
  if (!bytes.data) return null;
  return (
    <dl className="grid grid-cols-[130px_1fr] gap-x-3" aria-label="Bytes that are sent">
      <dt className="label">Sends {bytes.data.bytes} bytes</dt>
      <dd className="font-mono text-[13px] break-all">{bytes.data.hex}</dd>
      <dt className="label">As text</dt>
      <dd className="font-mono text-[13px] break-all">{bytes.data.text}</dd>
      <dt className="label">Expects back</dt>
      <dd className="font-mono text-[13px] break-all">{bytes.data.expects ?? "nothing"}</dd>
    </dl>
  );
}
