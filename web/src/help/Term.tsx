import { Popover } from "radix-ui";
import { TERMS } from "./terms";

/** A term, explained where it stands. */
export function Term({ name, children }: { name: string; children?: string }) {
  const meaning = TERMS[name];
  if (!meaning) return <>{children ?? name}</>;
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button type="button" className="underline decoration-dotted underline-offset-3 hover:text-accent">
          {children ?? name}
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          sideOffset={4}
          collisionPadding={8}
          className="z-50 max-w-72 border border-edge bg-paper p-3 text-[14px] text-ink shadow-md"
        >
          <p>
            <span className="font-semibold">{name}</span>: {meaning}
          </p>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/** A text in which [terms] are explained; “[word|term]” explains another word. */
export function Explained({ text }: { text: string }) {
  return text.split(/(\[[^\]]+\])/).map((part, at) => {
    const inner = /^\[([^\]]+)\]$/.exec(part)?.[1];
    if (!inner) return part;
    const [word = "", term = word] = inner.split("|");
    return (
      <Term key={at} name={term}>
        {word}
      </Term>
    );
  });
}
