import { useRef, type ReactNode } from "react";

/** A button that asks for a file; the same file can be chosen again. */
export function FileButton({
  label,
  accept,
  onFile,
  disabled = false,
  className = "",
  children,
}: {
  /** What the file is, for those who do not see the button's place. */
  label: string;
  accept: string;
  onFile: (file: File) => void;
  disabled?: boolean;
  className?: string;
  children: ReactNode;
}) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <input
        ref={input}
        type="file"
        className="sr-only"
        tabIndex={-1}
        aria-label={label}
        accept={accept}
        onChange={(event) => {
          const chosen = event.target.files?.[0];
          if (chosen) onFile(chosen);
          event.target.value = "";
        }}
      />
      <button
        type="button"
        className={`btn ${className}`}
        disabled={disabled}
        onClick={() => input.current?.click()}
      >
        {children}
      </button>
    </>
  );
}
