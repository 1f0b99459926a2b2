import type { NextStep } from "../api/types";
import { useRoom } from "./context";

/** The next step of a young room, and the way to it. Gone when a first plan can be sent. */
export function NextLine({ next, stage }: { next: NextStep; stage: string }) {
  const { go } = useRoom();
  return (
    <p className="no-print mb-2 flex flex-wrap items-center gap-x-3 border-b border-dashed border-edge pb-1.5 text-[13.5px]">
      <span className="font-mono text-muted">
        {next.step} of {next.of}
      </span>
      <span>{next.text}</span>
      {(stage !== next.stage || next.device) && (
        <button
          type="button"
          className="link"
          onClick={() => go(next.stage, next.device ? { device: next.device } : undefined)}
        >
          Show me
        </button>
      )}
    </p>
  );
}
